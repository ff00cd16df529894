"""The Lay out bench: chips and borders."""

from itertools import combinations

import pytest
from tests.core.houses import HOUSES, house_of

from aldea.core.plan.edits import COLLECTIONS, STANDING
from aldea.core.wiring.findings import findings
from aldea.demo.mill import mill_plan
from aldea.web.benches.layout.view import make_layout_view, neighbours


@pytest.mark.parametrize("name", HOUSES)
def test_every_thing_is_a_chip_in_its_room_and_none_overlap(name):
    plan = house_of(name)
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
