"""What a rule of the plan's parts says of a value that does not fit, in words of a person."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from aldea.core.base.figures import exact
from aldea.core.base.parts import WORDS_OF_PATTERN

NUMBER = "a number"
WORDS = {
    "float_type": NUMBER,
    "float_parsing": NUMBER,
    "finite_number": "a finite number",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_parsing_size": "a smaller whole number",
    "int_from_float": "a whole number",
    "bool_type": "yes or no",
    "bool_parsing": "yes or no",
    "string_type": "text",
    "tuple_type": "a list",
    "list_type": "a list",
    "dict_type": "an object with keys",
    "model_type": "an object with keys",
    "model_attributes_type": "an object with keys",
    "none_required": "nothing",
}
WORDS_WITH = {
    "string_too_short": ("min_length", "{} characters or more"),
    "string_too_long": ("max_length", "up to {} characters"),
    "too_short": ("min_length", "{} or more"),
    "too_long": ("max_length", "up to {}"),
    "literal_error": ("expected", "one of {}"),
    "greater_than_equal": ("ge", "{} or more"),
    "greater_than": ("gt", "above {}"),
    "less_than_equal": ("le", "up to {}"),
    "less_than": ("lt", "under {}"),
}
UNKNOWN = "only the keys of /schema/plan.json (a number's unit is part of its key)"
LONGEST = 80  # of what was given, as it is said again


@dataclass(frozen=True, slots=True, kw_only=True)
class Unfit:
    """One value that does not fit: the steps that lead to it, what it is, what is wanted."""

    steps: tuple[str, ...]
    got: str
    allowed: str

    @property
    def field(self) -> str:
        """The last key on the way to it; empty for the whole."""
        return next((step for step in reversed(self.steps) if not step.isdigit()), "")


def unfit(problems: Sequence[Mapping[str, Any]]) -> tuple[Unfit, ...]:
    """The problems that a validation lists (`ValidationError.errors()`), each in words."""
    return tuple(_unfit(problem) for problem in problems)


def _unfit(problem: Mapping[str, Any]) -> Unfit:
    kind, given = problem["type"], problem.get("input")
    steps = tuple(str(step) for step in problem["loc"])
    if kind == "extra_forbidden":
        return Unfit(steps=steps, got=f"the unknown key {steps[-1]!r}", allowed=UNKNOWN)
    if kind == "missing":
        return Unfit(steps=steps, got="nothing", allowed="a value for this key, it is required")
    if isinstance(given, (str, float, int)) or given is None:
        got = repr(given if given is not None else "")[:LONGEST]
    else:
        got = f"{len(given)} of them" if isinstance(given, (list, tuple)) else "another thing"
    return Unfit(steps=steps, got=got, allowed=_wanted(kind, problem))


def _wanted(kind: str, problem: Mapping[str, Any]) -> str:
    facts: Mapping[str, Any] = problem.get("ctx") or {}
    if kind == "string_pattern_mismatch":
        return WORDS_OF_PATTERN[facts["pattern"]]
    if kind == "string_too_short" and facts["min_length"] == 1:
        return "at least one character"
    if kind in WORDS_WITH:
        name, words = WORDS_WITH[kind]
        expected = facts[name]
        return words.format(
            expected.replace("'", "") if isinstance(expected, str) else exact(expected)
        )
    text = str(problem["msg"]).removeprefix("Input should be ").removeprefix("Value error, ")
    return WORDS.get(kind, text[:1].lower() + text[1:])
