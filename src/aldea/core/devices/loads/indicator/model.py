"""An indicator lamp or a sounder: its pattern."""

from typing import Annotated

from pydantic import Field

from aldea.core.base.parts import Part, Seconds
from aldea.core.devices.loads.facts import LoadFacts

PatternParts = Annotated[
    tuple[Annotated[float, Field(ge=0.01, le=3600)], ...], Field(min_length=2, max_length=16)
]


class Pattern(Part):
    """How a lamp or a sounder shows itself: seconds on, seconds off, again and again.

    That is pattern 1; `others` are patterns 2 and following, each as seconds on, off, on, off, …
    """

    on_s: Seconds = 0.5
    off_s: Seconds = 0.5
    others: Annotated[tuple[PatternParts, ...], Field(max_length=14)] = ()

    @property
    def all_parts_s(self) -> tuple[tuple[float, ...], ...]:
        """The parts of every pattern, in order, s; one without length is lit all the time."""
        first = (self.on_s, self.off_s) if self.on_s + self.off_s > 0 else (1.0, 0.0)
        return (first, *self.others)


INDICATOR = LoadFacts(
    kind="indicator",
    name="indicator lamp",
    usual_class="light",
    usual_nature="lamp",
    figures="pattern",
    model=Pattern,
)
SOUNDER = LoadFacts(
    kind="sounder",
    name="sounder",
    usual_class="light",
    usual_nature="lamp",
    figures="pattern",
    model=Pattern,
)
