"""What a load's line on the rail says, from replays in which each reason comes up."""

import pytest
from tests.core.engine.runs import several
from tests.core.plans import one_band, returning, samples_of

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.document import OnSensorFault
from aldea.core.rehearse.stretches import stretch_at, stretches_of
from aldea.core.words.reasons import load_words


def words_at(plan, readings, at_s, *, cuts=(), end_s=1000, load=0):
    run = run_replay(
        compile_plan(plan), samples_of(readings), start_ms=0, end_ms=end_s * 1000, cuts=cuts
    )
    stretch = stretch_at(stretches_of(run, load), at_s * 1000)
    assert stretch is not None
    return load_words(stretch, load=plan.loads[load], plan=plan)


def test_a_band_says_the_mark_that_it_reached_and_where_it_lets_go():
    words = words_at(one_band(), [(0, 40), (60, 61.5), (120, 55)], 130)
    assert words.state == "On"
    assert words.decided_by == "demand"
    assert words.why == "On since 00:01: it reached the on threshold 60 %RH (61.5). Off at 50."
    assert words.next_change == "no further change in this replay"


def test_a_falling_band_fell_to_its_mark():
    plan = one_band(direction="falling", on_threshold=40.0, off_threshold=45.0)
    why = words_at(plan, [(0, 60), (60, 39)], 70).why
    assert why == "On since 00:01: it fell to the on threshold 40 %RH (39.0). Off at 45."


def test_a_reading_inside_the_gap_is_not_said_to_have_reached_the_mark():
    """Over the mark during its rest between runs, inside the gap when that was over."""
    plan = one_band(min_off_s=100.0)
    readings = [(0, 70), (10, 40), (20, 70), (100, 55)]
    why = words_at(plan, readings, 120).why
    assert why == (
        "On since 00:01:50: it reached the on threshold 60 %RH (before; 55.0 then). Off at 50."
    )


def test_rest_says_since_when_and_where_the_band_asks_again():
    words = words_at(one_band(), [(0, 70), (60, 49.5), (600, 61)], 70)
    assert words.decided_by == "default state"
    assert words.why == "Off since 00:01 (49.5 %RH then). Starts again at 60 %RH."
    assert words.next_change == "On at 00:10"


def test_rest_speaks_of_the_band_that_asked_last():
    plan = several(probes=2, bands=[(0, 0), (0, 1)])
    second = plan.rules[1]
    plan = plan.model_copy(
        update={
            "rules": (
                plan.rules[0],
                second.model_copy(
                    update={"condition": second.band.model_copy(update={"on_threshold": 77.0})}
                ),
            )
        }
    )
    samples = samples_of([(0, 40), (10, 80), (20, 45)])
    samples.probe[:] = [0, 1, 1]
    run = run_replay(compile_plan(plan), samples, start_ms=0, end_ms=60_000)
    stretch = stretch_at(stretches_of(run, 0), 30_000)
    assert stretch is not None
    why = load_words(stretch, load=plan.loads[0], plan=plan).why
    assert why == "Off since 00:00:20 (45.0 %RH then). Starts again at 77 %RH."


def test_nobody_asks_where_there_is_no_rule():
    assert words_at(several(probes=1, bands=[]), [], 5).why == "No rule requests it."


@pytest.mark.parametrize(("after_s", "lasting"), [(0.0, ""), (120.0, " for 2 min")])
def test_a_fault_names_its_probe_and_no_time_of_nothing(after_s, lasting):
    plan = one_band(stale_after_s=30.0, on_sensor_fault=OnSensorFault(after_s=after_s, state="off"))
    words = words_at(plan, [(0, 70)], 200)
    assert words.decided_by == "sensor fault"
    assert words.why == f"RH has had no valid reading{lasting}: the plan sets off then."


@pytest.mark.parametrize(
    ("figures", "readings", "at_s", "said", "why"),
    [
        (
            {"min_on_s": 300.0},
            [(0, 70), (60, 40)],
            70,
            "default state, delayed by min on",
            "It stays on for its minimum on time of 5 min.",
        ),
        (
            {"min_off_s": 300.0},
            [(0, 70), (60, 40), (70, 70)],
            80,
            "demand, delayed by min off",
            "It stays off for its minimum off time of 5 min.",
        ),
    ],
)
def test_an_inhibit_says_what_it_is_and_how_long(figures, readings, at_s, said, why):
    words = words_at(one_band(**figures), readings, at_s)
    assert (words.decided_by, words.why) == (said, why)


def test_after_a_cut_the_wait_is_named_and_not_a_mark_that_nobody_hears():
    plan = one_band(power_return=returning("off"))
    words = words_at(plan, [(0, 70), (65, 55), (300, 70)], 320, cuts=[(30_000, 60_000)])
    assert words.decided_by == "default state, delayed by return off"
    assert words.why == (
        "Off since the power cut: stays off until the reading has passed the off threshold 50 %RH."
    )


def test_the_wait_after_the_return_and_the_dark():
    plan = one_band(power_return=returning("follow_rules", 45.0))
    readings = [(0, 70), (61, 70)]
    dark = words_at(plan, readings, 40, cuts=[(30_000, 60_000)])
    assert (dark.state, dark.why) == ("Dark", "No power since 00:00:30.")
    waiting = words_at(plan, readings, 70, cuts=[(30_000, 60_000)])
    assert waiting.why == "It stays off for its wait after the power cut of 45 s."
