"""Labels along the time of a timeline or a plot, by the house's clock."""

from dataclasses import dataclass
from functools import lru_cache

from aldea.core.base.instants import local, ms_of
from aldea.web.shell.window import HOUR_MS, Window


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A label on the axis."""

    x: str
    text: str
    strong: bool


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
