"""The four wirings of a leak tape, each solved as a circuit from what the schedule joins."""

import networkx as nx
import pytest
from tests.core.houses import built, pressed

from aldea.core.devices.sensors.leak_tape.device import tape_divider
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.states import leak_states
from aldea.core.devices.sensors.leak_tape.wiring import FIXED_END
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan, Probe, Range
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings

WIRINGS = [
    (side, excitation)
    for side in ("sensor_high", "sensor_low")
    for excitation in ("pulsed", "constant")
]


def house(**facts: object) -> tuple[Plan, Probe, LeakTape]:
    tape = LeakTape.model_validate(facts)
    probe = new_probe(probe_id="tape", name="Tape", place="room", quantity="leak")
    probe = probe.model_copy(update={"sensor": tape})
    plan = built([], 0, ["wifi_38"], rules=()).model_copy(update={"probes": (probe,)})
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    return plan, probe, tape


def counts_as_built(plan: Plan, tape: LeakTape, tape_ohm: float) -> float:
    """Follow the nets of the schedule from 0 V and from what feeds it, and solve the divider.

    Knows nothing of `side`: only which terminals the schedule joins to what, and that the fixed
    resistor has one leg at the pin and the other where the schedule says.
    """
    joined: nx.Graph[str] = nx.Graph((wire.start, wire.end) for wire in conductors(plan))

    def net(terminal: str) -> frozenset[str]:
        there = terminal in joined
        return frozenset(nx.node_connected_component(joined, terminal) if there else {terminal})

    pins = {row.signal.rsplit(".", 1)[1]: f"Board 0:{row.pin}" for row in plan.assignments}
    zero, reference = net("Board 0:0 V"), net("Board 0:+3.3 V ref")
    fed = net(pins["excite"]) if "excite" in pins else reference
    middle = net(pins["sense"])
    second = [
        net(f"Tape:{end}") for end in ("excite", "plus", "back") if len(net(f"Tape:{end}")) > 1
    ]
    assert len(second) == 1, "a tape has two wires"
    note = next(w.note for w in conductors(plan) if w.signal.endswith(".sense"))
    fixed = fed if len(net(f"Tape:{FIXED_END}")) > 1 or "reference" in note else zero
    assert net("Tape:sense") == middle
    assert {second[0], fixed} == {fed, zero}, "nothing feeds it, or both legs go one way"
    tape_above = second[0] == fed
    share = (
        tape.fixed_ohm / (tape.fixed_ohm + tape_ohm)
        if tape_above
        else tape_ohm / (tape.fixed_ohm + tape_ohm)
    )
    return share * 4095


@pytest.mark.parametrize(("side", "excitation"), WIRINGS)
def test_a_tape_built_as_the_schedule_says_reads_what_its_table_says(side, excitation):
    plan, probe, tape = house(side=side, excitation=excitation)
    divider = tape_divider(probe, tape, plan)
    assert divider is not None
    table = {state.name: state for state in leak_states(tape, divider)}
    for state, ohm in (("wet", 20e3), ("dry", 460e3), ("open", 50e6), ("short", 10.0)):
        low, high = sorted((table[state].low_counts, table[state].high_counts))
        assert low <= counts_as_built(plan, tape, ohm) <= high, state


def test_a_far_end_that_reads_as_unplugged_is_found_and_its_fix_holds():
    plan, probe, _ = house(end_of_line_ohm=10_000_000.0)
    wide = probe.model_copy(update={"range": Range(low=0.0, high=20_000.0)})
    plan = plan.model_copy(update={"probes": (wide,)})
    found = next(f for f in findings(plan) if f.key == "far-end-range-tape")
    assert found.weight == "severe"
    assert "186 counts" not in found.why
    after = pressed(plan, found.key)
    assert not [f for f in findings(after) if f.at == "probe:tape" and f.weight == "severe"]


def test_a_stored_baseline_that_its_far_end_cannot_make_is_found():
    plan, *_ = house(baseline_counts=2047.0)
    assert not [f for f in findings(plan) if f.key == "not-dry-tape"]
    half_wet, *_ = house(baseline_counts=3100.0)
    found = next(f for f in findings(half_wet) if f.key == "not-dry-tape")
    assert "Half wet" in found.why


def test_a_far_end_above_the_range_of_its_probe_never_reads_good_and_is_found():
    """4.7 MΩ reads 4700 kΩ; a leak probe begins with a range to 2000."""
    plan, probe, _ = house(end_of_line_ohm=4_700_000.0, fixed_ohm=4_700_000.0)
    found = next(f for f in findings(plan) if f.key == "out-of-range-tape")
    assert found.weight == "severe"
    assert pressed(plan, found.key).probes[0].range.high == 9400.0
    assert probe.range.high == 2000.0
