"""Random plans through a library of the engine: python -m tests.native.sanitized LIBRARY COUNT."""

import sys
from pathlib import Path

from hypothesis import HealthCheck, Phase, given, settings
from tests.core.engine.rule_trials import START_MS, rule_trials
from tests.core.engine.trials import trials

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.native.engine import scans_of


def main() -> None:
    """Half of them with rules of every kind, skipping and not; half with bands and cuts."""
    scans, count = scans_of(Path(sys.argv[1])), int(sys.argv[2])
    seen = []
    how = settings(
        max_examples=count,
        suppress_health_check=list(HealthCheck),
        deadline=None,
        database=None,
        phases=(Phase.generate,),
    )

    @how
    @given(rule_trials())
    def with_rules(trial):
        plan, samples, inputs, boots, end_ms = trial
        compiled = compile_plan(plan, every_probe=True)
        for skipping in (True, False):
            run_replay(
                compiled, samples, start_ms=START_MS, end_ms=end_ms, inputs=inputs, boots=boots,
                traced=True, skipping=skipping, scans=scans,
            )  # fmt: skip
        seen.append(plan)

    @how
    @given(trials())
    def with_bands(trial):
        plan, samples, end_ms, cuts = trial
        run_replay(compile_plan(plan), samples, start_ms=0, end_ms=end_ms, cuts=cuts, scans=scans)
        seen.append(plan)

    with_rules()
    with_bands()
    print(f"no finding in {len(seen)}")


if __name__ == "__main__":
    main()
