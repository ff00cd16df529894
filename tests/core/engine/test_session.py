"""A session in pieces is one run; it can stand again where it stood."""

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from tests.core.engine.rule_trials import START_MS, rule_trials

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.engine.session import Session

pytestmark = pytest.mark.repeats

QUICK = (Phase.explicit, Phase.reuse, Phase.generate)


@settings(max_examples=60, suppress_health_check=list(HealthCheck), phases=QUICK)
@given(rule_trials(), st.lists(st.integers(1, 400), min_size=1, max_size=5))
def test_a_session_in_pieces_is_the_run_of_the_whole(trial, steps):
    """Rules of every kind; samples come in piece by piece, after what came before was done."""
    plan, samples, inputs, boots, end_ms = trial
    if inputs.cuts or inputs.clock:
        return  # nobody sets its clock
    compiled = compile_plan(plan, every_probe=True)
    whole = run_replay(
        compiled, samples, start_ms=START_MS, end_ms=end_ms, inputs=inputs, boots=boots
    )
    session = Session(
        compiled,
        start_ms=START_MS,
        end_ms=end_ms,
        samples=len(samples.t_ms),
        levels=0,
        inputs=inputs,
        boots=boots,
    )
    at, row, turn = START_MS, 0, 0
    while at < end_ms:
        to_ms = min(end_ms, at + steps[turn % len(steps)] * compiled.period_ms)
        while row < len(samples.t_ms) and samples.t_ms[row] < to_ms:
            if samples.t_ms[row] >= START_MS:
                session.sample(
                    int(samples.t_ms[row]), int(samples.probe[row]), float(samples.value[row])
                )
            row += 1
        session.advance(to_ms)
        at, turn = to_ms, turn + 1
    done = session.run()
    assert done.rows.tolist() == whole.rows.tolist()
    assert done.lines.tolist() == whole.lines.tolist()
    assert done.writes.tolist() == whole.writes.tolist()


@settings(max_examples=25, suppress_health_check=list(HealthCheck), phases=QUICK)
@given(rule_trials())
def test_what_stood_again_goes_on_as_it_did_before(trial):
    plan, samples, inputs, boots, end_ms = trial
    if boots or inputs.cuts:
        return
    compiled = compile_plan(plan, every_probe=True)
    session = Session(
        compiled, start_ms=START_MS, end_ms=end_ms, samples=4, levels=0, known=samples,
        inputs=inputs,
    )  # fmt: skip
    begin = session.moment()
    half = START_MS + (end_ms - START_MS) // 2 // compiled.period_ms * compiled.period_ms
    session.advance(half)
    moment = session.moment()
    session.advance(end_ms)
    first = session.run().rows.tolist()
    session.back_to(moment)
    if len(compiled.probe_ids):
        later = np.array([half, half + 1000])
        session.samples(later, np.zeros(2, dtype=np.int64), np.array([99.0, 1.0]))
        session.advance(end_ms)
        session.back_to(moment)
    session.advance(end_ms)
    assert session.run().rows.tolist() == first
    session.back_to(begin)
    session.advance(end_ms)
    assert session.run().rows.tolist() == first, "also from its very begin"
