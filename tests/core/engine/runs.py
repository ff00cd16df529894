"""Running a small plan by every engine, and what came out."""

from typing import Any

from tests.core.plans import one_band, returning, samples_of

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import Run, run_replay
from aldea.core.engine.scans import in_python
from aldea.core.plan.document import Plan, Rule

ENGINES: dict[str, dict[str, Any]] = {
    "compiled, skipping": {},
    "compiled, every tick": {"skipping": False},
    "plain, skipping": {"scans": in_python},
    "plain, every tick": {"scans": in_python, "skipping": False},
}


def switches(run: Run) -> list[tuple[float, str]]:
    return [
        (e.t_ms / 1000, "on" if e.state_to else "off")
        for e in run.events()
        if e.event_type == lay.EVENT_LOAD and e.state_from != e.state_to
    ]


def replayed(plan, pairs, *, end_s, cuts=(), **engine) -> Run:
    return run_replay(
        compile_plan(plan),
        samples_of(pairs),
        start_ms=0,
        end_ms=round(end_s * 1000),
        cuts=[(round(a * 1000), round(b * 1000)) for a, b in cuts],
        **engine,
    )


def several(*, probes: int, bands: list[tuple[int, int]], policy: str = "follow_rules") -> Plan:
    """Probes p0, p1 …; rules c0, c1 … with a band each, by (load, probe); marks 60 and 50."""
    base = one_band(power_return=returning(policy))
    rule, load, probe = base.rules[0], base.loads[0], base.probes[0]
    loads = sorted({load for load, _ in bands}) or [0]
    return base.model_copy(
        update={
            "probes": tuple(probe.model_copy(update={"id": f"p{p}"}) for p in range(probes)),
            "loads": tuple(load.model_copy(update={"id": f"l{row}"}) for row in loads),
            "rules": tuple(
                Rule(
                    id=f"c{row}",
                    load=f"l{load}",
                    condition=rule.band.model_copy(update={"probe": f"p{probe}"}),
                )
                for row, (load, probe) in enumerate(bands)
            ),
        }
    )
