"""What is said of a kind of sensor before any plan: its name and what it measures."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Part
from aldea.core.base.quantities import Quantity

Energy = Annotated[float, Field(ge=0, le=1e6)]
ReadingInterval = Annotated[float, Field(gt=0, le=3600)]
ContactMeans = Literal["on", "off"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorFacts:
    """A kind of sensor: its key in the plan, what people call it, its figures, what it measures.

    `together` is what one such part may give at once, each as a probe of its own; `own_figures` are
    those that were measured on, or stand on, one part: no copy of it has them.
    """

    kind: str
    name: str
    model: type[Part]
    measures: tuple[Quantity, ...]
    together: tuple[Quantity, ...] = ()
    own_figures: tuple[str, ...] = ()
