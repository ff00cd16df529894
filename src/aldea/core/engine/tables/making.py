"""Small helpers that every table is made with."""

from collections.abc import Sequence

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray


def ints(rows: Sequence[Sequence[int]], width: int) -> IntArray:
    """Rows as int64, shape (n, width), also where there is none."""
    return np.array(rows, dtype=np.int64).reshape(len(rows), width)


def floats(rows: Sequence[Sequence[float]], width: int) -> FloatArray:
    """Rows as float64, shape (n, width), also where there is none."""
    return np.array(rows, dtype=np.float64).reshape(len(rows), width)


def row_of(width: int, filled: dict[int, int], empty: int = 0) -> list[int]:
    """A row with some columns filled."""
    row = [empty] * width
    for column, value in filled.items():
        row[column] = value
    return row
