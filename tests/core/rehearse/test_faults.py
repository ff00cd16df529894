"""What is put into a replay on purpose: each fault does what its name says, and nothing else."""

import numpy as np
import pytest
from tests.core.plans import one_band

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.conditions import Contact, InWindow
from aldea.core.plan.document import Probe, Rule, Stuck
from aldea.core.plan.schedules import Schedule, Window
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.faults import Faults, as_brought, as_sampled
from aldea.core.rehearse.rehearsal import quality_spans, rehearse
from aldea.core.rehearse.trial import AFTER_MS, USUAL_MS, Trial, trial_at

HOUR = 3_600_000
DAY_0 = 1_762_992_000_000  # midnight UTC
END = DAY_0 + 24 * HOUR
DOOR = Probe.model_validate(
    {**one_band().probes[0].model_dump(), "id": "door", "quantity": "position",
     "range": {"low": 0, "high": 1}}
)  # fmt: skip


def swinging(every_ms: int = 60_000) -> Trace:
    """A humidity that swings once in four hours, 40 to 80 %RH."""
    t_ms = np.arange(DAY_0, END, every_ms, dtype=np.int64)
    turns = 2 * np.pi * (t_ms - DAY_0) / (4 * HOUR)
    raw = np.full(len(t_ms), 60.0)
    raw += 20 * np.sin(turns)
    return Trace(t_ms=t_ms, raw=raw)


def opening() -> Trace:
    """A door that opens and shuts every hour."""
    t_ms = np.arange(DAY_0, END, HOUR, dtype=np.int64)
    return Trace(t_ms=t_ms, raw=np.where(np.arange(len(t_ms)) % 2, 1.0, 0.0))


def plan(**wanted):
    base = one_band(stale_after_s=300.0, **wanted)
    night = Schedule(id="night", name="Night", windows=(Window(start="20:00", end="06:00"),))
    rules = (
        Rule(id="shut", load="fan", priority="interlock", want="off",
              condition=Contact(probe="door", closed=True)),
        Rule(id="night", load="fan", priority="schedule", want="on",
              condition=InWindow(schedule="night")),
    )  # fmt: skip
    return base.model_copy(
        update={
            "probes": (*base.probes, DOOR),
            "rules": (*rules, *base.rules),
            "schedules": (night,),
        }
    )


def done(faults: Faults, **wanted):
    return rehearse(
        plan(**wanted), {"rh": swinging(), "door": opening()},
        start_ms=DAY_0, end_ms=END, faults=faults,
    )  # fmt: skip


def qualities(faults: Faults, **wanted) -> list[tuple[float, str]]:
    spans = quality_spans(done(faults, **wanted), "rh")
    return [((from_ms - DAY_0) / HOUR, quality) for from_ms, _, quality in spans]


def test_without_a_fault_all_is_as_it_is_recorded():
    compiled = compile_plan(plan())
    traces = {"rh": swinging(), "door": opening()}
    samples = as_sampled(compiled, traces, Faults())
    rh = samples.probe == compiled.probe_ids.index("rh")
    assert np.array_equal(samples.value[rh], traces["rh"].raw)
    brought = as_brought(compiled, traces, Faults())
    assert [level for _, _, level in brought.levels] == [0, 1] * 12
    assert not brought.clock
    assert not brought.cuts
    assert not Faults()


@pytest.mark.parametrize(
    ("faults", "wanted", "after"),
    [
        (Faults(silences=(("rh", DAY_0 + 2 * HOUR, DAY_0 + 3 * HOUR),)), {}, "stale"),
        (Faults(beyond=(("rh", DAY_0 + 2 * HOUR, DAY_0 + 3 * HOUR),)), {}, "range"),
        (
            Faults(stuck=(("rh", DAY_0 + 2 * HOUR, DAY_0 + 3 * HOUR),)),
            {"stuck": Stuck(after_s=600.0, band=0.0)},
            "stuck",
        ),
    ],
)
def test_a_probe_is_judged_by_its_fault_and_good_again_after_it(faults, wanted, after):
    found = qualities(faults, **wanted)
    assert [quality for _, quality in found] == [after]
    assert 2.0 <= found[0][0] <= 2.0 + 0.25
    (span,) = quality_spans(done(faults, **wanted), "rh")
    assert DAY_0 + 3 * HOUR <= span[1] <= DAY_0 + 3 * HOUR + 300_000


def test_a_stuck_probe_keeps_what_it_last_read():
    compiled = compile_plan(plan())
    faults = Faults(stuck=(("rh", DAY_0 + HOUR, DAY_0 + 2 * HOUR),))
    samples = as_sampled(compiled, {"rh": swinging()}, faults)
    within = (samples.t_ms >= DAY_0 + HOUR) & (samples.t_ms < DAY_0 + 2 * HOUR)
    before = samples.value[samples.t_ms < DAY_0 + HOUR][-1]
    assert set(samples.value[within]) == {before}
    assert qualities(faults) == [], "nothing watches for it"


def test_a_contact_that_stands_still_holds_its_level_and_is_right_again():
    faults = Faults(contacts=(("door", DAY_0 + 2 * HOUR + 1, DAY_0 + 5 * HOUR + HOUR // 2, 1),))
    compiled = compile_plan(plan())
    levels = as_brought(compiled, {"door": opening()}, faults).levels
    inside = [((t - DAY_0) / HOUR, level) for t, _, level in levels if t < DAY_0 + 8 * HOUR]
    assert [(round(t, 3), level) for t, level in inside] == [
        (0, 0), (1, 1), (2, 0), (2, 1), (5.5, 1), (6, 0), (7, 1),
    ]  # fmt: skip


def test_without_the_clock_no_window_is_on():
    span = (DAY_0 + 2 * HOUR, DAY_0 + 3 * HOUR)
    for faults, on in ((Faults(), True), (Faults(clocks=(span,)), False)):
        found = done(faults)
        rules = {
            row.rule
            for event in found.run.events()
            if event.event_type == lay.EVENT_LOAD and span[0] <= event.t_ms < span[1]
            for row in [found.compiled.rule_rows[event.decider]]
        }
        assert ("night" in rules) == on


def test_a_part_sees_what_fails_of_its_own_and_what_fails_of_all():
    span = (DAY_0, DAY_0 + 1)
    faults = Faults(
        silences=(("a", *span), ("b", *span)), stuck=(("b", *span),), beyond=(("a", *span),),
        contacts=(("b", *span, 1),), clocks=(span,), cuts=(span,),
    )  # fmt: skip
    assert faults.seen_by(("a",), ("one",)) == Faults(
        silences=(("a", *span),), beyond=(("a", *span),), clocks=(span,), cuts=(span,)
    )


def test_a_trial_begins_while_the_load_runs_and_ends_long_before_the_record():
    stretches = done(Faults()).stretches["fan"]
    trial = trial_at(stretches, "silent", "fan", ("rh",), at_ms=END, end_ms=END)
    assert trial.to_ms - trial.from_ms == USUAL_MS
    assert trial.to_ms + AFTER_MS <= END
    assert any(s.state and s.start_ms <= trial.from_ms < s.end_ms for s in stretches)
    dark = Trial(what="dark", load="fan", probes=(), from_ms=DAY_0, to_ms=DAY_0 + 1000).faults
    assert dark.cuts == ((DAY_0, DAY_0 + 1000),)
    assert dark.clocks == ((DAY_0, DAY_0 + 1000 + USUAL_MS),)
    closed = Trial(what="closed", load="fan", probes=("door",), from_ms=1, to_ms=2).faults
    assert closed.contacts == (("door", 1, 2, 1),)
