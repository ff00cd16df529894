"""What a function has an answer for, said beside it: anything else is refused with the range."""

import functools
import inspect
import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import ParamSpec, TypeVar

from aldea.core.base.errors import InputError
from aldea.core.base.figures import exact, short

Takes = ParamSpec("Takes")
Gives = TypeVar("Gives")


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """From `low` to `high`, both among them unless `strict`; never NaN, never without an end."""

    low: float = -math.inf
    high: float = math.inf
    strict: bool = False

    def holds(self, value: float) -> bool:
        """Whether a value lies within."""
        if not math.isfinite(value):
            return False
        return self.low < value < self.high if self.strict else self.low <= value <= self.high

    @property
    def words(self) -> str:
        """As it is said in a refusal."""
        if math.isfinite(self.low) and math.isfinite(self.high):
            between = "between" if self.strict else "from"
            return (
                f"{between} {exact(self.low)} {'and' if self.strict else 'to'} {exact(self.high)}"
            )
        if math.isfinite(self.low):
            return f"above {exact(self.low)}" if self.strict else f"{exact(self.low)} or more"
        return "a finite number"


FINITE = Limit()
ABOVE_ZERO = Limit(low=0.0, strict=True)
ZERO_OR_MORE = Limit(low=0.0)
ONE_OR_MORE = Limit(low=1.0)
SHARE = Limit(low=0.0, high=1.0)
INNER_SHARE = Limit(low=0.0, high=1.0, strict=True)
TOLERANCE = Limit(low=0.0, high=0.99)
PER_CENT = Limit(low=1e-6, high=100.0)
HUMID = Limit(low=0.0, high=100.0)
AIR_DEGC = Limit(low=-100.0, high=100.0)
WORKSHOP_DEGC = Limit(low=-200.0, high=300.0)


def takes(**limits: Limit) -> Callable[[Callable[Takes, Gives]], Callable[Takes, Gives]]:
    """Refuse arguments out of their limits with `InputError`; each of a sequence is looked at."""

    def guarded(function: Callable[Takes, Gives]) -> Callable[Takes, Gives]:
        signature = inspect.signature(function)

        @functools.wraps(function)
        def called(*args: Takes.args, **kwargs: Takes.kwargs) -> Gives:
            given = signature.bind(*args, **kwargs).arguments
            for name, limit in limits.items():
                sent = given.get(name)
                for value in sent if isinstance(sent, Iterable) else (sent,):
                    if value is not None and not limit.holds(value):
                        where = name.rpartition("_")[0].replace("_", " ") or name
                        raise InputError(where, got=f"{short(value)}", allowed=limit.words)
            return function(*args, **kwargs)

        return called

    return guarded
