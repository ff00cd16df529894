"""Plans with rules of every kind: skipping is every tick, and C is plain Python."""

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from tests.core.engine.rule_trials import START_MS, rule_trials

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.engine.scans import in_python
from aldea.core.plan.check_rules import rule_problems

pytestmark = pytest.mark.repeats

QUICK = (Phase.explicit, Phase.reuse, Phase.generate)  # a shrunk plan of this size takes minutes


def ways(trial, *engines):
    """All that comes out of a trial, by each engine."""
    plan, samples, inputs, boots, end_ms = trial
    compiled = compile_plan(plan, every_probe=True)
    for engine in engines:
        run = run_replay(
            compiled, samples, start_ms=START_MS, end_ms=end_ms, inputs=inputs, boots=boots,
            **engine,
        )  # fmt: skip
        yield {part: getattr(run, part).tolist() for part in ("rows", "lines", "writes", "cells")}


@settings(max_examples=120, suppress_health_check=list(HealthCheck), phases=QUICK)
@given(rule_trials())
def test_skipping_is_every_tick(trial):
    first, second = ways(trial, {}, {"skipping": False})
    assert first == second


@settings(max_examples=12, suppress_health_check=list(HealthCheck), phases=QUICK)
@given(rule_trials())
def test_c_does_what_the_source_does(trial):
    first, second = ways(trial, {}, {"scans": in_python})
    assert first == second


@settings(max_examples=30, suppress_health_check=list(HealthCheck), phases=QUICK)
@given(rule_trials())
def test_what_a_check_refuses_in_them_is_only_what_they_lack(trial):
    """Contacts of a trial are no probes of its plan; nothing else is found wrong."""
    for problem in rule_problems(trial[0]):
        assert problem.got in ("'door'", "'sensed'"), str(problem)
