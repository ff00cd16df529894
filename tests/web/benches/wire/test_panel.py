"""What Lay out and Wire show, as laws: nothing overlaps, nothing is lost, forms give back parts."""

from itertools import pairwise

import pytest
from tests.core.houses import HOUSES, house_of
from tests.core.wiring.test_two_supplies import hood_fan

from aldea.core.plan.document import Plan
from aldea.core.plan.panel import TransistorSwitch
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.demo.mill import mill_plan
from aldea.web.benches.wire.panel.drawing import fitted, wrapped
from aldea.web.benches.wire.panel.pins import pin_choices
from aldea.web.benches.wire.panel.places import draw_places
from aldea.web.benches.wire.panel.schedule import Shown
from aldea.web.benches.wire.panel.view import WireView, make_wire_view, warning_tags
from aldea.web.shell.window import Window

NOW = Window(start_ms=0, end_ms=1000, at_ms=1000, now_ms=1000)


def shown(plan: Plan, board: int = 0, **wanted: str) -> WireView:
    return make_wire_view(
        plan,
        shown=Shown(
            board=plan.boards[board], part=wanted.get("chosen", ""), only=wanted.get("only", "")
        ),
        replayed=None,
        traces={},
        window=NOW,
        draft_version=2,
    )


@pytest.mark.parametrize("name", HOUSES)
def test_a_drawing_has_every_pin_once_and_nothing_on_top_of_another(name):
    plan = house_of(name)
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
    assert list(tags.values()) == ["!1", "!2"]
    view = shown(plan, only="warned")
    drawing = view.drawing
    assert drawing is not None
    rung = {p.pin: p.warning for d in drawing.devices for p in d.pins if p.warning}
    rung |= {r.pin.pin: r.pin.warning for r in drawing.relays if r.pin.warning}
    assert rung == {"A23": "!2", "DO11": "!1"}
    assert {row.tag for row in view.rows} == {"!1", "!2"}
    assert {row.wire.start for row in view.rows} == {"Board A:A23", "Board A:DO11"}


def test_a_schedule_shows_what_is_asked_for():
    plan = mill_plan()
    assert len(shown(plan, only="all").rows) == len(conductors(plan))
    one = shown(plan, 1, chosen="probe:studio_temp").rows
    assert {row.wire.owner for row in one} == {"probe:studio_temp"}
    assert one[0].measured == "expect 10 kΩ at 25 °C"
    relay = shown(plan, 1, chosen="relay:k4").rows
    assert {row.wire.owner for row in relay} == {"relay:k4", "load:dehumidifier"}


@pytest.mark.parametrize("name", [*HOUSES, "two supplies"])
def test_every_conductor_is_in_the_schedule_of_some_board(name):
    """Also the one that joins the 0 V of two supplies: it is of no part of any board."""
    plan = hood_fan(TransistorSwitch()) if name == "two supplies" else house_of(name)
    of_boards = {row.wire.number for i in range(len(plan.boards)) for row in shown(plan, i).rows}
    assert of_boards == {wire.number for wire in conductors(plan)}


def test_the_pins_that_are_offered_can_all_serve():
    choice = pin_choices(mill_plan(), "probe:studio_temp")[0]
    words = dict(choice.options)
    assert words["board_b/IO36"].startswith("Board B, IO36")
    assert "not advised" in words["board_b/IO4"], "its converter dies with the radio"
    assert "Stair light" in words["board_b/IO39"], "who sits there is said"
    assert "board_b/IO23" not in words, "it cannot read analog"


@pytest.mark.parametrize("name", HOUSES)
def test_by_place_every_thing_has_its_cable_and_every_conductor_its_number_once(name):
    plan = house_of(name)
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
