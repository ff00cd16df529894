"""A figure of a device as a form asks for it; its limits are those of the model itself."""

import types
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, Union, get_args, get_origin

import annotated_types

from aldea.core.base.parts import Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """How a figure is called: label, unit, a note, its choices in words.

    With `probes` it is one of the plan's probes, or what that text says. A list that is typed as a
    line of text has `write` and `read`; `read` raises `ValueError`, `example` shows how it goes.
    """

    label: str
    unit: str = ""
    note: str = ""
    options: tuple[tuple[str, str], ...] = ()
    probes: str = ""
    write: Callable[[Any], str] | None = None
    read: Callable[[str], Any] | None = None
    example: str = ""


Asks = Mapping[str, Asked]


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What a model lets a figure be: from `low` to `high`, whole or not, missing or not."""

    low: float
    high: float
    whole: bool
    optional: bool


def limits_of(model: type[Part], key: str) -> Limits:
    """The limits of a numeric field, read from the model's own annotation and constraints."""
    field = model.model_fields[key]
    low, high = float("-inf"), float("inf")
    marks: list[Any] = list(field.metadata)
    kinds = _kinds(field.annotation, marks)
    for mark in marks:
        if isinstance(mark, annotated_types.Ge):
            low = float(mark.ge)  # type: ignore[arg-type]
        elif isinstance(mark, annotated_types.Gt):
            low = float(mark.gt)  # type: ignore[arg-type]
        elif isinstance(mark, annotated_types.Le):
            high = float(mark.le)  # type: ignore[arg-type]
        elif isinstance(mark, annotated_types.Lt):
            high = float(mark.lt)  # type: ignore[arg-type]
    return Limits(low=low, high=high, whole=int in kinds, optional=type(None) in kinds)


def kinds_of(model: type[Part], key: str) -> set[Any]:
    """Every plain type that a field may hold."""
    return _kinds(model.model_fields[key].annotation, [])


def _kinds(annotation: Any, marks: list[Any]) -> set[Any]:
    """Every plain type inside an annotation; constraints on the way are gathered into `marks`."""
    if get_origin(annotation) in (Union, types.UnionType):
        return {kind for inner in get_args(annotation) for kind in _kinds(inner, marks)}
    if hasattr(annotation, "__metadata__"):
        for mark in annotation.__metadata__:
            marks.extend(getattr(mark, "metadata", [mark]))
        return _kinds(annotation.__origin__, marks)
    if get_origin(annotation) is Literal:
        return {type(choice) for choice in get_args(annotation)}
    return {annotation}
