"""The House bench: what stands in every room at the scrubber, and what is owed."""

import textwrap
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure, places_of
from aldea.core.base.instants import span
from aldea.core.base.quantities import QUANTITIES, state_of, unit_of
from aldea.core.engine import layout as lay
from aldea.core.plan.document import Load, Place, Plan, Probe
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.words.evening import evening
from aldea.core.words.reasons import LoadWords, load_words
from aldea.core.words.verdicts import Verdict, house_verdict
from aldea.web.benches.house.owed import Owed
from aldea.web.shell.plot import Scale, trace_path
from aldea.web.shell.replay_cache import Picture, Replayed
from aldea.web.shell.section import Room, Section, make_section
from aldea.web.shell.window import Window

PIXELS_A_CHARACTER = 6.1
LOADS_PX, SMALL_STEP = 44, 15
FIRST_READING, READING_STEP = 46, 25
WIDE_CELL = 130
SPARK_COLUMNS = 37  # of three pixels


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A probe's value at the scrubber, ready to show; `text` is empty where there is none."""

    probe: Probe
    text: str
    unit: str
    uncertainty: str
    age: str
    stale: bool
    spark: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadCell:
    """A load as a slab on its room's floor; `block` is the slab's height, px, 0 while idle."""

    name: str
    state: str
    state_above: int
    on: bool
    planned: bool
    priority: int
    block: int
    x: float
    width: float

    @property
    def right(self) -> float:
        """Its right edge, px."""
        return self.x + self.width


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingLine:
    """A reading where it stands in its room."""

    reading: Reading
    y: float
    size: int
    spark: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadRow:
    """A load with what is told of it."""

    load: Load
    words: LoadWords
    on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomView:
    """A room with what is known of it; `tell` is every reading in words, for a narrow screen."""

    room: Room
    readings: tuple[ReadingLine, ...]
    cells: tuple[LoadCell, ...]
    planned_lines: tuple[str, ...]
    planned_y: float
    quiet: str
    quiet_y: float
    facts: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseView:
    """The whole bench."""

    verdict: Verdict
    section: Section
    rooms: tuple[RoomView, ...]
    loft: RoomView | None
    outside: RoomView | None
    says: tuple[LoadRow, ...]
    fresh: str
    owed: tuple[Owed, ...]
    planned_note: str


def make_house_view(
    *,
    plan: Plan,
    replayed: Replayed | None,
    traces: dict[str, Trace],
    window: Window,
    owed: list[Owed],
    picture: Picture,
) -> HouseView:
    """Everything at the scrubber's instant; `picture` remembers what is drawn of a probe's log."""
    section = make_section(plan)
    readings = {
        probe.id: _reading(probe, traces.get(probe.id), window, picture)
        for probe in plan.probes
        if probe.stage == "working"
    }
    rows_by_load = {row.load.id: row for row in _load_rows(plan, replayed, window)}
    on = [row.load.name for row in rows_by_load.values() if row.on]
    stale = [r.probe.name for r in readings.values() if r.stale]
    dark = any(row.words.priority == 0 for row in rows_by_load.values())
    working = [load for load in plan.loads if load.stage == "working"]
    with_data = [
        r for r in readings.values() if r.text and QUANTITIES[r.probe.quantity].states is None
    ]

    def filled(room: Room) -> RoomView:
        return _room_view(room, plan, readings, rows_by_load)

    return HouseView(
        verdict=house_verdict(
            on=on,
            resting=len(working) - len(on),
            dark=dark,
            faults=stale,
            tripped=[
                r.load.name for r in rows_by_load.values() if r.words.priority == lay.PRIORITY_TRIP
            ],
            story=_story(plan, replayed, window) if not on else "",
            nothing_works=not working and all(p.stage != "working" for p in plan.probes),
        ),
        section=section,
        rooms=tuple(filled(room) for room in section.rooms),
        loft=filled(section.loft) if section.loft else None,
        outside=filled(section.outside) if section.outside else None,
        says=tuple(
            sorted((rows_by_load[x.id] for x in working if x.id in rows_by_load), key=_urgency)
        ),
        fresh=f"{len(with_data) - len(stale)} of {len(with_data)} probes fresh",
        owed=tuple(owed),
        planned_note=_planned_note(len(plan.loads) - len(working)),
    )


def _urgency(row: LoadRow) -> int:
    """What is tripped or lost comes first, then what is on."""
    if row.words.priority in (lay.PRIORITY_TRIP, lay.PRIORITY_FAULT):
        return 0
    return 1 if row.on else 2


def _story(plan: Plan, replayed: Replayed | None, window: Window) -> str:
    if replayed is None:
        return ""
    stretches = {load.id: replayed.stretches(load.id) for load in plan.loads}
    return evening(plan, stretches, window.at_ms)


def _load_rows(plan: Plan, replayed: Replayed | None, window: Window) -> Iterator[LoadRow]:
    for load in plan.loads:
        stretch = stretch_at(replayed.stretches(load.id), window.at_ms) if replayed else None
        if stretch is not None:
            words = load_words(stretch, load=load, plan=plan)
            yield LoadRow(load=load, words=words, on=bool(stretch.state))


def _planned_note(count: int) -> str:
    if not count:
        return ""
    if count == 1:
        return "1 load is planned and switches nothing yet."
    return f"{count} loads are planned and switch nothing yet."


def _reading(probe: Probe, trace: Trace | None, window: Window, picture: Picture) -> Reading:
    reading = trace.at(window.at_ms) if trace is not None else None
    unit = unit_of(probe.quantity)
    places = places_of(probe.resolution)
    line = probe.calibration
    edge = f"±{figure(line.expanded_uncertainty, places)}"
    if trace is None or reading is None:
        return Reading(
            probe=probe, text="", unit=unit, uncertainty=edge, age="", stale=False, spark=""
        )
    t_ms, raw = reading
    value = line.at(raw)
    edge = f"±{figure(line.expanded_at(value), places)}"
    age_s = (window.at_ms - t_ms) / 1000
    steady = _steady(window)
    text = state_of(probe.quantity, value)
    if text:  # told when it changes: no news is no silence
        return Reading(
            probe=probe, text=text, unit="", uncertainty="", age="", stale=False, spark=""
        )
    stale = age_s >= probe.stale_after_s
    return Reading(
        probe=probe,
        text=figure(value, places),
        unit=unit,
        uncertainty=edge,
        age=f"no reading for {span(age_s)}" if stale else "",
        stale=stale,
        spark=picture(
            probe.id,
            ("spark", probe.calibration, probe.stale_after_s, steady.start_ms, steady.at_ms),
            lambda: _spark(probe, trace, steady),
        )
        if QUANTITIES[probe.quantity].drawn_small
        else "",
    )


def _steady(window: Window) -> Window:
    """The window in whole columns of a spark: at now it stays the same for a while."""
    step_ms = max((window.end_ms - window.start_ms) // SPARK_COLUMNS, 1)
    start_ms = window.start_ms - window.start_ms % step_ms
    end_ms = start_ms + step_ms * (SPARK_COLUMNS + 1)
    at_ms = end_ms if window.at_ms == window.now_ms else window.at_ms
    return Window(start_ms=start_ms, end_ms=end_ms, at_ms=at_ms, now_ms=end_ms)


def _spark(probe: Probe, trace: Trace, window: Window) -> str:
    part = trace.between(window.start_ms, window.at_ms + 1)
    if len(part) < 2:
        return ""
    value = probe.calibration.over(part.raw)
    low, high = float(value.min()), float(value.max())
    middle = (low + high) / 2
    reach = max(high - low, 4.0) / 2
    y = Scale(low=middle - reach, high=middle + reach, pixel_low=34, pixel_high=2)
    return trace_path(
        part.t_ms,
        value,
        start_ms=window.start_ms,
        end_ms=max(window.end_ms, window.at_ms + 1),
        width=110,
        columns=SPARK_COLUMNS,
        y=y,
        gap_ms=round(probe.stale_after_s * 1000),
    )


def _room_view(
    room: Room, plan: Plan, readings: dict[str, Reading], rows_by_load: dict[str, LoadRow]
) -> RoomView:
    place: Place = room.place
    probes, loads = plan.probes_in(place.id), plan.loads_in(place.id)
    here = [readings[probe.id] for probe in probes if probe.id in readings]
    values = [r for r in here if QUANTITIES[r.probe.quantity].states is None]
    lines = [r for r in here if QUANTITIES[r.probe.quantity].states and r.text]
    planned = [probe.name.lower() for probe in probes if probe.stage == "planned"]
    width = max(12, int((room.width - 20) / PIXELS_A_CHARACTER))
    texts = [f"{short_name(r.probe.name, place.name)}: {r.text}" for r in lines]
    if planned:
        texts.append(f"planned: {', '.join(planned)}")
    left_px = room.height - FIRST_READING - (LOADS_PX if loads else 10)
    shown = max(1, int(left_px // READING_STEP)) if not room.under_roof else 0
    if len(values) > shown:
        texts.insert(0, f"and {', '.join(_short_value(r) for r in values[shown:])}")
    first_y = room.y + (35 if room.under_roof else 42 + READING_STEP * len(values[:shown]))
    room_for = int((room.bottom - (LOADS_PX if loads else 10) - first_y) // SMALL_STEP) + 1
    if room.under_roof:  # there is room for one line
        text = "; ".join(texts)
        texts = [text] if len(text) <= width else [f"{len(here) + len(planned)} probes"]
        room_for = 1
    wrapped = [part for text in texts for part in textwrap.wrap(text, width)]
    return RoomView(
        room=room,
        readings=tuple(
            ReadingLine(
                reading=reading,
                y=room.y + FIRST_READING + READING_STEP * index,
                size=21 if index == 0 else 16,
                spark="" if place.kind == "outside" else reading.spark,
            )
            for index, reading in enumerate(values[:shown])
        ),
        cells=tuple(_cells(room, loads, rows_by_load)),
        planned_lines=tuple(wrapped[: max(0, room_for)]),
        planned_y=first_y,
        quiet="no probe here" if not here and not planned and not loads else "",
        quiet_y=room.y + (54 if place.people else 38),
        facts=tuple(
            (short_name(r.probe.name, place.name), f"{r.text} {r.unit} {r.uncertainty}".strip())
            for r in (*values, *lines)
            if r.text
        ),
    )


def _short_value(reading: Reading) -> str:
    return f"{reading.text} {reading.unit}".strip() if reading.text else reading.probe.name


def _cells(
    room: Room, loads: Sequence[Load], rows_by_load: dict[str, LoadRow]
) -> Iterator[LoadCell]:
    """The loads of a room side by side; the word of the state goes above where it is narrow."""
    gap = 14.0
    each = (room.width - 20 - gap * (len(loads) - 1)) / max(1, len(loads))
    for index, load in enumerate(loads):
        row = rows_by_load.get(load.id)
        on = row is not None and row.on
        priority = row.words.priority if row else lay.PRIORITY_DEFAULT
        yield LoadCell(
            name=short_name(load.name, room.place.name),
            state=row.words.state if row else "planned",
            state_above=20 if round(each, 1) > WIDE_CELL or len(loads) > 1 else 36,
            on=on,
            planned=row is None,
            priority=priority,
            block=13 if on else 5 if priority != lay.PRIORITY_DEFAULT else 0,
            x=round(room.x + 10 + index * (each + gap), 1),
            width=round(each, 1),
        )


def short_name(name: str, place: str) -> str:
    """A thing's name without the words that its place says already: `Cellar cooler` → `Cooler`."""
    known = {word.casefold() for word in place.split()}
    left = [word for word in name.split() if word.casefold() not in known] or name.split()
    return " ".join(left)[:1].upper() + " ".join(left)[1:]
