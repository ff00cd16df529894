"""How much a load was used in the recorded part of a replay: starts, time on, energy."""

from dataclasses import dataclass

from aldea.core.engine.replay import Run
from aldea.core.rehearse.consequence import on_spans
from aldea.core.rehearse.recorded import Recorded


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """What a load did in a span: how often it began, how long it was on, what that took.

    Energy is its stated power for the time that it was on, in Wh; a load in steps counts whole.
    """

    starts: int
    on_s: float
    energy_wh: float


def use_of(run: Run, load: int, *, power_w: float, recorded: Recorded) -> Use:
    """The use of a load, by its row, while something was recorded."""
    spans = on_spans(run, load)
    on_ms = recorded.within(spans)
    return Use(
        starts=len(recorded.holds(spans[:, 0])),
        on_s=on_ms / 1000,
        energy_wh=power_w * on_ms / 3_600_000,
    )
