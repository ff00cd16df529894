"""Rows of the engine's tables: named columns of stated widths, alike for Python, numpy and C.

A table is an array of such rows in memory. Plain Python reads it as it is (`loads[3].state`),
numpy looks at a column of it (`column`), and the C that is written from the scan reads the same
bytes through a struct of the same name.
"""

import ctypes
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, ClassVar, Protocol, Self, TypeVar, get_args
from typing import get_type_hints as hints_of

import numpy as np

from aldea.core.base.errors import InputError

I8 = Annotated[int, ctypes.c_int8]  # a flag
I16 = Annotated[int, ctypes.c_int16]  # a code, or a row of a table
I32 = Annotated[int, ctypes.c_int32]  # a count, or a place in a table of cells
I64 = Annotated[int, ctypes.c_int64]  # an instant or a duration, ms
Real = Annotated[float, ctypes.c_double]

R = TypeVar("R", bound="Row")
T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)


class Table(Protocol[T_co]):
    """Rows of one kind, found by their number; never counted from the end."""

    def __getitem__(self, row: int, /) -> T_co: ...
    def __iter__(self) -> Iterator[T_co]: ...
    def __len__(self) -> int: ...


class Cells(Protocol[T]):
    """Numbers of one width, found by their place; never counted from the end."""

    def __getitem__(self, cell: int, /) -> T: ...
    def __setitem__(self, cell: int, value: T, /) -> None: ...
    def __iter__(self) -> Iterator[T]: ...
    def __len__(self) -> int: ...


class Row(ctypes.Structure):
    """A row of a table. Columns that are not given are 0.

    Raises `TypeError` for a column that it does not have, and `InputError` where a whole number
    does not fit its column.
    """

    _columns: ClassVar[frozenset[str]] = frozenset()

    def __init__(self, **given: Any) -> None:
        if not self._columns.issuperset(given):
            raise TypeError(f"{type(self).__name__} has no {set(given) - self._columns}")
        super().__init__(**given)
        for name, value in given.items():
            if not isinstance(value, float) and getattr(self, name) != value:
                raise InputError(
                    f"{type(self).__name__}.{name}",
                    text=f"{value} is more than the engine counts to in one table "
                    f"({name}). Divide the house into smaller ones.",
                )

    def copied(self) -> Self:
        """A row with the same figures."""
        return type(self).from_buffer_copy(self)


def row(kind: type[R]) -> type[R]:
    """Lay out the columns of a row: the widest first, so that none leaves a hole before it."""
    columns = [
        (name, get_args(hint)[1])
        for name, hint in hints_of(kind, include_extras=True).items()
        if not name.startswith("_")
    ]
    columns.sort(key=lambda column: -ctypes.sizeof(column[1]))
    kind._fields_ = columns
    kind._columns = frozenset(name for name, _ in columns)
    return kind


def table_of(kind: type[R], rows: Sequence[R]) -> Table[R]:
    """Rows as a table of their kind."""
    table: Table[R] = (kind * len(rows))(*rows)
    return table


def table_over(kind: type[R], columns: dict[str, Any]) -> Table[R]:
    """A table of long columns, shape (rows,) each, by their names."""
    rows = np.zeros(len(next(iter(columns.values()))), dtype=kind)
    for name, values in columns.items():
        rows[name] = values
    table: Table[R] = _in_memory_of(rows, kind)
    return table


def room_for(kind: Any, count: int) -> Any:
    """A table of `count` rows, or cells of a width, that nobody has written yet.

    Memory that is not touched costs nothing.
    """
    kind = kind if isinstance(kind, type) else get_args(kind)[1]
    return _in_memory_of(np.empty(count, dtype=kind), kind)


def _in_memory_of(array: Any, kind: Any) -> Any:
    cells = (kind * array.size).from_address(array.ctypes.data)
    cells._array = array  # keeps the memory for as long as the cells are used
    return cells


def fresh_table(kind: type[R], rows: int) -> Table[R]:
    """A table of so many rows, every column 0."""
    table: Table[R] = (kind * rows)()
    return table


def cells_of(width: Any, values: Sequence[Any]) -> Cells[Any]:
    """Numbers as cells of one width: `I8`, `I16`, `I32`, `I64` or `Real`."""
    kind = get_args(width)[1]
    table: Cells[Any] = (kind * len(values))(*values)
    if kind is not ctypes.c_double and list(table) != list(values):
        raise InputError(
            "cells", text="There are more rows than the engine counts to. Divide the house."
        )
    return table


def fresh_cells(width: Any, count: int) -> Cells[Any]:
    """So many numbers of one width, each 0."""
    table: Cells[Any] = (get_args(width)[1] * count)()
    return table


def as_array(table: Any) -> Any:
    """Cells, or the rows of a table, as an array of numpy over the same memory."""
    return np.frombuffer(table, dtype=table._type_) if len(table) else np.zeros(0, table._type_)


def column(table: Any, name: str) -> Any:
    """A column of a table as an array of numpy over the same memory, shape (rows,)."""
    return as_array(table)[name]


def over(array: Any) -> Any:
    """An array of numpy, of 64 bits in one piece, as cells over the same memory."""
    kind = ctypes.c_double if array.dtype == np.float64 else ctypes.c_int64
    if not array.flags.c_contiguous or array.dtype != np.dtype(kind):
        raise TypeError(f"cells of 64 bits in one piece, not {array.dtype}")
    return _in_memory_of(array, kind)
