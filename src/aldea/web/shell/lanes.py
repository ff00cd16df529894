"""A load's stretches as blocks on a lane: state by height, who decides by pattern."""

from collections.abc import Iterable
from dataclasses import dataclass

from markupsafe import Markup

from aldea.core.engine import layout as lay
from aldea.core.rehearse.stretches import Stretch
from aldea.web.shell.window import Window

LANE_PX = 13
TRACK_PX = 748  # what a lane is at 1280; wider tracks stretch
DUTY_ABOVE_H = 48
STEP_HEIGHT = 0.92
THINNEST_PATTERN_PX = {1: 5, 2: 5, 3: 5, 4: 5}  # under which a pattern could not be told
SOLID = {
    5: "var(--sched)",
    lay.PRIORITY_DEMAND: "var(--demand)",
    lay.PRIORITY_DEFAULT: "var(--rest)",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """A rectangle on a lane, in percent of the track and pixels of height."""

    x: str
    width: str
    y: float
    height: float
    fill: str


def drawn(blocks: Iterable[Block]) -> Markup:
    """Blocks as rectangles of a drawing."""
    return Markup(  # noqa: S704  numbers and fills of our own
        "".join(
            f'<rect x="{b.x}" y="{b.y}" width="{b.width}" height="{b.height}" fill="{b.fill}" />'
            for b in blocks
        )
    )


def lane_blocks(stretches: list[Stretch], window: Window, lane_px: int = LANE_PX) -> list[Block]:
    """A load's stretches in a window as blocks: states by height, who decides by pattern."""
    shown = [s for s in stretches if s.end_ms > window.start_ms and s.start_ms < window.end_ms]
    if window.hours > DUTY_ABOVE_H:
        return _duty(shown, window, lane_px)
    blocks: list[Block] = []
    for stretch in shown:
        x = max(0.0, window.pct(stretch.start_ms))
        width = min(100.0, window.pct(stretch.end_ms)) - x
        priority = stretch.priority
        if stretch.state or priority not in (lay.PRIORITY_DEFAULT, 0):
            tall = bool(stretch.state)
            height = lane_px * STEP_HEIGHT if tall else 4.0
            least = THINNEST_PATTERN_PX.get(priority, 1.2) * 100 / TRACK_PX
            narrow = width < 100 * 3 / TRACK_PX
            fill = SOLID[priority] if narrow and priority in SOLID else f"url(#p{priority})"
            blocks.append(
                Block(
                    x=f"{x:.3f}%",
                    width=f"{max(width, least):.3f}%",
                    y=lane_px - height,
                    height=height,
                    fill=fill,
                )
            )
        elif priority == 0:
            blocks.append(
                Block(
                    x=f"{x:.3f}%",
                    width=f"{max(width, 0.4):.3f}%",
                    y=0,
                    height=lane_px,
                    fill="url(#p0)",
                )
            )
    return blocks


def _duty(shown: list[Stretch], window: Window, lane_px: int) -> list[Block]:
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
            height = max(1.0, share * lane_px * STEP_HEIGHT)
            blocks.append(
                Block(
                    x=f"{100 * index / bins:.3f}%",
                    width=f"{100 / bins:.3f}%",
                    y=lane_px - height,
                    height=round(height, 2),
                    fill=SOLID[lay.PRIORITY_DEMAND],
                )
            )
    return blocks
