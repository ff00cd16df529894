"""Numbers as people and spreadsheets write them: the one reader of the whole product."""

import math
import re

# Digits of one alphabet; a point or a comma; the true minus that Aldea itself writes; an exponent.
NUMBER = re.compile(r"[+\-−]?(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)(?:[eE][+\-−]?[0-9]{1,3})?")
GROUPED = re.compile("(?<=[0-9])\u202f(?=[0-9]{3}(?![0-9]))")  # as Aldea parts thousands
WHOLE = re.compile(r"[0-9]{1,15}")  # fits the database's numbers, whatever is typed


def number_of(text: str) -> float:
    """A finite number with a decimal point or comma, a hyphen or a true minus, blanks around it.

    Raises `ValueError` for everything else: `nan`, `inf`, `1_000`, other alphabets' digits, and
    numbers beyond the range of a double.
    """
    plain = GROUPED.sub("", text.strip())
    if not NUMBER.fullmatch(plain):
        raise ValueError(f"{plain[:40]!r} is not a number")
    value = float(plain.replace("−", "-").replace(",", "."))
    if not math.isfinite(value):
        raise ValueError(f"{plain[:40]!r} is too large")
    return value


def whole_of(text: str) -> int | None:
    """A whole number as forms and addresses carry it: a row, a version, an instant; else None."""
    return int(text) if WHOLE.fullmatch(text) else None
