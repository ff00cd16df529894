"""The time timeline: lanes, ticks and the words of every stretch, ready to draw."""

import json
from bisect import bisect_right
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from jinja2.utils import htmlsafe_json_dumps
from markupsafe import Markup

from aldea.core.base.instants import MS_PER_DAY, local, offsets, stamp
from aldea.core.plan.document import Load, Plan
from aldea.core.rehearse.stretches import Stretch, stretch_at
from aldea.core.words.reasons import load_words
from aldea.web.shell.lanes import DUTY_ABOVE_H, LANE_PX, SOLID, drawn, lane_blocks
from aldea.web.shell.replay_cache import LoadReplay, Replayed
from aldea.web.shell.ticks import Tick, time_ticks
from aldea.web.shell.window import Window

SPANS_H = (3, 6, 12, 24, 48, 168, 720)
MOST_LANES = 40  # working loads go before planned ones
FEW = 3  # of so many loads the reasons are said in the timeline too
HEAD_PX = 20
USUAL_LANES = 8
DENSE_PX = 11


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """One load on the timeline: its blocks, and the words at the scrubber."""

    load: Load
    y: float
    drawn: Markup
    priorities: frozenset[int]
    state: str
    decided_by: str
    why: str
    next_change: str
    until: str

    @property
    def planned(self) -> bool:
        """Whether it switches nothing yet."""
        return self.load.stage == "planned"


@dataclass(frozen=True, slots=True, kw_only=True)
class Timeline:
    """Everything that the timeline's template and script need."""

    mode: str
    window: Window
    at_words: str
    ticks: tuple[Tick, ...]
    lanes: tuple[Lane, ...]
    working: tuple[Lane, ...]  # those of loads that are switched
    json: Markup
    zone_note: str
    planned_note: str
    drawn: dict[str, Markup] = field(default_factory=dict, compare=False)  # by what stands in it

    @property
    def lanes_end(self) -> int:
        """Where the lanes end, px."""
        return HEAD_PX + self.lane_px * max(len(self.lanes), FEW)

    @property
    def dense(self) -> bool:
        """Whether the lanes stand close, for there are many."""
        return len(self.lanes) > USUAL_LANES

    @property
    def lane_px(self) -> int:
        """Height of a lane, px."""
        return DENSE_PX if self.dense else LANE_PX

    @property
    def priorities(self) -> frozenset[int]:
        """The levels that are seen on its lanes."""
        return frozenset(priority for lane in self.lanes for priority in lane.priorities)

    @property
    def few(self) -> bool:
        """Whether there is room to say why beside each load."""
        return len(self.working) <= FEW

    @property
    def heights_note(self) -> str:
        """What heights mean in this window."""
        share = " · height = share of time on" if self.window.hours > DUTY_ABOVE_H else ""
        return f"tall = on · low bar = kept off{share}"


def make_timeline(
    plan: Plan,
    replayed: Replayed | None,
    window: Window,
    mode: str,
    *,
    unsaved: bool = False,
) -> Timeline:
    """Draw every load of the plan; planned ones have an empty lane that says so.

    In a long window the words of an instant are asked for when it is shown, for a month has
    megabytes of them; of an unsaved plan nobody could be asked, so it brings them.
    """
    shows_duty = window.hours > DUTY_ABOVE_H and not unsaved
    zone = plan.house.time_zone
    first = sorted(plan.loads, key=lambda load: load.stage != "working")[:MOST_LANES]
    kept = {load.id for load in first}
    shown = [load for load in plan.loads if load.id in kept]
    lanes: list[Lane] = []
    lane_texts: list[Markup] = []
    lane_px = DENSE_PX if len(shown) > USUAL_LANES else LANE_PX
    for index, load in enumerate(shown):
        stretches = replayed.stretches(load.id) if replayed else []
        lanes.append(_lane(load, plan, replayed, window, index, lane_px))
        if replayed and stretches:
            lane_texts.append(_lane_text(replayed.loads[load.id], load, plan, window, shows_duty))
    head = {**_head(window, zone), "asked": shows_duty}
    head_json = htmlsafe_json_dumps(head, dumps=json.dumps)
    lanes_json = ", ".join(lane_texts)
    return Timeline(
        mode=mode,
        window=window,
        at_words=_at_words(window.at_ms, zone),
        ticks=time_ticks(window, zone),
        lanes=tuple(lanes),
        working=tuple(lane for lane in lanes if not lane.planned),
        zone_note=_clock_change(window, zone) or _record_note(replayed, zone),
        planned_note=_planned_note(plan, lanes),
        json=Markup(f'{head_json[:-1]}, "lanes": [{lanes_json}]}}'),  # noqa: S704  both are safe
    )


def timeline_data(plan: Plan, replayed: Replayed | None, window: Window) -> dict[str, Any]:
    """What the timeline's script is told, of every load: for programs."""
    stretches = {load.id: replayed.stretches(load.id) for load in plan.loads} if replayed else {}
    lanes = [
        _lane_data(load, stretches[load.id], window, plan)
        for load in plan.loads
        if stretches.get(load.id)
    ]
    return {**_head(window, plan.house.time_zone), "lanes": lanes}


def _head(window: Window, zone: str) -> dict[str, Any]:
    return {
        "start": window.start_ms,
        "end": window.end_ms,
        "at": window.at_ms,
        "now": window.now_ms,
        "zone": zone,
        "clock": offsets(window.start_ms, window.end_ms, zone),
        "spans": SPANS_H,
    }


def _lane(
    load: Load, plan: Plan, replayed: Replayed | None, window: Window, index: int, lane_px: int
) -> Lane:
    stretches = replayed.stretches(load.id) if replayed else []
    stretch = stretch_at(stretches, window.at_ms) if stretches else None
    words = load_words(stretch, load=load, plan=plan) if stretch else None
    blocks, priorities = (
        _drawn(replayed.loads[load.id], load.id, stretches, window, lane_px)
        if replayed and stretches
        else (Markup(), frozenset[int]())
    )
    return Lane(
        load=load,
        y=index * lane_px,
        drawn=blocks,
        priorities=priorities,
        state=words.state if words else "unknown",
        decided_by=words.decided_by if words else "nothing recorded yet",
        why=words.why if words else "",
        next_change=words.next_change if words else "unknown",
        until=words.until if words else "",
    )


def _planned_note(plan: Plan, lanes: list[Lane]) -> str:
    """How many loads are only planned, and how many are not drawn."""
    planned = [lane.load for lane in lanes if lane.planned]
    if not planned:
        return ""
    why = "no rule yet" if plan.relays_of(planned[0].id) else "not wired"
    count = f"{len(planned)} load{'' if len(planned) == 1 else 's'} planned: {why}."
    more = len(plan.loads) - len(lanes)
    return f"{count} {more} more not drawn here." if more else count


def _drawn(
    kept: LoadReplay, load_id: str, stretches: list[Stretch], window: Window, lane_px: int
) -> tuple[Markup, frozenset[int]]:
    """A lane's blocks, drawn, and the levels that are seen on it."""

    def make() -> tuple[Markup, frozenset[int]]:
        blocks = lane_blocks(stretches, window, lane_px)
        fills = {block.fill for block in blocks}
        seen = frozenset(r for r in range(1, 8) if fills & {f"url(#p{r})", SOLID.get(r, "")})
        return drawn(blocks), seen

    key = ("drawn", load_id, window.start_ms, window.end_ms, lane_px)
    parts: tuple[Markup, frozenset[int]] = kept.remembered(key, make)
    return parts


def _lane_text(kept: LoadReplay, load: Load, plan: Plan, window: Window, is_asked: bool) -> Markup:
    """A lane as the script reads it."""
    stretches = kept.rehearsal.stretches[load.id]
    text: Markup = kept.remembered(
        ("words", load.id, window.start_ms, window.end_ms, plan.house.time_zone, is_asked),
        lambda: htmlsafe_json_dumps(
            _lane_data(load, stretches, window, None if is_asked else plan), dumps=json.dumps
        ),
    )
    return text


def _at_words(t_ms: int, zone: str) -> str:
    moment = local(t_ms, zone)
    return f"{moment:%a} {moment.day} {moment:%b %Y %H:%M}"


def _lane_data(
    load: Load, stretches: list[Stretch], window: Window, plan: Plan | None
) -> dict[str, Any]:
    """The stretches of a window, with their words where the plan that says them is given."""
    first = bisect_right(stretches, window.start_ms, key=lambda stretch: stretch.end_ms)
    rows = []
    for stretch in stretches[first:]:
        if stretch.start_ms > window.end_ms:
            break
        row: dict[str, Any] = {
            "s": stretch.start_ms,
            "e": stretch.end_ms,
            "on": stretch.state,
            "by": stretch.priority,
        }
        if plan is not None:
            words = load_words(stretch, load=load, plan=plan)
            row |= {
                "state": words.state,
                "decided_by": words.decided_by,
                "until": words.until,
                "why": words.why,
                "next_change": words.next_change,
            }
        rows.append(row)
    return {"load": load.id, "name": load.name, "rows": rows}


def _clock_change(window: Window, zone: str) -> str:
    start, end = local(window.start_ms, zone), local(window.end_ms, zone)
    shift = (end.utcoffset() or timedelta()) - (start.utcoffset() or timedelta())
    if not shift:
        return ""
    return f"the clock went {'forward' if shift > timedelta() else 'back'} 1 h in this span"


def _record_note(replayed: Replayed | None, zone: str) -> str:
    """Of an old log, where it ends."""
    if replayed is None or replayed.asked_ms - replayed.end_ms < MS_PER_DAY:
        return ""
    return f"the record ends {stamp(replayed.end_ms, zone)}"
