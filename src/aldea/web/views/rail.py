"""The time rail: lanes, ticks and the words of every stretch, ready to draw."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from functools import lru_cache
from typing import Any

from jinja2.utils import htmlsafe_json_dumps
from markupsafe import Markup

from aldea.core.engine import layout as lay
from aldea.core.plan.document import Load, Plan
from aldea.core.rehearse.rehearsal import Rehearsal
from aldea.core.rehearse.stretches import Stretch, stretch_at
from aldea.core.words.reasons import Said, say
from aldea.core.words.times import local, ms_of, span

HOUR_MS = 3_600_000
SPANS_H = (3, 6, 12, 24, 48, 168, 720)
LANE_PX = 13
MOST_LANES = 8  # what the open race is high enough for; working loads go before planned ones
TRACK_PX = 748  # what a lane is at 1280; wider tracks stretch
DUTY_ABOVE_H = 48
THINNEST_PATTERN_PX = {1: 5, 2: 5, 3: 5, 4: 5}
STEP_HEIGHT = 0.92
MOST_REMEMBERED = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """The span of time that rail and plots share, and where the scrubber stands."""

    start_ms: int
    end_ms: int
    at_ms: int
    now_ms: int

    @property
    def hours(self) -> float:
        """Its length."""
        return (self.end_ms - self.start_ms) / HOUR_MS

    def pct(self, t_ms: float) -> float:
        """Where an instant stands on the track, in percent."""
        return 100 * (t_ms - self.start_ms) / (self.end_ms - self.start_ms)

    @property
    def title(self) -> str:
        """Its length in words."""
        return span((self.end_ms - self.start_ms) / 1000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """A rectangle on a lane, in percent of the track and pixels of height."""

    x: str
    width: str
    y: float
    height: float
    fill: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A label on the axis."""

    x: str
    text: str
    strong: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """One load on the rail."""

    load: Load
    y: float
    blocks: tuple[Block, ...]
    said: Said | None
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Rail:
    """Everything that the rail's template and script need."""

    mode: str
    window: Window
    at_words: str
    ticks: tuple[Tick, ...]
    lanes: tuple[Lane, ...]
    data: dict[str, Any]
    lanes_json: Markup
    zone_note: str
    more: int

    @property
    def working(self) -> tuple[Lane, ...]:
        """Lanes of loads that are switched."""
        return tuple(lane for lane in self.lanes if lane.load.stage == "working")

    @property
    def planned(self) -> tuple[Lane, ...]:
        """Lanes of loads that are only planned."""
        return tuple(lane for lane in self.lanes if lane.load.stage == "planned")


def window_of(
    *, now_ms: int, hours: float | None, end_ms: int | None, at_ms: int | None, first_ms: int | None
) -> Window:
    """The window asked for, kept inside what is recorded; 24 hours up to now without a wish."""
    length_ms = round(min(max(hours or 24, 1), 744) * HOUR_MS)
    end_ms = min(end_ms or now_ms, now_ms)
    if first_ms is not None:
        end_ms = max(end_ms, min(now_ms, first_ms + length_ms))
    start_ms = end_ms - length_ms
    at_ms = end_ms if at_ms is None else min(max(at_ms, start_ms), end_ms)
    return Window(start_ms=start_ms, end_ms=end_ms, at_ms=at_ms, now_ms=now_ms)


def make_rail(
    plan: Plan,
    rehearsal: Rehearsal | None,
    window: Window,
    mode: str,
    words: dict[object, Any],
) -> Rail:
    """Draw every load of the plan; planned ones have an empty lane that says so.

    `words` remembers what was said of a rehearsal: thirty days of it are thousands of sentences.
    """
    lanes: list[Lane] = []
    stretch_data: list[dict[str, Any]] = []
    shown = sorted(plan.loads, key=lambda load: load.stage != "working")[:MOST_LANES]
    for index, load in enumerate(load for load in plan.loads if load in shown):
        timeline = rehearsal.timelines.get(load.id) if rehearsal else None
        said = None
        if timeline:
            stretch = stretch_at(timeline, window.at_ms)
            said = say(stretch, load=load, plan=plan) if stretch else None
            rows = _once(words, (load.id,), lambda: _rows(load, plan, timeline))  # noqa: B023
            stretch_data.append(_lane_data(load, rows, window))
        planned = "planned, no rule yet" if plan.relays_of(load.id) else "planned, not wired"
        note = planned if load.stage == "planned" else "nothing recorded yet"
        lanes.append(
            Lane(
                load=load,
                y=index * LANE_PX,
                blocks=tuple(lane_blocks(timeline, window)) if timeline else (),
                said=said,
                note="" if timeline else note,
            )
        )
    zone = plan.house.time_zone
    return Rail(
        mode=mode,
        window=window,
        at_words=_at_words(window.at_ms, zone),
        ticks=time_ticks(window, zone),
        lanes=tuple(lanes),
        more=len(plan.loads) - len(lanes),
        zone_note=_clock_change(window, zone),
        data={
            "start": window.start_ms,
            "end": window.end_ms,
            "at": window.at_ms,
            "now": window.now_ms,
            "zone": zone,
            "spans": SPANS_H,
            "lanes": stretch_data,
        },
        lanes_json=_once(
            words,
            (window.start_ms, window.end_ms),
            lambda: htmlsafe_json_dumps(stretch_data, dumps=json.dumps),
        ),
    )


def _once(words: dict[object, Any], key: object, make: Callable[[], Any]) -> Any:
    """What was made for a key before, or made now; a few windows are remembered."""
    if key not in words:
        if len(words) > MOST_REMEMBERED:
            words.clear()
        words[key] = make()
    return words[key]


def _at_words(t_ms: int, zone: str) -> str:
    moment = local(t_ms, zone)
    return f"{moment:%a} {moment.day} {moment:%b %H:%M}"


def _lane_data(load: Load, rows: list[dict[str, Any]], window: Window) -> dict[str, Any]:
    shown = [r for r in rows if r["e"] > window.start_ms and r["s"] <= window.end_ms]
    return {"load": load.id, "name": load.name, "rows": shown}


def _rows(load: Load, plan: Plan, timeline: list[Stretch]) -> list[dict[str, Any]]:
    rows = []
    for stretch in timeline:
        said = say(stretch, load=load, plan=plan)
        rows.append(
            {
                "s": stretch.start_ms,
                "e": stretch.end_ms,
                "on": stretch.state,
                "rank": said.rank,
                "state": said.state,
                "holder": said.holder,
                "until": said.until,
                "why": said.why,
                "next": said.next_change,
            }
        )
    return rows


def lane_blocks(timeline: list[Stretch], window: Window) -> list[Block]:
    """What a timeline looks like in a window: states by height, holders by pattern."""
    shown = [s for s in timeline if s.end_ms > window.start_ms and s.start_ms < window.end_ms]
    if window.hours > DUTY_ABOVE_H:
        return _duty(shown, window)
    blocks: list[Block] = []
    for stretch in shown:
        x = max(0.0, window.pct(stretch.start_ms))
        width = min(100.0, window.pct(stretch.end_ms)) - x
        rank = stretch.rank
        if stretch.state or rank not in (lay.RANK_REST, 0):
            tall = bool(stretch.state)
            height = LANE_PX * STEP_HEIGHT if tall else 4.0
            least = THINNEST_PATTERN_PX.get(rank, 1.2) * 100 / TRACK_PX
            narrow = width < 100 * 3 / TRACK_PX
            fill = f"solid-{rank}" if narrow and rank > 4 else f"p{rank}"
            blocks.append(
                Block(
                    x=f"{x:.3f}%",
                    width=f"{max(width, least):.3f}%",
                    y=LANE_PX - height,
                    height=height,
                    fill=fill,
                )
            )
        elif rank == 0:
            blocks.append(
                Block(
                    x=f"{x:.3f}%", width=f"{max(width, 0.4):.3f}%", y=0, height=LANE_PX, fill="p0"
                )
            )
    return blocks


def _duty(shown: list[Stretch], window: Window) -> list[Block]:
    """Share of the time on, as height, per two pixels."""
    bins = TRACK_PX // 2
    step_ms = (window.end_ms - window.start_ms) / bins
    on_ms = [0.0] * bins
    for stretch in shown:
        if not stretch.state:
            continue
        first = max(0.0, (stretch.start_ms - window.start_ms) / step_ms)
        last = min(float(bins), (stretch.end_ms - window.start_ms) / step_ms)
        index = int(first)
        while index < last:
            on_ms[index] += min(index + 1, last) - max(index, first)
            index += 1
    blocks: list[Block] = []
    for index, share in enumerate(on_ms):
        if share > 0.01:
            height = max(1.0, share * LANE_PX * STEP_HEIGHT)
            blocks.append(
                Block(
                    x=f"{100 * index / bins:.3f}%",
                    width=f"{100 / bins:.3f}%",
                    y=LANE_PX - height,
                    height=round(height, 2),
                    fill="solid-6",
                )
            )
    return blocks


def time_ticks(window: Window, zone: str) -> tuple[Tick, ...]:
    """Labels at whole hours or days of the house's clock, never closer than they can be read."""
    still = Window(
        start_ms=window.start_ms, end_ms=window.end_ms, at_ms=window.end_ms, now_ms=window.end_ms
    )
    return _ticks(still, zone)


@lru_cache(maxsize=256)
def _ticks(window: Window, zone: str) -> tuple[Tick, ...]:
    steps_h = next(
        (step for step in (1, 2, 4, 6, 12, 24, 48, 120) if window.hours / step <= 7.5), 240
    )
    moment = local(window.start_ms, zone).replace(minute=0, second=0, microsecond=0)
    ticks: list[Tick] = []
    while ms_of(moment) <= window.end_ms:
        t_ms = ms_of(moment)
        whole_days = (moment.date() - local(0, zone).date()).days
        due = (
            moment.hour % steps_h == 0
            if steps_h < 24
            else (moment.hour == 0 and whole_days % (steps_h // 24) == 0)
        )
        if due and t_ms >= window.start_ms:
            x = window.pct(t_ms)
            midnight = moment.hour == 0
            text = f"{moment:%a} {moment.day}" if midnight else f"{moment:%H:%M}"
            if 2.5 < x < 97.5:
                ticks.append(Tick(x=f"{x:.3f}%", text=text, strong=midnight))
        # Wall-clock hours: a clock change makes one hour longer or shorter, not the labels odd.
        moment = local(t_ms + HOUR_MS, zone).replace(minute=0)
    return tuple(ticks)


def _clock_change(window: Window, zone: str) -> str:
    start, end = local(window.start_ms, zone), local(window.end_ms, zone)
    shift = (end.utcoffset() or timedelta()) - (start.utcoffset() or timedelta())
    if not shift:
        return ""
    return f"the clock went {'forward' if shift > timedelta() else 'back'} 1 h in this span"
