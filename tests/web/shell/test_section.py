"""The house in section: rooms stand beside each other."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.plan.document import House, Place, Plan
from aldea.demo.mill import mill_plan
from aldea.web.shell.section import make_section


def overlaps(a, b) -> bool:
    sideways = min(a.right, b.right) - max(a.x, b.x)
    upright = min(a.bottom, b.bottom) - max(a.y, b.y)
    return bool(min(sideways, upright) > 0.2)


@given(
    walls=st.lists(st.floats(2, 9), min_size=1, max_size=6),
    levels=st.integers(1, 5),
    lowest=st.integers(-3, 2),
)
def test_no_room_of_the_section_covers_another(walls, levels, lowest):
    places = []
    for level in range(lowest, lowest + levels):
        x = 0.0
        for index, width in enumerate(walls):
            places.append(
                Place(
                    id=f"p{level + 10}_{index}",
                    name="Room",
                    kind="room",
                    level=level,
                    from_m=x,
                    to_m=x + width,
                )
            )
            x += width
    plan = Plan(
        format="aldea-plan/2",
        house=House(name="Any", time_zone="UTC"),
        places=tuple(places),
        probes=(),
        loads=(),
        rules=(),
    )
    section = make_section(plan)
    assert len(section.rooms) == len(places)
    for a, b in combinations(section.rooms, 2):
        assert not overlaps(a, b)
    for room in section.rooms:
        assert room.width > 0
        assert section.left <= room.x
        assert room.right <= section.right + 0.2
        assert section.top <= room.y + 0.2
        assert room.bottom <= section.bottom + 0.2


def test_the_mill_has_the_stair_over_both_floors():
    section = make_section(mill_plan())
    rooms = {room.place.id: room for room in section.rooms}
    assert rooms["stair_hall"].y == rooms["print_studio"].y
    assert rooms["stair_hall"].bottom == pytest.approx(rooms["weir_flat"].bottom)
    assert section.ground_y < rooms["root_cellar"].y
