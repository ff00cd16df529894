"""Figures as they are written: true minus, fixed places, no exponent."""

import math
from decimal import Decimal

GAP = "\u202f"  # between thousands; thin, and no line breaks there


def figure(value: float, places: int = 1) -> str:
    """`62.0`, with a true minus; `–` for no number."""
    if math.isnan(value):
        return "–"
    if math.isinf(value):
        return "no end" if value > 0 else "−no end"
    text = f"{value:.{places}f}"
    if float(text) == 0:
        text = text.removeprefix("-")
    return _as_print(text)


def places_of(resolution: float) -> int:
    """How many places a reading is told to, by the smallest step that its probe can tell."""
    return next((places for places, step in enumerate((1.0, 0.05, 0.005)) if resolution >= step), 3)


def signed(value: float, places: int = 1) -> str:
    """`+0.2`, `−0.4`, `0.0`."""
    text = figure(value, places)
    return f"+{text}" if value > 0 and float(f"{value:.{places}f}") > 0 else text


def short(value: float) -> str:
    """The shortest writing of a number to six figures, without an exponent: `62`, `0.25`."""
    return _as_print(_plain(value, 6))


def four(value: float) -> str:
    """A computed figure to four significant digits, all of a whole number: `1.329`, `16 042`."""
    if not math.isfinite(value) or abs(value) >= 1000:
        return figure(value, 0)
    return _as_print(_plain(value, 4))


def exact(value: float) -> str:
    """A limit as it is, to fifteen figures: `16 777 215`."""
    return _as_print(_plain(value, 15))


def as_typed(value: float) -> str:
    """A number as a form field holds it: every figure that was typed, a true minus."""
    return _plain(value, 12).replace("-", "−")


def _as_print(text: str) -> str:
    """A true minus, and thin gaps in what has five digits or more before the point."""
    whole, point, rest = text.partition(".")
    if len(whole.removeprefix("-")) > 4 and whole.removeprefix("-").isdigit():
        whole = f"{int(whole):,}".replace(",", GAP)
    return (whole + point + rest).replace("-", "−")


def _plain(value: float, figures: int) -> str:
    text = f"{value:.{figures}g}"
    return format(Decimal(text), "f") if "e" in text and math.isfinite(value) else text


def years(value: float) -> str:
    """Relay life: two figures are all that a rated number of starts is good for."""
    if math.isinf(value):
        return "no wear"
    if value >= 100:
        return "over 100"
    return figure(value, 1)


def ohms(value: float) -> str:
    """`470 kΩ`, `4.7 kΩ`, `680 Ω`."""
    for unit, size in (("MΩ", 1e6), ("kΩ", 1e3)):
        if value >= size:
            return f"{four(value / size)} {unit}"
    return f"{four(value)} Ω"


def thousands(number: float) -> str:
    """A whole number with thin gaps, where no line breaks, from five figures on: `1 048 576`."""
    return figure(number, 0)
