"""What a form is made of: a field with its unit and limits, a group of them, choices."""

from dataclasses import dataclass
from typing import Any, Literal

from aldea.core.plan.document import Plan
from aldea.core.words.figures import short

Options = tuple[tuple[str, str], ...]
STAGES: Options = (("planned", "planned, no rule yet"), ("working", "working"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One field: its name in the form and the part, how it is typed, and its value as text."""

    name: str
    label: str
    kind: Literal["text", "number", "choice"] = "text"
    value: str = ""
    unit: str = ""
    low: float = 0.0
    high: float = 1e9
    options: Options = ()
    optional: bool = False
    note: str = ""
    whole: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Fields under one heading; `inside` is the key of the part that they belong to, or empty."""

    title: str
    fields: tuple[Field, ...]
    inside: str = ""


def text(name: str, label: str, value: object, note: str = "") -> Field:
    """A line of text."""
    return Field(name=name, label=label, value="" if value is None else str(value), note=note)


def number(
    name: str,
    label: str,
    value: float | None,
    unit: str,
    low: float,
    high: float,
    *,
    optional: bool = False,
    note: str = "",
    whole: bool = False,
) -> Field:
    """A number in a unit with its limits."""
    return Field(
        name=name,
        label=label,
        kind="number",
        value="" if value is None else short(value),
        unit=unit,
        low=low,
        high=high,
        optional=optional,
        note=note,
        whole=whole,
    )


def choice(name: str, label: str, value: object, options: Options, note: str = "") -> Field:
    """One of a list."""
    return Field(
        name=name,
        label=label,
        kind="choice",
        value="" if value is None else str(value),
        options=options,
        note=note,
    )


def places(plan: Plan) -> Options:
    """Every place a thing can stand in."""
    return tuple((place.id, place.name) for place in plan.places)


def named(parts: Any, none: str) -> Options:
    """Parts to choose from, or none."""
    return (("", none), *((part.id, part.name) for part in parts))
