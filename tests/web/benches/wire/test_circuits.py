"""Special circuits as drawings."""

import importlib
from concurrent.futures import ThreadPoolExecutor
from xml.etree import ElementTree

import pytest
import weasyprint.pdf.metadata
from tests.core.houses import house_of
from tests.core.plans import one_band

from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.wiring import tape_wiring
from aldea.core.plan.defaults import new_probe
from aldea.core.wiring.circuits import circuits
from aldea.web.benches.wire.circuits.drawing import DRAWINGS, _drawn, _ours, circuit_svg


@pytest.mark.parametrize("name", ["mill", "two_way", "stepped"])
def test_circuits_are_drawn_without_inline_style(name):
    for circuit in circuits(house_of(name)):
        svg = circuit_svg(circuit.draws, circuit.values)
        root = ElementTree.fromstring(svg)
        assert root.attrib["viewBox"]
        assert "style=" not in svg
        assert "black" not in svg
        assert len(list(root.iter())) > 5, circuit.title
        assert circuit.draws in DRAWINGS
    assert circuit_svg("nothing", {}) == ""


@pytest.mark.parametrize("side", ["sensor_high", "sensor_low"])
@pytest.mark.parametrize("excitation", ["pulsed", "constant"])
def test_a_tape_is_drawn_as_the_schedule_wires_it(side, excitation):
    tape = LeakTape(side=side, excitation=excitation)
    probe = new_probe(probe_id="tape", name="Tape", place="room", quantity="leak")
    plan = one_band().model_copy(
        update={"probes": (probe.model_copy(update={"sensor": tape}),), "rules": ()}
    )
    circuit = next(found for found in circuits(plan) if found.owner == "probe:tape")
    svg = circuit_svg(circuit.draws, {**circuit.values, "fixed": "fixed"})
    fed = "excite" if excitation == "pulsed" else "+ ref"
    at_y = {
        "".join(text.itertext()): float(text.attrib["y"])
        for text in ElementTree.fromstring(svg).iter("text")
    }
    assert at_y[fed] < at_y["pin"] < at_y["0 V"]
    fixed_is_above = at_y["fixed"] < at_y["pin"]
    assert fixed_is_above == (tape_wiring(tape).fixed_to != "zero")


def test_a_circuit_drawn_after_a_sheet_was_printed_is_whole():
    circuit_svg("button", {"pull": "1 kΩ"})
    importlib.reload(weasyprint.pdf.metadata)  # what the first print of a process does
    svg = circuit_svg("button", {"pull": "2 kΩ"})
    assert len(list(ElementTree.fromstring(svg).iter())) > 5


def test_circuits_asked_for_at_the_same_time_do_not_mix():
    """Eight threads, each kind with values of its own: every drawing is the one made alone."""
    wanted = [(kind, {"pull": f"{n} kΩ", "tape": f"{n}"}) for n in range(4) for kind in DRAWINGS]
    _drawn.cache_clear()
    alone = {(kind, values["pull"]): circuit_svg(kind, values) for kind, values in wanted}
    for _ in range(3):
        _drawn.cache_clear()
        with ThreadPoolExecutor(8) as pool:
            together = list(pool.map(lambda asked: circuit_svg(*asked), wanted))
        for (kind, values), svg in zip(wanted, together, strict=True):
            assert svg == alone[kind, values["pull"]], kind


def test_a_print_at_the_wrong_moment_leaves_no_foreign_prefix():
    """What another thread does to the prefixes of the process shows in no drawing."""
    assert _ours('<ns0:svg xmlns:ns0="x" viewBox="0 0 1 1"><ns0:g/></ns0:svg>') == _ours(
        '<svg xmlns="x" viewBox="0 0 1 1"><g/></svg>'
    )
