"""What a form is made of: a field with its unit and limits, a group of them, choices."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from aldea.core.base.figures import as_typed
from aldea.core.base.parts import Part
from aldea.core.devices.asked import limits_of
from aldea.core.plan.document import Plan

Options = tuple[tuple[str, str], ...]
STAGES: Options = (("planned", "planned, no rule yet"), ("working", "working"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One field: its name in the form and the part, how it is typed, and its value as text.

    A list that is typed as a line has `read`, which raises `ValueError`; `example` shows how.
    With `remade` the form is made anew when another is chosen: other figures belong to it.
    """

    name: str
    label: str
    kind: Literal["text", "number", "choice"] = "text"
    value: str = ""
    unit: str = ""
    low: float = float("-inf")
    high: float = float("inf")
    options: Options = ()
    optional: bool = False
    note: str = ""
    whole: bool = False
    read: Callable[[str], Any] | None = None
    remade: bool = False
    example: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Fields under one heading; `inside` is the key of the part that they belong to, or empty."""

    title: str
    fields: tuple[Field, ...]
    inside: str = ""


def text(name: str, label: str, value: object, note: str = "") -> Field:
    """A line of text."""
    return Field(name=name, label=label, value="" if value is None else str(value), note=note)


def number(part: Part, name: str, label: str, unit: str = "", *, note: str = "") -> Field:
    """A number of a part in a unit; its limits are those of the part's own model."""
    limits = limits_of(type(part), name)
    value: float | None = getattr(part, name)
    return Field(
        name=name,
        label=label,
        kind="number",
        value="" if value is None else as_typed(value),
        unit=unit,
        low=limits.low,
        high=limits.high,
        optional=limits.optional,
        note=note,
        whole=limits.whole,
    )


def choice(
    name: str,
    label: str,
    value: object,
    options: Options,
    note: str = "",
    *,
    remade: bool = False,
) -> Field:
    """One of a list."""
    return Field(
        name=name,
        label=label,
        kind="choice",
        value="" if value is None else str(value),
        options=options,
        note=note,
        remade=remade,
    )


def places(plan: Plan) -> Options:
    """Every place a thing can stand in."""
    return tuple((place.id, place.name) for place in plan.places)


def named(parts: Any, none: str) -> Options:
    """Parts to choose from, or none."""
    return (("", none), *((part.id, part.name) for part in parts))
