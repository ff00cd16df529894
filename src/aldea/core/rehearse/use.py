"""How much a load was used in a span of a replay: starts, time on, energy."""

from dataclasses import dataclass

from aldea.core.engine.replay import Run
from aldea.core.rehearse.consequence import on_spans


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """What a load did in a span: how often it began, how long it was on, what that took.

    Energy is its stated power for the time that it was on, in Wh; a load in steps counts whole.
    """

    starts: int
    on_s: float
    energy_wh: float


def use_of(run: Run, load: int, *, power_w: float, from_ms: int, to_ms: int) -> Use:
    """The use of a load, by its row, within [from, to) ms."""
    starts, on_ms = 0, 0
    for begun, ended in on_spans(run, load).tolist():
        inside = min(ended, to_ms) - max(begun, from_ms)
        if inside > 0:
            on_ms += inside
            starts += from_ms <= begun < to_ms
    return Use(starts=starts, on_s=on_ms / 1000, energy_wh=power_w * on_ms / 3_600_000)
