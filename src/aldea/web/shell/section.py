"""The house in section, computed from levels and places: where every room stands on the page."""

from collections import Counter
from dataclasses import dataclass

from aldea.core.plan.document import Place, Plan

WIDTH, HEIGHT = 936, 541
LEFT, RIGHT = 92, 786
ROOF_TOP, WALLS_TOP, FLOOR = 4, 112, 530
WALL = 5
LOFT_WIDTH = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """A place as a rectangle of the drawing, in its pixels."""

    place: Place
    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """Its floor."""
        return self.y + self.height

    @property
    def middle(self) -> float:
        """Halfway between its walls."""
        return self.x + self.width / 2

    @property
    def under_roof(self) -> bool:
        """Whether its words stand in the middle, for there is no room at the sides."""
        return self.place.kind == "loft"

    @property
    def name_weight(self) -> int:
        """Private rooms are named more quietly."""
        return 400 if self.place.kind == "private" else 650

    @property
    def people(self) -> str:
        """Who lives in it."""
        return ", ".join(self.place.people)


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """The whole building."""

    rooms: tuple[Room, ...]
    loft: Room | None
    outside: Room | None
    ground_y: float
    left: float
    right: float
    top: float
    bottom: float

    @property
    def middle(self) -> float:
        """Under the ridge."""
        return (self.left + self.right) / 2


def make_section(plan: Plan) -> Section:
    """Lay the places out: levels from the top down, higher where more stands in them."""
    inside = [p for p in plan.places if p.kind not in ("loft", "outside") and p.within is None]
    levels = sorted({level for p in inside for level in _levels(p)}, reverse=True)
    lofts = [p for p in plan.places if p.kind == "loft"]
    top = WALLS_TOP if lofts else WALLS_TOP / 2
    heights = _heights(plan, inside, levels, FLOOR - top)
    tops: dict[int, float] = {}
    y = float(top)
    for level in levels:
        tops[level] = y
        y += heights[level]
    low_m = min((p.from_m for p in inside), default=0.0)
    high_m = max((p.to_m for p in inside), default=1.0)
    per_m = (RIGHT - LEFT - 2 * WALL) / max(high_m - low_m, 1e-6)
    rooms = []
    for place in inside:
        upper = place.level if place.top_level is None else place.top_level
        room_y = tops[upper] + WALL / 2
        floor = tops[place.level] + heights[place.level] - WALL / 2
        x = LEFT + WALL + (place.from_m - low_m) * per_m + WALL / 2
        rooms.append(
            Room(
                place=place,
                x=round(x, 1),
                y=round(room_y, 1),
                width=round((place.to_m - place.from_m) * per_m - WALL, 1),
                height=round(floor - room_y, 1),
            )
        )
    ground = tops.get(-1, FLOOR)
    below = [level for level in levels if level < 0]
    ground_y = tops[max(below)] if below else ground
    outside = next((p for p in plan.places if p.kind == "outside"), None)
    return Section(
        rooms=tuple(rooms),
        loft=Room(
            place=lofts[0],
            x=(LEFT + RIGHT) / 2 - LOFT_WIDTH / 2,
            y=ROOF_TOP + 30,
            width=LOFT_WIDTH,
            height=WALLS_TOP - ROOF_TOP - 32,
        )
        if lofts
        else None,
        outside=Room(
            place=outside, x=RIGHT + 20, y=max(top + 30, ground_y - 200), width=130, height=190
        )
        if outside
        else None,
        ground_y=round(ground_y, 1),
        left=LEFT,
        right=RIGHT,
        top=top,
        bottom=FLOOR,
    )


def rooms_of_things(plan: Plan) -> list[str]:
    """The place that each thing stands in; for what is in an enclosure, the place that holds it."""
    decided_by: dict[str, str] = {place.id: place.within or place.id for place in plan.places}
    stands = [probe.place for probe in plan.probes]
    stands += [load.place for load in plan.loads]
    stands += [control.place for control in plan.controls]
    stands += [board.place for board in plan.boards]
    stands += [supply.place for supply in plan.supplies]
    return [decided_by.get(place, place) for place in stands]


def _levels(place: Place) -> range:
    top = place.level if place.top_level is None else place.top_level
    return range(place.level, top + 1)


def _heights(
    plan: Plan, inside: list[Place], levels: list[int], room_px: float
) -> dict[int, float]:
    weights: dict[int, float] = {}
    counts = Counter(rooms_of_things(plan))
    for level in levels:
        here = [p for p in inside if p.level == level and p.top_level in (None, level)]
        busiest = max((counts[p.id] for p in here), default=0)
        weights[level] = 1.0 + 0.16 * min(busiest, 8)
    total = sum(weights.values()) or 1.0
    return {level: room_px * weight / total for level, weight in weights.items()}
