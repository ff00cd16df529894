"""Cells of CSV files that leave the product: no spreadsheet takes one for a formula."""

from aldea.core.base.numbers import NUMBER

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def safe_cell(text: str) -> str:
    """Text that no spreadsheet takes for a formula; a number, below zero too, stays a number."""
    is_formula = text.startswith(FORMULA_STARTS) and not NUMBER.fullmatch(text)
    return f"'{text}" if is_formula else text
