"""The Lay out bench: every part as a chip in its room, and what a chosen part is."""

from dataclasses import dataclass

from aldea.core.base.figures import figure
from aldea.core.devices.finding import Finding
from aldea.core.devices.loads.classes import LOAD_CLASSES
from aldea.core.plan.defaults import place_figures
from aldea.core.plan.document import Load, Place, Plan
from aldea.core.plan.edits import COLLECTIONS, STANDING
from aldea.core.plan.invariants import Invariant
from aldea.core.words.invariants import Figure, figures_of, invariant_sentence, suggestions
from aldea.core.words.power_cut import power_cut_sentence
from aldea.core.words.verdicts import Verdict
from aldea.web.shell.section import Room, Section, make_section

CHIP_HEIGHT, CHIP_STEP, FIRST_CHIP = 19, 22, 30
PIXELS_A_LETTER, CHIP_SIDES = 6.3, 26
SIGNS = {
    "probe": "M1 5a4 4 0 1 0 8 0a4 4 0 1 0 -8 0",
    "load": "M0 1H10V9H0Z",
    "control": "M5 0V5M1 5H9M2 9H8",
    "board": "M1 1H9V9H1ZM3 1V-1M7 1V-1M3 9V11M7 9V11",
    "supply": "M0 3H10M2.5 7H7.5",
    "place": "M1 9V1H9V9Z",
}
FLOORS = {"loft": "transparent", "outside": "transparent", "neighbour": "url(#earth)"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Chip:
    """A part on the drawing: where, its kind for the small mark, what it is called."""

    kind: str
    id: str
    name: str
    x: float
    y: float
    width: float
    chosen: bool
    place: str

    @property
    def key(self) -> str:
        """As it stands in an address: `load:fan`."""
        return f"{self.kind}:{self.id}"

    @property
    def sign(self) -> str:
        """The path of its small mark."""
        return SIGNS.get(self.kind, SIGNS["place"])


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomChips:
    """A room with its chips, and all that is in it: key and name; `more` could not be drawn."""

    room: Room
    chips: tuple[Chip, ...]
    things: tuple[tuple[str, str], ...]

    @property
    def more(self) -> int:
        """How many things found no room on the drawing."""
        return len(self.things) - len(self.chips)

    @property
    def floor(self) -> str:
        """What its ground is filled with."""
        return FLOORS.get(self.room.place.kind, "var(--plate)")


@dataclass(frozen=True, slots=True, kw_only=True)
class MustNever:
    """An invariant as a sentence; `id` is empty for what is only suggested."""

    id: str
    sentence: str
    why: str
    figures: tuple[Figure, ...] = ()
    partners: tuple[tuple[str, str], ...] = ()
    partner: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LayoutView:
    """The whole bench."""

    verdict: Verdict
    section: Section
    rooms: tuple[RoomChips, ...]
    chosen: str
    never: tuple[MustNever, ...]
    suggested: tuple[MustNever, ...]
    power_cut: str
    follows: str
    caution: str
    neighbours: tuple[str, ...]
    findings: tuple[tuple[str, Finding], ...]
    empty: bool


def make_layout_view(plan: Plan, chosen: str, all_findings: tuple[Finding, ...]) -> LayoutView:
    """The bench with one part chosen (`load:fan`), or none."""
    section = make_section(plan)
    every = [*section.rooms]
    every += [room for room in (section.loft, section.outside) if room is not None]
    rooms = tuple(_room(room, plan, chosen) for room in every)
    load = plan.load(chosen.removeprefix("load:")) if chosen.startswith("load:") else None
    place = plan.place(chosen.removeprefix("place:")) if chosen.startswith("place:") else None
    mine = [f for f in all_findings if f.at == chosen or _of_relay(f, plan, load)]
    return LayoutView(
        verdict=_verdict(plan, all_findings),
        section=section,
        rooms=rooms,
        chosen=chosen,
        never=_never(plan, load),
        suggested=_suggested(plan, load) if load else (),
        power_cut=power_cut_sentence(load, plan) if load else "",
        follows=LOAD_CLASSES[load.load_class].follows if load else "",
        caution=LOAD_CLASSES[load.load_class].caution if load else "",
        neighbours=neighbours(plan, place) if place else (),
        findings=tuple(
            ("open" if f.weight == "open" else f"!{number}", f) for number, f in enumerate(mine, 1)
        ),
        empty=not plan.places,
    )


def _suggested(plan: Plan, load: Load) -> tuple[MustNever, ...]:
    partners = tuple((other.id, other.name) for other in plan.loads if other.id != load.id)
    return tuple(
        MustNever(
            id="",
            sentence=sentence,
            why="",
            figures=figures_of(never, plan),
            partners=partners if never.rule.form == "never_together" else (),
            partner=never.rule.loads[1] if never.rule.form == "never_together" else "",
        )
        for sentence, never in suggestions(load, plan)
    )


def _of_relay(finding: Finding, plan: Plan, load: Load | None) -> bool:
    return load is not None and finding.at in {f"relay:{r.id}" for r in plan.relays_of(load.id)}


def _never(plan: Plan, load: Load | None) -> tuple[MustNever, ...]:
    mine: list[Invariant] = [
        never for never in plan.invariants if load is None or load.id in never.loads
    ]
    return tuple(
        MustNever(id=never.id, sentence=invariant_sentence(never, plan), why=never.why)
        for never in mine
    )


def _verdict(plan: Plan, findings: tuple[Finding, ...]) -> Verdict:
    counts = [
        (len(plan.places), "place"),
        (len(plan.loads), "load"),
        (len(plan.probes), "probe"),
        (len(plan.controls), "control"),
        (len(plan.boards), "board"),
    ]
    if not plan.places:
        return Verdict(
            state="owed",
            sentence="Nothing is laid out yet.",
            rest="Begin with a place: a room, a stair, the loft, the outside.",
        )
    words = ", ".join(f"{n} {word}{'' if n == 1 else 's'}" for n, word in counts if n)
    owed = [f for f in findings if f.weight == "open"]
    unsaid = sum(f.key.startswith("never-") for f in owed)
    rest = ""
    if owed:
        rest = f"{len(owed)} thing{'' if len(owed) == 1 else 's'} still open"
        rest += f", {unsaid} of them what must never happen." if unsaid else "."
    return Verdict(
        state="owed" if owed else "holds", sentence=f"{plan.house.name}: {words}.", rest=rest
    )


def _room(room: Room, plan: Plan, chosen: str) -> RoomChips:
    """Chips flow from left to right, then down, as far as the room reaches."""
    place = room.place
    inner = [p for p in plan.places if p.within == place.id]
    things: list[tuple[str, str, str, str]] = []
    for inside in (place, *inner):
        if inside is not place:
            things.append(("place", inside.id, f"{inside.name}:", place.id))
        for kind in STANDING:
            things.extend(
                (kind, part.id, part.name, inside.id)
                for part in getattr(plan, COLLECTIONS[kind])
                if part.place == inside.id
            )
    left = room.x + 8
    right = room.right - 4
    x, y = left, room.y + FIRST_CHIP
    chips: list[Chip] = []
    for kind, part_id, name, where in things:
        width = min(round(len(name) * PIXELS_A_LETTER) + CHIP_SIDES, round(right - left))
        if x > left and x + width > right:
            x, y = left, y + CHIP_STEP
        if y + CHIP_HEIGHT > room.bottom:
            break
        letters = max(3, int((width - CHIP_SIDES + 4) / PIXELS_A_LETTER))
        shown = name if len(name) <= letters else f"{name[: letters - 1]}…"
        chips.append(
            Chip(
                kind=kind,
                id=part_id,
                name=shown,
                x=round(x, 1),
                y=round(y, 1),
                width=width,
                chosen=chosen == f"{kind}:{part_id}",
                place=where,
            )
        )
        x += width + 4
    named = tuple((f"{kind}:{part_id}", name) for kind, part_id, name, _ in things)
    return RoomChips(room=room, chips=tuple(chips), things=named)


def neighbours(plan: Plan, place: Place) -> tuple[str, ...]:
    """What a place borders on, from levels and walls: `Print studio, wall 13.0 m²`."""
    rooms = []
    depth, height = _size(place, "depth_m"), _size(place, "height_m")
    for other in plan.places:
        if other.id == place.id or other.within or place.within:
            continue
        if other.kind == "outside" or place.kind == "outside":
            continue
        low, high = _levels(place)
        other_low, other_high = _levels(other)
        level_shared = min(high, other_high) - max(low, other_low) + 1
        beside = min(abs(place.to_m - other.from_m), abs(other.to_m - place.from_m)) < 0.05
        over = min(place.to_m, other.to_m) - max(place.from_m, other.from_m)
        if beside and level_shared > 0:
            area = min(depth, _size(other, "depth_m")) * height * level_shared
            rooms.append(f"{other.name}, wall {figure(area)} m²")
        elif over > 0.05 and (other_low == high + 1 or low == other_high + 1):
            word = "ceiling" if other_low == high + 1 else "floor"
            area = over * min(depth, _size(other, "depth_m"))
            rooms.append(f"{other.name}, {word} {figure(area)} m²")
    return tuple(rooms)


def _size(place: Place, key: str) -> float:
    return float(place_figures(place)[key][0])


def _levels(place: Place) -> tuple[int, int]:
    return place.level, place.level if place.top_level is None else place.top_level
