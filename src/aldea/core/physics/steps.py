"""Steps of a load as percent of the highest, and back without loss."""

from aldea.core.base.limits import FINITE, ONE_OR_MORE, ZERO_OR_MORE, takes


@takes(step=ZERO_OR_MORE, steps=ONE_OR_MORE)
def percent_of_step(step: int, steps: int) -> int:
    """A step as a share of the highest, %: rounded so that no two of up to 100 steps share one."""
    return round(100 * step / steps)


@takes(percent=FINITE, steps=ONE_OR_MORE)
def step_of_percent(percent: float, steps: int) -> int:
    """The step that a share of the highest means, %: the nearest one, 0 only at nothing.

    `step_of_percent(percent_of_step(k, n), n) == k` for up to 100 steps.
    """
    if percent <= 0:
        return 0
    return min(steps, max(1, round(percent * steps / 100)))
