"""Houses to try wiring on: boards with parts, one load of each kind, the mill, a large one."""

from functools import cache

from benchmarks.large_house import large_house
from tests.core.plans import one_band

from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.plan.check import check_plan
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import (
    Board,
    RelayOutput,
    Supply,
)
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.findings import findings, offered
from aldea.core.wiring.relays import with_relays
from aldea.demo.mill import mill_plan


def built(sensors, relays: int, boards, **facts: object) -> Plan:
    """A room with probes of some kinds, some relays and some boards."""
    base = one_band()
    probes = tuple(
        new_probe(probe_id=f"p{i}", name=f"P{i}", place="room", quantity="leak").model_copy(
            update={"sensor": sensor}
        )
        for i, sensor in enumerate(sensors)
    )
    loads = tuple(
        Load(id=f"l{i}", name=f"L{i}", place="room", load_class="air", stage="planned")
        for i in range(relays)
    )
    return base.model_copy(
        update={
            "probes": (*base.probes, *probes),
            "loads": (*base.loads, *loads),
            "relays": tuple(RelayOutput(id=f"k{i}", load=f"l{i}") for i in range(relays)),
            "boards": tuple(
                Board(id=f"b{i}", name=f"Board {i}", place="room", board_type=kind)
                for i, kind in enumerate(boards)
            ),
            **facts,
        }
    )


def fixed(plan: Plan) -> Plan:
    """Press every fix until none is left to press."""
    for _ in range(60):
        found = next((f for f in offered(plan) if f.apply is not None), None)
        if found is None:
            return plan
        assert found.press
        assert found.apply is not None
        after = found.apply(plan)
        check_plan(after)
        assert found.key not in {f.key for f in findings(after)}, found.head
        plan = after
    raise AssertionError("fixes that never end")


def pressed(plan: Plan, key: str) -> Plan:
    """The fix of one finding pressed: it is gone afterwards, and the plan fits together."""
    found = {f.key: f for f in offered(plan)}[key]
    assert found.press
    assert found.apply is not None
    after = found.apply(plan)
    check_plan(after)
    assert key not in {f.key for f in findings(after)}
    return after


def wired_up(plan: Plan) -> Plan:
    for load in plan.loads:
        plan = with_relays(plan, load.id)
    done = assign_pins(plan)
    assert not done.conflict
    return plan.model_copy(update={"assignments": done.assignments})


def of_kind(kind: str, power_w: float = 100.0, **relay: object) -> Plan:
    """One load of a kind, wired to a terminal board, everything fixed that can be."""
    plan = built([], 0, ["terminal_24v"])
    load = new_load(load_id="thing", name="Thing", place="room", kind=kind)  # type: ignore[arg-type]
    load = load.model_copy(update={"feed": "F1", "power_w": power_w})
    supply = Supply(id="s", name="Supply", place="room", volts=24.0)
    plan = plan.model_copy(update={"loads": (load,), "rules": (), "supplies": (supply,)})
    plan = wired_up(plan)
    for made in plan.relays:
        plan = put_part(plan, "relay", made.model_copy(update=relay))
    return fixed(plan)


def assigned(plan: Plan) -> Plan:
    """The plan with every pin that the solver gives."""
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


HOUSES = ("mill", "large", *map(str, LOAD_FACTS))


@cache
def house_of(name: str) -> Plan:
    """One of `HOUSES`; made when it is asked for, so that nobody waits who only lists the tests."""
    if name == "mill":
        return mill_plan()
    return assigned(large_house()) if name == "large" else of_kind(name)
