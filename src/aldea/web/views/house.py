"""The House bench: what stands in every room at the scrubber, and what is owed."""

import textwrap
from dataclasses import dataclass
from typing import Literal

from aldea.core.plan.document import Load, Place, Plan, Probe
from aldea.core.plan.edit import differences
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.rehearse.trace import Trace
from aldea.core.wire.findings import severe
from aldea.core.words.figures import UNIT, figure
from aldea.core.words.reasons import Said, say
from aldea.core.words.times import day_clock, span
from aldea.core.words.verdicts import Verdict, house_verdict
from aldea.store.calibrations import Certificate
from aldea.web.desk import Replayed
from aldea.web.views.plot import Scale, trace_path
from aldea.web.views.rail import Window
from aldea.web.views.section import Room, Section, make_section

PIXELS_A_CHARACTER = 6.1
MOST_SEVERE = 4
DUE_SOON_MS = 30 * 86_400_000


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
    """A load as a slab on its room's floor."""

    load: Load
    name: str
    said: Said | None
    on: bool
    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomView:
    """A room with what is known of it."""

    room: Room
    readings: tuple[Reading, ...]
    cells: tuple[LoadCell, ...]
    planned_lines: tuple[str, ...]
    quiet: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Owed:
    """Something that somebody has to do."""

    mark: Literal["fails", "owed", "not_shown"]
    head: str
    text: str
    link: str
    link_text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseView:
    """The whole bench."""

    verdict: Verdict
    section: Section
    rooms: tuple[RoomView, ...]
    loft: RoomView | None
    outside: RoomView | None
    says: tuple[tuple[Load, Said], ...]
    fresh: str
    owed: tuple[Owed, ...]
    planned_loads: int


def make_house_view(
    *,
    plan: Plan,
    replayed: Replayed | None,
    traces: dict[str, Trace],
    window: Window,
    owed: list[Owed],
) -> HouseView:
    """Everything at the scrubber's instant."""
    section = make_section(plan)
    readings = {
        probe.id: _reading(probe, traces.get(probe.id), window)
        for probe in plan.probes
        if probe.stage == "working"
    }
    said: dict[str, tuple[Said, bool]] = {}
    for load in plan.loads:
        timeline = replayed.rehearsal.timelines.get(load.id) if replayed else None
        stretch = stretch_at(timeline, window.at_ms) if timeline else None
        if stretch is not None:
            said[load.id] = (say(stretch, load=load, plan=plan), bool(stretch.state))
    on = [plan_load.name for plan_load in plan.loads if said.get(plan_load.id, (None, False))[1]]
    stale = [r.probe.name for r in readings.values() if r.stale]
    dark = any(s.rank == 0 for s, _ in said.values())
    working = [load for load in plan.loads if load.stage == "working"]
    views = {room.place.id: _room_view(room, plan, readings, said) for room in section.rooms}
    with_data = [r for r in readings.values() if r.text]
    return HouseView(
        verdict=house_verdict(on=on, resting=len(working) - len(on), dark=dark, faults=stale),
        section=section,
        rooms=tuple(views.values()),
        loft=_room_view(section.loft, plan, readings, said) if section.loft else None,
        outside=_room_view(section.outside, plan, readings, said) if section.outside else None,
        says=tuple((load, said[load.id][0]) for load in working if load.id in said),
        fresh=f"{len(with_data) - len(stale)} of {len(readings)} working probes fresh",
        owed=tuple(owed),
        planned_loads=len(plan.loads) - len(working),
    )


def _reading(probe: Probe, trace: Trace | None, window: Window) -> Reading:
    found = trace.at(window.at_ms) if trace is not None else None
    unit = UNIT[probe.quantity]
    edge = f"±{figure(probe.calibration.expanded_uncertainty)}"
    if trace is None or found is None:
        return Reading(
            probe=probe, text="", unit=unit, uncertainty=edge, age="", stale=False, spark=""
        )
    t_ms, raw = found
    value = probe.calibration.intercept + probe.calibration.slope * raw
    age_s = (window.at_ms - t_ms) / 1000
    stale = age_s >= probe.stale_after_s
    return Reading(
        probe=probe,
        text=figure(value),
        unit=unit,
        uncertainty=edge,
        age=f"no reading for {span(age_s)}" if stale else "",
        stale=stale,
        spark=_spark(probe, trace, window) if probe.quantity == "relative_humidity" else "",
    )


def _spark(probe: Probe, trace: Trace, window: Window) -> str:
    part = trace.between(window.start_ms, window.at_ms + 1)
    if len(part) < 2:
        return ""
    value = part.calibrated(probe.calibration)
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
        y=y,
        gap_ms=round(probe.stale_after_s * 1000),
    )


def _room_view(
    room: Room, plan: Plan, readings: dict[str, Reading], said: dict[str, tuple[Said, bool]]
) -> RoomView:
    place: Place = room.place
    here = [readings[p.id] for p in plan.probes if p.place == place.id and p.id in readings]
    planned = [p.name.lower() for p in plan.probes if p.place == place.id and p.stage == "planned"]
    loads = [load for load in plan.loads if load.place == place.id]
    cells = []
    if loads:
        gap = 14.0
        each = (room.width - 20 - gap * (len(loads) - 1)) / len(loads)
        for index, load in enumerate(loads):
            words = said.get(load.id)
            cells.append(
                LoadCell(
                    load=load,
                    name=short_name(load.name, place.name),
                    said=words[0] if words else None,
                    on=bool(words and words[1]),
                    x=round(room.x + 10 + index * (each + gap), 1),
                    width=round(each, 1),
                )
            )
    width = max(12, int((room.width - 20) / PIXELS_A_CHARACTER))
    text = f"planned: {', '.join(planned)}" if planned else ""
    if place.kind == "loft" and len(text) > width:  # under the roof there is room for one line
        text = f"planned: {len(planned)} probes"
    quiet = "nothing measured here" if not here and not planned and not loads else ""
    return RoomView(
        room=room,
        readings=tuple(here),
        cells=tuple(cells),
        planned_lines=tuple(textwrap.wrap(text, width)),
        quiet=quiet,
    )


def short_name(name: str, place: str) -> str:
    """A thing's name without the words that its place says already: `Cellar cooler` → `Cooler`."""
    said = {word.casefold() for word in place.split()}
    left = [word for word in name.split() if word.casefold() not in said] or name.split()
    return " ".join(left)[:1].upper() + " ".join(left)[1:]


def owed_things(
    *,
    base: str,
    plan: Plan,
    running: Plan | None,
    running_number: int | None,
    certificates: list[Certificate],
    now_ms: int,
) -> list[Owed]:
    """What the plan, its certificates and the panel still ask of somebody."""
    owed: list[Owed] = [
        Owed(
            mark="fails",
            head=finding.head,
            text=finding.mend,
            link=f"{base}/wire?part={finding.at}",
            link_text="Wire",
        )
        for finding in severe(plan)[:MOST_SEVERE]
    ]
    due = {c.number: c.due_ms for c in certificates}
    zone = plan.house.time_zone
    for claim in plan.claims:
        probe, band = plan.probe(claim.condition.probe), claim.condition
        load = plan.load(claim.load)
        if probe is None or load is None or load.stage != "working":
            continue
        link = f"{base}/calibrate/{probe.id}"
        unit = UNIT[probe.quantity]
        can_tell = 2 * probe.calibration.expanded_uncertainty
        if abs(band.on - band.off) < can_tell:
            owed.append(
                Owed(
                    mark="not_shown",
                    head=f"{load.name}: marks closer than the probe can tell.",
                    text=f"{figure(abs(band.on - band.off))} {unit} apart; it can tell "
                    f"{figure(can_tell)}.",
                    link=f"{base}/tune/{load.id}",
                    link_text="Tune",
                )
            )
        if probe.calibration.certificate is None:
            owed.append(
                Owed(
                    mark="owed",
                    head=f"{probe.name} has no certificate.",
                    text=f"±{figure(probe.calibration.expanded_uncertainty)} {unit} is stated, "
                    "not measured.",
                    link=link,
                    link_text="Calibrate",
                )
            )
        elif probe.calibration.certificate not in due:
            owed.append(
                Owed(
                    mark="owed",
                    head=f"{probe.name}: certificate {probe.calibration.certificate} is not "
                    "on record here.",
                    text="It came with the plan file; its evidence did not.",
                    link=link,
                    link_text="Calibrate",
                )
            )
        elif due[probe.calibration.certificate] < now_ms + DUE_SOON_MS:
            until = day_clock(due[probe.calibration.certificate], zone)
            owed.append(
                Owed(
                    mark="owed",
                    head=f"{probe.name}: the certificate ends {until}.",
                    text="Take two salts and a check again.",
                    link=link,
                    link_text="Calibrate",
                )
            )
    if running is None:
        owed.append(
            Owed(
                mark="owed",
                head="Nothing is published yet.",
                text="The panel has no program.",
                link=f"{base}/record",
                link_text="Record",
            )
        )
    elif count := len(differences(running, plan)):
        owed.append(
            Owed(
                mark="owed",
                head=f"The draft differs from program {running_number}.",
                text=f"{count} value{'' if count == 1 else 's'} changed, not published.",
                link=f"{base}/record",
                link_text="Record",
            )
        )
    return owed
