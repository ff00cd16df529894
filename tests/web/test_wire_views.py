"""What Lay out and Wire show, as laws: nothing overlaps, nothing is lost, forms give back parts."""

import importlib
import subprocess
from itertools import combinations, pairwise
from xml.etree import ElementTree

import pytest
import weasyprint.pdf.metadata
from benchmarks.large_house import large_house
from tests.core.wire.test_panel import of_kind

from aldea.core.errors import InputError
from aldea.core.plan.build import COLLECTIONS, STANDING, part_of, put_part
from aldea.core.plan.document import Plan
from aldea.core.plan.kinds import LOAD_KINDS, QUANTITIES, new_load, new_probe
from aldea.core.plan.sensors import SENSOR_KINDS
from aldea.core.wire.assign import assign_pins
from aldea.core.wire.circuits import circuits
from aldea.core.wire.conductors import conductors
from aldea.core.wire.findings import findings
from aldea.demo.mill import mill_plan
from aldea.web.forms import Fields
from aldea.web.part_fields import groups_of
from aldea.web.part_forms import new_part, read_part
from aldea.web.views.circuit_drawing import DRAWINGS, circuit_svg
from aldea.web.views.layout import make_layout_view, neighbours
from aldea.web.views.panel_drawing import fitted, wrapped
from aldea.web.views.place_drawing import draw_places
from aldea.web.views.rail import Window
from aldea.web.views.sheets import make_sheet
from aldea.web.views.wire import WireView, make_wire_view, pin_choices, warning_tags

NOW = Window(start_ms=0, end_ms=1000, at_ms=1000, now_ms=1000)


def large_and_wired() -> Plan:
    plan = large_house()
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


PLANS: dict[str, Plan] = {
    "mill": mill_plan(),
    "large": large_and_wired(),
    **{str(k): of_kind(k) for k in LOAD_KINDS},
}


def shown(plan: Plan, board: int = 0, **wanted: str) -> WireView:
    return make_wire_view(
        plan,
        board=plan.boards[board],
        chosen=wanted.get("chosen", ""),
        replayed=None,
        window=NOW,
        only=wanted.get("only", ""),
        draft_version=2,
    )


def typed_of_form(plan: Plan, kind: str, part: object) -> dict[str, str]:
    """A part's form as it stands, sent back as it is."""
    return {f.name: f.value for group in groups_of(plan, kind, part) for f in group.fields}


PARTS = [
    (kind, part.id)
    for kind in ("place", "probe", "load", "control", "board", "supply", "relay")
    for part in getattr(mill_plan(), COLLECTIONS[kind])
]


@pytest.mark.parametrize(("kind", "part_id"), PARTS, ids=[f"{k}:{p}" for k, p in PARTS])
def test_a_form_that_is_sent_as_it_stands_changes_nothing(kind, part_id):
    plan = mill_plan()
    part = part_of(plan, kind, part_id)
    assert read_part(Fields(typed_of_form(plan, kind, part)), plan, kind, part) == part


def test_the_houses_form_gives_back_the_house():
    plan = mill_plan()
    typed = typed_of_form(plan, "house", plan.house)
    assert read_part(Fields(typed), plan, "house", plan.house) == plan.house
    typed["signal"] = "violet"
    assert read_part(Fields(typed), plan, "house", plan.house).colours.signal == "violet"


@pytest.mark.parametrize("kind", LOAD_KINDS)
def test_another_kind_brings_its_own_figures_and_no_others(kind):
    plan = mill_plan()
    load = plan.load("cellar_cooler")
    assert load is not None
    typed = typed_of_form(plan, "load", load) | {"kind": kind}
    made = read_part(Fields(typed), plan, "load", load)
    fresh = new_load(load_id="x", name="X", place="loft", kind=kind)
    for key in ("stepped", "drive", "valve", "two_way", "pattern"):
        assert (getattr(made, key) is None) == (getattr(fresh, key) is None), key
    again = put_part(plan, "load", made)
    assert read_part(Fields(typed_of_form(again, "load", made)), again, "load", made) == made


@pytest.mark.parametrize("way", SENSOR_KINDS)
def test_every_way_of_making_a_probe_can_be_chosen_and_read_back(way):
    quantity = next(key for key, kind in QUANTITIES.items() if way in kind.sensors)
    plan = mill_plan()
    probe = new_probe(probe_id="fresh", name="Fresh", place="loft", quantity=quantity)
    plan = put_part(plan, "probe", probe)
    typed = typed_of_form(plan, "probe", probe) | {"sensor_kind": way}
    made = read_part(Fields(typed), plan, "probe", probe)
    assert made.sensor is not None
    assert made.sensor.kind == way
    plan = put_part(plan, "probe", made)
    assert read_part(Fields(typed_of_form(plan, "probe", made)), plan, "probe", made) == made


@pytest.mark.parametrize(
    ("kind", "part_id", "field", "typed"),
    [
        ("load", "extractor", "steps", "1 c1"),
        ("load", "extractor", "capacitors", "c1 two"),
        ("load", "extractor", "never_together", "c1"),
        ("load", "extractor", "dead_time_s", "0"),
        ("load", "skylight", "open_contact", "nobody"),
        ("probe", "cellar_rh", "address", "4.5"),
        ("place", "print_studio", "to_m", "-3"),
        ("place", "print_studio", "name", ""),
        ("board", "board_a", "board_type", "nothing"),
        ("supply", "supply_5", "volts", "nan"),
        ("relay", "k1", "rated_a", "0"),
    ],
)
def test_a_wrong_field_is_refused_at_its_place(kind, part_id, field, typed):
    plan = mill_plan()
    part = part_of(plan, kind, part_id)
    fields = Fields(typed_of_form(plan, kind, part) | {field: typed})
    with pytest.raises(InputError):
        read_part(fields, plan, kind, part)
    assert field in fields.errors


@pytest.mark.parametrize("kind", ["place", "load", "probe", "control", "board", "supply"])
def test_a_new_part_has_a_form_that_can_be_kept(kind):
    plan = mill_plan()
    part = new_part(plan, kind, {"name": "Brand new", "place": "loft"})
    typed = typed_of_form(plan, kind, part)
    assert read_part(Fields(typed), plan, kind, part) == part


@pytest.mark.parametrize("plan", PLANS.values(), ids=PLANS)
def test_every_thing_is_a_chip_in_its_room_and_none_overlap(plan):
    view = make_layout_view(plan, "", findings(plan))
    count = 0
    for room in view.rooms:
        for chip in room.chips:
            assert room.room.x <= chip.x
            assert chip.x + chip.width <= room.room.right + 1
            assert room.room.y <= chip.y
            assert chip.y + 19 <= room.room.bottom
        for a, b in combinations(room.chips, 2):
            apart = a.x + a.width <= b.x or b.x + b.width <= a.x or abs(a.y - b.y) >= 19
            assert apart, f"{a.name} / {b.name}"
        count += sum(chip.kind in STANDING for chip in room.chips) + room.more
    things = sum(len(getattr(plan, COLLECTIONS[kind])) for kind in STANDING)
    assert count == things


def test_bordering_is_mutual_and_of_one_size():
    plan = mill_plan()
    for place in plan.places:
        for line in neighbours(plan, place):
            name, what = line.split(", ")
            other = next(p for p in plan.places if p.name == name)
            back = dict(row.split(", ") for row in neighbours(plan, other))
            turned = {"wall": "wall", "ceiling": "floor", "floor": "ceiling"}
            word, size, _ = what.split(" ")
            assert back[place.name] == f"{turned[word]} {size} m²"
    studio = dict(row.split(", ") for row in neighbours(plan, plan.places[1]))
    assert set(studio) == {"Loft", "Stair hall", "Weir flat", "Mid flat"}


@pytest.mark.parametrize("plan", PLANS.values(), ids=PLANS)
def test_a_drawing_has_every_pin_once_and_nothing_on_top_of_another(plan):
    for index, board in enumerate(plan.boards):
        drawing = shown(plan, index).drawing
        assert drawing is not None
        pins = [p for device in drawing.devices for p in device.pins]
        drawn = {p.signal for p in pins} | {r.pin.signal for r in drawing.relays}
        assert drawn == {row.signal for row in plan.assignments if row.board == board.id}
        for before, after in pairwise(sorted(p.x for p in pins)):
            assert after - before >= 40
        for left, right in pairwise(drawing.devices):
            assert left.x + left.width <= right.x
        for one, two in pairwise(drawing.relays):
            assert one.x + 62 < two.x
        screws = [p.pin for p in pins if not p.joined] + [r.pin.pin for r in drawing.relays]
        assert len(screws) == len(set(screws)), "a bus has one screw and dots"
        assert all(p.x <= drawing.width for p in pins)


def test_warnings_ring_their_pin_and_the_schedule_says_them():
    plan = mill_plan()
    tags = warning_tags(findings(plan))
    assert list(tags.values()) == ["W1", "W2"]
    view = shown(plan, only="warned")
    drawing = view.drawing
    assert drawing is not None
    rung = {p.pin: p.warning for d in drawing.devices for p in d.pins if p.warning}
    rung |= {r.pin.pin: r.pin.warning for r in drawing.relays if r.pin.warning}
    assert rung == {"A23": "W2", "DO11": "W1"}
    assert {row.tag for row in view.rows} == {"W1", "W2"}
    assert {row.wire.start for row in view.rows} == {"Board A:A23", "Board A:DO11"}


def test_a_schedule_shows_what_is_asked_for():
    plan = mill_plan()
    assert len(shown(plan, only="all").rows) == len(conductors(plan))
    one = shown(plan, 1, chosen="probe:studio_temp").rows
    assert {row.wire.owner for row in one} == {"probe:studio_temp"}
    assert one[0].measured == "expect 10 kΩ at 25 °C"
    relay = shown(plan, 1, chosen="relay:k4").rows
    assert {row.wire.owner for row in relay} == {"relay:k4", "load:dehumidifier"}


def test_the_pins_that_are_offered_can_all_serve():
    choice = pin_choices(mill_plan(), "probe:studio_temp")[0]
    words = dict(choice.options)
    assert words["board_b/IO36"].startswith("Board B, IO36")
    assert "not advised" in words["board_b/IO4"], "its converter dies with the radio"
    assert "Stair light" in words["board_b/IO39"], "who sits there is said"
    assert "board_b/IO23" not in words, "it cannot read analog"


@pytest.mark.parametrize("plan", [PLANS["mill"], PLANS["two_way"], PLANS["stepped"]])
def test_circuits_are_drawn_without_inline_style(plan):
    for circuit in circuits(plan):
        svg = circuit_svg(circuit.draws, circuit.values)
        root = ElementTree.fromstring(svg)
        assert root.attrib["viewBox"]
        assert "style=" not in svg
        assert "black" not in svg
        assert len(list(root.iter())) > 5, circuit.title
        assert circuit.draws in DRAWINGS
    assert circuit_svg("nothing", {}) == ""


def test_a_circuit_drawn_after_a_sheet_was_printed_is_whole():
    circuit_svg("button", {"pull": "1 kΩ"})
    importlib.reload(weasyprint.pdf.metadata)  # what the first print of a process does
    svg = circuit_svg("button", {"pull": "2 kΩ"})
    assert len(list(ElementTree.fromstring(svg).iter())) > 5


@pytest.mark.parametrize("plan", PLANS.values(), ids=PLANS)
def test_by_place_every_thing_has_its_cable_and_every_conductor_its_number_once(plan):
    drawing = draw_places(plan)
    for block in drawing.blocks:
        owners = [(row.owner, row.mains) for row in block.rows]
        assert len(owners) == len(set(owners))
    numbers = [
        number
        for block in drawing.blocks
        for row in block.rows
        for line in row.lines
        for number, _ in line
    ]
    assert sorted(numbers) == sorted(wire.number for wire in conductors(plan))
    edges = [(b.y, b.y + b.height) for b in drawing.blocks]
    assert all(end < start for (_, end), (start, _) in pairwise(edges))


def test_a_cable_says_how_many_conductors_it_has():
    rows = [row for block in draw_places(mill_plan()).blocks for row in block.rows]
    heater = next(row for row in rows if row.owner == "load:panel_heater")
    assert heater.cable == "3 × electrician decides, mains"
    assert [where for _, where in heater.lines[0]] == ["X1:9", "N bar:N", "PE bar:PE"]


@pytest.mark.parametrize(
    ("name", "width", "lines"),
    [
        ("Pump", 70, ("Pump",)),
        ("Floor drain tape", 70, ("Floor drain", "tape")),
        ("Incomprehensibilities", 60, ("Incompreh…",)),
        ("A very long name indeed of a thing", 60, ("A very", "long name…")),
    ],
)
def test_names_are_wrapped_or_cut(name, width, lines):
    assert wrapped(name, width) == lines
    assert len(fitted(name, width)) <= max(4, int(width / 5.9))


def test_the_sheet_says_isolation_first():
    sheet = make_sheet(mill_plan(), ())
    assert sheet.feeds == "F1, F2, F3, F4 and F5"
    said = " ".join(sheet.isolation)
    for words in (
        "F2 feeds 2 loads",
        "hold charge",
        "X1:8a and X1:8b can be live",
        "shuts by itself",
    ):
        assert words in said
    rows = {row.load: row for row in sheet.rows}
    assert rows["Booster pump"].longest == "15 min"
    assert rows["Loft skylight"].terminals == "volt-free"
    assert rows["Drying extractor"].longest == "not said"


def test_the_printed_sheets_hold_every_conductor(signed, tmp_path):
    """Read back with pdftotext: no number, terminal or relay is missing on paper."""
    client = signed("guest")
    plan = mill_plan(on=62.0, off=56.0)
    texts = {}
    for sheet in ("door-sheet", "electrician"):
        file = tmp_path / f"{sheet}.pdf"
        file.write_bytes(client.get(f"/h/molino-alto/wire/{sheet}.pdf").content)
        done = subprocess.run(
            ["pdftotext", "-layout", str(file), "-"], capture_output=True, text=True, check=True
        )
        texts[sheet] = done.stdout
    for wire in conductors(plan):
        text = texts["door-sheet" if wire.feed == "ELV" else "electrician"]
        line = [row for row in text.split("\n") if row.split()[:1] == [wire.number]]
        assert line, wire.number
        first = " ".join(wire.start.split(":")[0].split()[:3])
        assert first in " ".join(line), wire.number
    for relay in plan.relays:
        assert relay.id.upper() in texts["door-sheet"]
    assert "prove dead at X1" in texts["door-sheet"]
    assert "prove dead at X1" in texts["electrician"]
