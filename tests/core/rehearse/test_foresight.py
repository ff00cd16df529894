"""What changes a load next: certain by clocks and hands, likely by readings."""

import numpy as np
import pytest
from tests.core.plans import one_band

from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.compiling.names import RuleRow
from aldea.core.engine.replay import run_replay
from aldea.core.engine.session import Session
from aldea.core.engine.tables.rows import column
from aldea.core.plan.conditions import Beyond, InWindow
from aldea.core.plan.document import Rule, Stuck
from aldea.core.plan.schedules import Moments, Schedule, Window
from aldea.core.readings.trace import Trace
from aldea.core.rehearse import foresight
from aldea.core.rehearse.ahead import Ahead, HangsOn
from aldea.core.rehearse.as_before import as_before, quiet_for, waits_before
from aldea.core.rehearse.foresight import Standing

HOUR = 3_600_000
DAY_0 = 1_762_992_000_000  # midnight UTC
DAYS = 4
NOW = DAY_0 + DAYS * MS_PER_DAY + 20 * HOUR  # 20:00


def standing(plan, traces, *, start_ms, at_ms):
    return foresight.standing(compile_plan(plan), traces, start_ms=start_ms, at_ms=at_ms)


def daily(low: float, high: float) -> Trace:
    """Every ten minutes: `high` from 06:00 to 09:00, `low` for the rest of each day."""
    t_ms = np.arange(DAY_0, NOW + 1, 600_000, dtype=np.int64)
    hour = (t_ms % MS_PER_DAY) / HOUR
    return Trace(t_ms=t_ms, raw=np.where((hour >= 6) & (hour < 9), high, low))


def plan(*rules: Rule, **wanted):
    base = one_band(stale_after_s=1800.0, **wanted)
    schedules = (
        Schedule(id="night", name="Night", windows=(Window(start="22:00", end="06:00"),)),
        Schedule(id="noon", name="Noon", moments=(Moments(at=("12:00",)),), for_s=600.0),
    )
    return base.model_copy(update={"rules": (*rules, *base.rules), "schedules": schedules})


def window(schedule: str, want: str = "on") -> Rule:
    condition = InWindow(schedule=schedule)
    return Rule.model_validate(
        {"id": "timed", "load": "fan", "priority": "schedule", "want": want, "condition": condition}
    )


def next_of(now: Standing) -> tuple[Ahead, RuleRow]:
    """The next change of the fan, and what decides it then."""
    ahead = now.ahead["fan"]
    assert ahead is not None
    assert ahead.decided_by is not None
    return ahead, ahead.decided_by


def test_what_a_clock_does_is_certain():
    now = standing(plan(window("night")), {"rh": daily(40, 45)}, start_ms=DAY_0, at_ms=NOW)
    ahead, decider = next_of(now)
    assert (ahead.t_ms, ahead.state) == (NOW + 2 * HOUR, 1)
    assert ahead.hangs_on is HangsOn.NOTHING
    assert decider.rule == "timed"


def test_a_clock_is_certain_only_where_nothing_stronger_reads():
    """A trip over the schedule could speak; one under it could not."""
    hot = Beyond(kind="above", probe="rh", value=74.0, hysteresis=1.0)
    for priority, hangs_on in (("trip", HangsOn.STRONGER), ("demand", HangsOn.NOTHING)):
        other = Rule.model_validate(
            {"id": "hot", "load": "fan", "priority": priority, "want": "off", "condition": hot}
        )
        made = plan(other, window("night"))
        ahead, _ = next_of(standing(made, {"rh": daily(40, 45)}, start_ms=DAY_0, at_ms=NOW))
        assert (ahead.t_ms, ahead.hangs_on) == (NOW + 2 * HOUR, hangs_on), priority


@pytest.mark.parametrize("days", [1, DAYS])
def test_what_reads_a_probe_is_never_certain_whatever_the_record_is(days):
    """With one day of record the usual is the held: both runs agree, and still a probe decides."""
    trace = daily(75, 75)
    late = trace.t_ms >= NOW - days * MS_PER_DAY
    made = plan(window("night", "off"))
    known = {"rh": Trace(t_ms=trace.t_ms[late], raw=trace.raw[late])}
    in_the_night = NOW + 3 * HOUR
    longer = Trace(
        t_ms=np.append(known["rh"].t_ms, in_the_night), raw=np.append(known["rh"].raw, 75.0)
    )
    ahead, decider = next_of(
        standing(made, {"rh": longer}, start_ms=NOW - days * MS_PER_DAY, at_ms=in_the_night)
    )
    assert (ahead.state, decider.rule) == (1, "band"), "the window ends, the band takes over"
    assert (ahead.t_ms, ahead.hangs_on) == (NOW + 10 * HOUR, HangsOn.STEADY)


def test_idle_is_certain_only_where_no_rule_reads():
    base = plan(window("night"))
    alone = base.model_copy(update={"rules": base.rules[:1]})
    for made, hangs_on in ((base, HangsOn.STEADY), (alone, HangsOn.NOTHING)):
        now = standing(made, {"rh": daily(40, 45)}, start_ms=DAY_0, at_ms=NOW + 3 * HOUR)
        ahead = now.ahead["fan"]
        assert ahead is not None
        assert (ahead.t_ms, ahead.state) == (NOW + 10 * HOUR, 0)
        assert ahead.hangs_on is hangs_on


def test_what_readings_usually_do_is_likely_and_comes_at_its_usual_time():
    now = standing(plan(), {"rh": daily(40, 75)}, start_ms=DAY_0, at_ms=NOW)
    ahead, decider = next_of(now)
    assert ahead.hangs_on is HangsOn.USUAL
    assert ahead.state == 1
    usual = DAY_0 + (DAYS + 1) * MS_PER_DAY + 6 * HOUR
    assert abs(ahead.t_ms - usual) <= HOUR // 2
    assert decider.rule == "band"


def test_where_nothing_will_change_nothing_is_foreseen():
    now = standing(plan(), {"rh": daily(40, 45)}, start_ms=DAY_0, at_ms=NOW)
    assert now.ahead["fan"] is None


def test_a_silent_probe_stays_silent_and_its_fault_comes_unless_it_speaks():
    trace = daily(70, 70)
    cut = Trace(t_ms=trace.t_ms[:-1], raw=trace.raw[:-1])
    silent = (
        one_band(stale_after_s=600.0)
        .loads[0]
        .on_sensor_fault.model_copy(update={"after_s": 3600.0, "state": "off"})
    )
    now = standing(plan(on_sensor_fault=silent), {"rh": cut}, start_ms=DAY_0, at_ms=NOW + HOUR // 2)
    ahead, decider = next_of(now)
    assert now.states["fan"] == 1
    assert (ahead.state, ahead.hangs_on) == (0, HangsOn.STEADY)
    assert decider.probe == "rh"
    assert ahead.t_ms == int(cut.t_ms[-1]) + HOUR, "an hour after the last good reading"


def test_a_reading_that_is_held_is_not_held_stuck():
    stuck = plan(window("noon", "off"), stuck=Stuck(after_s=1800.0, band=0.0))
    trace = daily(70, 75)
    moving = Trace(t_ms=trace.t_ms, raw=trace.raw + 0.2 * (np.arange(len(trace.t_ms)) % 2))
    now = standing(stuck, {"rh": moving}, start_ms=DAY_0, at_ms=NOW)
    ahead, decider = next_of(now)
    assert (ahead.state, decider.rule) == (0, "timed")
    assert ahead.t_ms == NOW + 16 * HOUR


@pytest.mark.parametrize("hours", [0.0, 3.2, 11.0, 19.5])
def test_it_stands_as_the_replay_does(hours):
    """States, who is active and what holds, against a run that ends at the instant."""
    hot = Rule(
        id="hot", load="fan", priority="trip", want="off",
        condition=Beyond(kind="above", probe="rh", value=74.0, hysteresis=1.0),
    )  # fmt: skip
    made = plan(hot, window("night"))
    at_ms = DAY_0 + MS_PER_DAY + round(hours * HOUR)
    trace = daily(40, 75)
    now = standing(made, {"rh": trace}, start_ms=DAY_0, at_ms=at_ms)
    samples = Trace(t_ms=trace.t_ms, raw=trace.raw).samples()
    run = run_replay(now.compiled, samples, start_ms=DAY_0, end_ms=at_ms + 1000)
    last = [e for e in run.events() if e.event_type == 0][-1]
    assert now.states["fan"] == last.state_to
    stands = {stand.row.rule: stand for stand in now.rules["fan"] if stand.row.rule}
    assert stands["hot"].tripped == (hours >= 0), "it tripped on the first morning"
    assert stands["timed"].active == (hours < 6 or hours >= 22)
    assert now.holds(stands["hot"].node) == (6 <= hours < 9)


@pytest.mark.parametrize("hours", [0.51, 5.77, 14.3, 20.0, 44.9])
def test_what_is_shown_is_of_the_instant_and_not_of_the_last_switching(hours):
    """The value, the quality and every condition are what a walk through every scan has."""
    t_ms = np.arange(DAY_0, NOW + 1, 60_000, dtype=np.int64)
    wave = 58.0 + 8.0 * np.sin((t_ms - DAY_0) / HOUR / 3.7)
    made, traces = plan(window("night")), {"rh": Trace(t_ms=t_ms, raw=wave)}
    at_ms = DAY_0 + round(hours * HOUR / 1000) * 1000
    now = standing(made, traces, start_ms=DAY_0, at_ms=at_ms)
    last = traces["rh"].at(at_ms)
    assert last is not None
    assert now.values[0] == pytest.approx(last[1])
    assert now.good_ms["rh"] == last[0]
    compiled = compile_plan(made)
    whole = Session(
        compiled,
        start_ms=DAY_0,
        end_ms=at_ms + 1000,
        samples=0,
        levels=0,
        known=traces["rh"].between(DAY_0, at_ms + 1).samples(),
    )
    whole.advance(at_ms + 1000, skipping=False)
    walked = column(whole.state.conditions, "now")
    assert now.conditions.tolist() == walked.tolist()
    assert now.values.tolist() == column(whole.state.signals, "value").tolist()


def regular(lasts_min: list[int]) -> np.ndarray:
    """A load that goes on at 10:00 each day and off so many minutes later."""
    rows = []
    for day, minutes in enumerate(lasts_min):
        on_ms = DAY_0 + day * MS_PER_DAY + 10 * HOUR
        rows += [(on_ms, 0, 1), (on_ms + minutes * 60_000, 1, 0)]
    return np.array(rows, dtype=np.int64)


def test_what_is_announced_spans_what_the_days_before_took():
    """At 11:00 it has run for an hour; before it ran 90 to 150 minutes: 30 to 90 are left, and so
    on around that time of the day."""
    lasts = [90, 150, 120, 110, 130, 100, 140]
    at_ms = DAY_0 + 7 * MS_PER_DAY + 11 * HOUR
    changes = np.vstack((regular(lasts), [[at_ms - HOUR, 0, 1]]))
    waits = waits_before(changes, start_ms=DAY_0, at_ms=at_ms) // 60_000
    assert waits.min() >= 90 - 60 - 40
    assert waits.max() == 150 - 60 + 40
    assert len(waits) == 7 * 5 - sum(length <= 60 + 40 for length in lasts) - sum(
        length <= 60 + 20 for length in lasts
    )
    usual = Ahead(t_ms=at_ms, state=0, decided_by=None, hangs_on=HangsOn.USUAL)
    told = as_before(usual, waits * 60_000, at_ms, MS_PER_DAY)
    assert told is not None
    assert at_ms <= told.early_ms < at_ms + 40 * 60_000
    assert told.early_ms % 300_000 == told.late_ms % 300_000 == 0, "to five minutes"
    assert at_ms + 80 * 60_000 < told.late_ms <= at_ms + 130 * 60_000


def test_a_record_too_young_tells_nothing_of_the_days_before():
    at_ms = DAY_0 + MS_PER_DAY + 11 * HOUR
    changes = np.vstack((regular([90]), [[at_ms - HOUR, 0, 1]]))
    waits = waits_before(changes, start_ms=DAY_0, at_ms=at_ms)
    assert quiet_for(waits, MS_PER_DAY) == 0
    usual = Ahead(t_ms=at_ms, state=0, decided_by=None, hangs_on=HangsOn.USUAL)
    told = as_before(usual, waits, at_ms, MS_PER_DAY)
    assert told is not None
    assert told.hangs_on is HangsOn.HELD
    certain = Ahead(t_ms=at_ms, state=0, decided_by=None, hangs_on=HangsOn.NOTHING)
    assert as_before(certain, waits, at_ms, MS_PER_DAY) == certain


def test_nothing_is_foreseen_for_less_than_the_shortest_of_the_days_before():
    waits = np.array([100, 60, 90] * 4, dtype=np.int64) * 60_000
    assert quiet_for(waits, MS_PER_DAY) == 54 * 60_000
    assert quiet_for(waits, 30 * 60_000) == 30 * 60_000
