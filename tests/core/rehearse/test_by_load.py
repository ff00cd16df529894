"""Load by load is what the whole plan does: the same events, and no more hangs on a load."""

import json

import numpy as np
import pytest
from hypothesis import HealthCheck, given, reject, settings
from hypothesis import strategies as st
from tests.core.engine.runs import several
from tests.core.engine.trials import trials

from aldea.core.base.errors import PlanError
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.conditions import Beyond, InMode, Named, NamedCondition
from aldea.core.plan.document import Plan, Rule
from aldea.core.plan.house_rules import Mode, ModeChange
from aldea.core.plan.text import read_plan
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.by_load import run_of_all
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.load_parts import LoadPart, load_parts
from aldea.core.rehearse.rehearsal import Rehearsal, as_recorded, rehearse
from aldea.core.words.reasons import load_words
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import START_MS, recorded_days


def traces_of(plan, samples) -> dict[str, Trace]:
    """The samples of each probe as its trace."""
    return {
        probe: Trace(
            t_ms=samples.t_ms[samples.probe == row], raw=samples.value[samples.probe == row]
        )
        for row, probe in enumerate(compile_plan(plan).probe_ids)
    }


def by_load(plan, traces, end_ms: int, faults: Faults) -> dict[str, Rehearsal]:
    return {
        load: rehearse(
            part.plan,
            {probe: traces[probe] for probe in part.probes if probe in traces},
            start_ms=0,
            end_ms=end_ms,
            faults=faults.seen_by(part.reads, part.loads),
        )
        for load, part in load_parts(plan).items()
    }


def agree(plan, traces, end_ms: int, faults: Faults) -> None:
    """Event for event: instants, order, who decides, what is cited, the values."""
    whole = rehearse(plan, traces, start_ms=0, end_ms=end_ms, faults=faults)
    parts = by_load(plan, traces, end_ms, faults)
    run = run_of_all(plan, parts)
    assert run is not None
    # What the board's memory held at a boot is no part's own.
    parts_tell = whole.run.rows[:, lay.E_TYPE] != lay.EVENT_BOOT
    told = whole.run.rows[parts_tell]
    assert run.rows.tolist() == told.tolist()
    assert np.array_equal(run.values, whole.run.values[parts_tell], equal_nan=True)
    for load, part in parts.items():
        assert repr(part.stretches[load]) == repr(whole.stretches[load])  # NaN is no number


@settings(max_examples=80, suppress_health_check=list(HealthCheck))
@given(trials(), st.booleans())
def test_the_parts_put_together_are_the_run_of_the_whole(trial, silent):
    plan, samples, end_ms, cuts = trial
    traces = traces_of(plan, samples)
    silences = (("p0", end_ms // 4, end_ms // 2),) if silent else ()
    faults = Faults(silences=silences, cuts=tuple(cuts))
    agree(plan, traces, end_ms, faults)


PLAN = several(probes=3, bands=[(0, 0), (1, 1), (1, 2)])


def moved(rule: int, **band: float):
    rules = list(PLAN.rules)
    condition = rules[rule].band.model_copy(update=band)
    rules[rule] = rules[rule].model_copy(update={"condition": condition})
    return PLAN.model_copy(update={"rules": tuple(rules)})


@pytest.mark.parametrize(
    ("plan", "changed"),
    [
        (moved(0, on_threshold=62.0), {"l0"}),
        (moved(2, off_threshold=48.0), {"l1"}),
        (PLAN.model_copy(update={"scan_period_ms": 500}), {"l0", "l1"}),
        (
            PLAN.model_copy(
                update={
                    "probes": (
                        *PLAN.probes[:2],
                        PLAN.probes[2].model_copy(update={"stale_after_s": 5.0}),
                    )
                }
            ),
            {"l1"},
        ),
        (PLAN.model_copy(update={"invariants": ()}), set()),
    ],
)
def test_a_part_is_another_where_what_it_hangs_on_is_another(plan, changed):
    before, after = load_parts(PLAN), load_parts(plan)
    assert {load for load in before if before[load] != after[load]} == changed
    assert all(hash(before[load]) == hash(after[load]) for load in before if load not in changed)


def test_a_part_has_one_load_its_rules_and_their_probes_and_nothing_else():
    part = LoadPart.of(PLAN, (PLAN.loads[1],))
    assert [load.id for load in part.plan.loads] == ["l1"]
    assert [rule.id for rule in part.plan.rules] == ["c1", "c2"]
    assert part.probes == ("p1", "p2")
    faults = Faults(silences=(("p0", 0, 1), ("p2", 2, 3)), cuts=((5, 6),))
    assert faults.seen_by(part.reads, part.loads) == Faults(
        silences=(("p2", 2, 3),), cuts=((5, 6),)
    )


def test_a_board_in_service_without_power_from_the_first_instant_holds_the_defaults():
    """Else what one load does would tell whether another finds a record at the next boot."""
    plan = several(probes=1, bands=[(0, 0), (1, 0)], policy="last")
    plan = plan.model_copy(update={"rules": plan.rules[:1]})
    traces = {"p0": Trace(t_ms=np.array([0, 300_000]), raw=np.array([70.0, 70.0]))}
    faults = Faults(cuts=((0, 60_000), (500_000, 560_000)))
    agree(plan, traces, 900_000, faults)


def test_a_mode_that_a_condition_sets_is_the_same_in_every_part_that_looks_at_it():
    """l0 and l1 follow the mode, which p2 sets; l2 does not, and its part knows nothing of p2."""
    home = InMode(mode="m", value="home")
    base = several(probes=3, bands=[(0, 0), (1, 1), (2, 1)])
    followers = [Rule(id=f"m{load}", load=f"l{load}", condition=home) for load in (0, 1)]
    plan = base.model_copy(
        update={
            "rules": (*base.rules, *followers),
            "conditions": (
                NamedCondition(id="wet", condition=Beyond(kind="above", probe="p2", value=60.0)),
            ),
            "modes": (
                Mode(
                    id="m", name="M", values=("away", "home"),
                    changes=(
                        ModeChange(when=Named(condition="wet"), value="home", end_value="away"),
                    ),
                ),
            ),
        }
    )  # fmt: skip
    at, wet = np.array([0, 60_000, 120_000]), np.array([40.0, 70.0, 40.0])
    traces = {key: Trace(t_ms=at, raw=np.full(3, 40.0)) for key in ("p0", "p1")}
    traces["p2"] = Trace(t_ms=at, raw=wet)
    agree(plan, traces, 300_000, Faults())
    assert load_parts(plan)["l0"].probes == ("p0", "p2")
    assert load_parts(plan)["l2"].probes == ("p1",)
    run = run_of_all(plan, by_load(plan, traces, 300_000, Faults()))
    assert run is not None
    assert [e.t_ms for e in run.events() if e.event_type == lay.EVENT_MODE] == [60_000, 120_000]


def test_where_nothing_is_set_to_work_there_is_no_run():
    assert run_of_all(PLAN.model_copy(update={"loads": (), "rules": ()}), {}) is None


MILL = as_recorded(mill_plan())
MILL_TRACES = {row.probe: row.trace for row in recorded_days()}
TWO_DAYS_MS = (START_MS + 5 * MS_PER_DAY, START_MS + 7 * MS_PER_DAY)
OTHER_WORDS = {"Europe/Madrid": "America/Halifax", "relative_humidity": "temperature"}


def leaves(node, path=()):
    """Every figure, word and yes or no of a document, with where it stands."""
    if isinstance(node, dict):
        for key, value in node.items():
            yield from leaves(value, (*path, key))
    elif isinstance(node, list):
        for key, value in enumerate(node):
            yield from leaves(value, (*path, key))
    elif node is not None:
        yield path, node


MILL_LEAVES = list(leaves(MILL.model_dump(mode="json")))


def with_another(path, value) -> Plan | None:
    """The mill with one leaf changed; None where no such plan can be."""
    document = MILL.model_dump(mode="json")
    node = document
    for key in path[:-1]:
        node = node[key]
    if isinstance(value, bool):
        node[path[-1]] = not value
    elif isinstance(value, str):
        node[path[-1]] = OTHER_WORDS.get(value, f"{value}x")
    else:
        node[path[-1]] = value * 2 + 1
    try:
        changed = read_plan(json.dumps(document))
        load_parts(changed)
    except PlanError:
        return None
    return changed


def told_of(part: LoadPart, plan: Plan, load_id: str) -> object:
    """What a part's replay does and what is said of it, over two recorded days."""
    start_ms, end_ms = TWO_DAYS_MS
    traces = {probe: MILL_TRACES[probe] for probe in part.probes if probe in MILL_TRACES}
    run = rehearse(part.plan, traces, start_ms=start_ms, end_ms=end_ms)
    load = plan.load(load_id)
    assert load is not None
    return (
        run.run.rows.tolist(),
        repr(run.run.values.tolist()),
        [load_words(stretch, load=load, plan=plan) for stretch in run.stretches[load_id]],
    )


BEFORE = load_parts(MILL)
TOLD: dict[str, object] = {}


@pytest.mark.repeats
@settings(max_examples=15, suppress_health_check=list(HealthCheck))
@given(st.sampled_from(MILL_LEAVES))
def test_parts_of_one_digest_do_and_say_the_same_whatever_else_is_changed(leaf):
    """Of any figure of the plan that is another: the part is another, or nothing of it is."""
    changed = with_another(*leaf)
    if changed is None:
        reject()
    for load_id, part in load_parts(changed).items():
        if load_id not in BEFORE or part.digest != BEFORE[load_id].digest:
            continue
        if load_id not in TOLD:
            TOLD[load_id] = told_of(BEFORE[load_id], MILL, load_id)
        assert told_of(part, changed, load_id) == TOLD[load_id]
