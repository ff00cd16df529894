"""Rows of one's own in an uncertainty budget: read from a form's fields, refused at theirs."""

import math
from collections.abc import Mapping

from aldea.core.calibrate.uncertainty_budget import DIVISOR, BudgetRow, Distribution
from aldea.web.shell.form_fields import Options
from aldea.web.shell.forms import Fields

MOST_OWN = 3
SPREADS: dict[Distribution, str] = {
    "rectangular": "± half-width, even",
    "triangular": "± half-width, peaked",
    "standard": "one sigma",
    "expanded_k2": "U, k = 2",
    "resolution": "one whole step",
}
SPREAD_OPTIONS: Options = tuple(SPREADS.items())
PARTS = ("label", "value", "spread", "sensitivity", "freedom")
OWN_ROWS = tuple(
    {part: f"own_{part}_{n}" for part in PARTS} | {"called": f"Row {n}"}
    for n in range(1, MOST_OWN + 1)
)  # the names of each row's fields
FIRST = {"label": "", "value": "", "spread": "rectangular", "sensitivity": "1", "freedom": ""}


def own_names() -> tuple[str, ...]:
    """The names of all fields, row by row."""
    return tuple(f"own_{part}_{n}" for n in range(1, MOST_OWN + 1) for part in PARTS)


def own_typed(sent: Mapping[str, str]) -> dict[str, str]:
    """What stands in the fields."""
    return {name: sent.get(name, FIRST[name.split("_")[1]]) for name in own_names()}


def own_carried(sent: Mapping[str, str]) -> dict[str, str]:
    """The fields that another page has to be sent: those of rows that have a value."""
    typed = own_typed(sent)
    rows = [n for n in range(1, MOST_OWN + 1) if typed[f"own_value_{n}"].strip()]
    return {f"own_{part}_{n}": typed[f"own_{part}_{n}"] for n in rows for part in PARTS}


def own_rows(sent: Mapping[str, str], errors: dict[str, str]) -> tuple[BudgetRow, ...]:
    """The rows that have a value; a wrong one is named in `errors` and left out."""
    fields = Fields(own_typed(sent), errors)
    rows = []
    for n in range(1, MOST_OWN + 1):
        if not fields.text(f"own_value_{n}"):
            continue
        before = len(errors)
        value = fields.number(f"own_value_{n}", low=0, high=1000)
        spread = fields.choice(f"own_spread_{n}", tuple(DIVISOR))
        sensitivity = fields.number(f"own_sensitivity_{n}", low=-1000, high=1000)
        freedom = math.inf
        if fields.text(f"own_freedom_{n}"):
            freedom = fields.number(f"own_freedom_{n}", low=1, high=1e6)
        label = fields.text(f"own_label_{n}", most=60) or f"Own row {n}"
        if len(errors) == before:
            rows.append(
                BudgetRow(
                    label=label,
                    value=value,
                    distribution=next(key for key in DIVISOR if key == spread),
                    sensitivity=sensitivity,
                    degrees_of_freedom=freedom,
                )
            )
    return tuple(rows)
