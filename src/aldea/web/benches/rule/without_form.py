"""The fields of what a condition on a value counts as while that value is not good."""

from collections.abc import Mapping
from typing import Any

from aldea.core.base.figures import as_typed
from aldea.core.base.instants import span
from aldea.core.plan.conditions import OnValue
from aldea.core.plan.without_reading import KEPT, Result
from aldea.web.shell.form_fields import Field, Options, choice
from aldea.web.shell.forms import Fields

MOST_S = 604_800.0
WORDS = {"keep": "keeps its last result", "true": "is true", "false": "is false"}
STATED = ("true", "false")


def _words(result: Result) -> str:
    after = f" after {span(result.after_s)}" if result.after_s else ""
    return f"{WORDS[result.counts]}{after}"


def without_fields(
    condition: OnValue | None, prefix: str, typed: Mapping[str, str], usual: Result | None
) -> tuple[Field, ...]:
    """The choice, and how long the last result stands before a stated one does.

    `usual` is what is usual for what a rule wants; a new rule begins with it. A condition that
    stands by itself wants nothing, and keeps its last result.
    """
    name = f"{prefix}without_reading"
    options: Options = tuple(WORDS.items())
    value: str = condition.without_reading if condition else "keep"
    if usual is not None:
        options = (("usual", f"as is usual here: {_words(usual)}"), *options)
        value = condition.without_reading if condition else "usual"
    value = typed.get(name, value)
    fields = [choice(name, "Without a reading it", value, options, remade=True)]
    if value in STATED:
        stands_s = condition.unchanged_for_s if condition else 0.0
        fields.append(
            Field(
                name=f"{prefix}unchanged_for_s",
                label="after",
                kind="number",
                value=as_typed(stands_s),
                unit="s",
                low=0.0,
                high=MOST_S,
                note="until then its last result",
            )
        )
    return tuple(fields)


def read_without(fields: Fields, prefix: str, usual: Result = KEPT) -> dict[str, Any]:
    """The figures of a condition; what a form leaves to what its rule wants is the usual."""
    name = f"{prefix}without_reading"
    if fields.sent.get(name, "usual") == "usual":
        return usual.fields
    counts = fields.choice(name, tuple(WORDS))
    stands = f"{prefix}unchanged_for_s"
    after_s = 0.0
    if counts in STATED and stands in fields.sent:
        after_s = fields.number(stands, low=0.0, high=MOST_S, unit="s")
    return {"without_reading": counts, "unchanged_for_s": after_s}
