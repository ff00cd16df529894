"""What is proposed: transistors, ways that bring something along, and why there is no button."""

import pytest
from tests.core.houses import built

from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.ratings import load_current_a, start_current_a
from aldea.core.plan.defaults import new_load
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import RelayOutput, Supply, TransistorSwitch
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.drivers import bears_a, starts_a
from aldea.core.wiring.findings import findings, offered
from aldea.core.wiring.parts import part_lines
from aldea.core.wiring.relays import with_relays

TWELVE = Supply(id="s12", name="PSU twelve", place="room", volts=12.0, rating_ma=40_000.0)
FIVE = Supply(id="s5", name="PSU five", place="room", volts=5.0)


def dc(power_w: float, nature: Nature, relay: RelayOutput | None = None, **facts: object) -> Plan:
    """A load of 12 V beside a bare module, without relays unless one is given."""
    load = new_load(load_id="strip", name="Strip", place="room", kind="relay")
    load = load.model_copy(
        update={
            "volts": 12.0,
            "runs_on": "dc",
            "supply": "s12",
            "power_w": power_w,
            "nature": nature,
            **facts,
        }
    )
    plan = built([], 0, ["wifi_38"], rules=()).model_copy(
        update={
            "supplies": (FIVE, TWELVE),
            "loads": (load,),
            "relays": (relay,) if relay else (),
        }
    )
    board = plan.boards[0].model_copy(update={"supply": "s5"})
    plan = plan.model_copy(update={"boards": (board,)})
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


@pytest.mark.parametrize(("power_w", "nature"), [(24.0, "lamp"), (30.0, "motor"), (90.0, "motor")])
def test_what_no_usual_contact_bears_is_switched_by_a_transistor_that_bears_its_start(
    power_w, nature
):
    plan = dc(power_w, nature)
    proposal = next(f for f in offered(plan) if f.key == "relays-strip")
    assert proposal.apply is not None, proposal.fix
    after = proposal.apply(plan)
    made = after.relays[0].transistor
    assert made is not None
    load = after.loads[0]
    assert bears_a(made) >= load_current_a(load, after)
    assert starts_a(made) >= start_current_a(load, after)
    assert not [f for f in findings(after) if f.at == "relay:k1" and f.weight == "severe"]


def test_a_small_fan_keeps_its_relay():
    after = with_relays(dc(6.0, "motor"), "strip")
    assert after.relays[0].transistor is None
    assert after.relays[0].rated_a == 10.0


def test_the_start_of_a_motor_is_more_than_its_transistor_bears():
    """3.3 A running, six times that at first: 19.8 A on a part of 3.5 A, which bears 10.5."""
    weak = RelayOutput(id="k1", load="strip", transistor=TransistorSwitch(limit_a=3.5))
    plan = dc(3.3 * 12, "motor", weak)
    found = next(f for f in offered(plan) if f.key == "start-k1")
    assert found.weight == "severe"
    assert "19.8 A" in found.head
    assert "10.5 A" in found.head
    assert found.apply is not None
    assert not [f for f in findings(found.apply(plan)) if f.key == "start-k1"]


def test_the_only_way_stays_and_says_what_comes_with_it():
    """The coil asks more of the supply than is left: the relay is proposed all the same."""
    loads = tuple(
        new_load(load_id=f"l{n}", name=f"Load {n}", place="room", kind="relay") for n in range(19)
    )
    relays = tuple(RelayOutput(id=f"k{n + 1}", load=f"l{n}") for n in range(18))
    plan = built([], 0, ["wifi_38"], rules=()).model_copy(
        update={"supplies": (FIVE,), "loads": loads, "relays": relays}
    )
    board = plan.boards[0].model_copy(update={"supply": "s5"})
    plan = plan.model_copy(update={"boards": (board,)})
    seated = assign_pins(plan)
    plan = plan.model_copy(update={"assignments": seated.assignments})
    proposal = next(f for f in offered(plan) if f.key == "relays-l18")
    assert proposal.apply is not None
    brought = {f.key: f.head for f in findings(proposal.apply(plan))}
    new = [head for key, head in brought.items() if key not in {f.key for f in findings(plan)}]
    assert new
    assert f"This also causes: {new[0]}" in proposal.fix


def test_a_fix_without_a_button_says_why():
    """A contact too weak beyond any transistor here has no button; one that fails says so."""
    weak = RelayOutput(id="k1", load="strip", transistor=TransistorSwitch(limit_a=1.0))
    plan = dc(1_000.0, "motor", weak)
    found = next(f for f in offered(plan) if f.key == "limit-k1")
    assert found.apply is None
    assert "No automatic fix" in found.fix


@pytest.mark.parametrize("by", ["relay", "transistor"])
def test_a_coil_on_direct_current_has_its_diode_in_the_parts(by):
    made = TransistorSwitch() if by == "transistor" else None
    relay = RelayOutput(id="k1", load="strip", transistor=made)
    plan = dc(6.0, "coil", relay, load_class="water")
    diodes = [line for line in part_lines(plan) if line.part.startswith("flyback diode")]
    assert [line.needed for line in diodes] == [1]


def test_a_dc_fan_that_is_called_a_heater_is_found_and_gets_its_diode():
    plan = dc(6.0, "resistive", RelayOutput(id="k1", load="strip"))
    found = next(f for f in offered(plan) if f.key == "nature-strip")
    assert found.apply is not None
    after = found.apply(plan)
    assert any("flyback" in line.part for line in part_lines(after))
    assert not any("flyback" in line.part for line in part_lines(plan))


@pytest.mark.parametrize(
    ("load_class", "nature"),
    [("heat", "resistive"), ("air", "motor"), ("water", "motor"), ("light", "lamp")],
)
def test_a_new_load_is_what_its_class_mostly_is(load_class, nature):
    load: Load = new_load(load_id="x", name="X", place="room", kind="relay", load_class=load_class)
    assert load.nature == nature


def test_the_cable_of_a_load_is_bought():
    near = dc(6.0, "motor", RelayOutput(id="k1", load="strip"))
    far = near.model_copy(update={"loads": (near.loads[0].model_copy(update={"cable_m": 16.0}),)})

    def metres(plan: Plan) -> float:
        return sum(line.needed for line in part_lines(plan) if line.part.startswith("wire "))

    # two conductors leave the box; the one from the supply to the contact stays in it
    assert metres(far) - metres(near) == pytest.approx(2 * 16.0, abs=1.0)
