"""What an expression of the scan is: a number of some width, a row, a table, a group of tables."""

import ctypes
import dataclasses
from dataclasses import dataclass
from functools import cache
from typing import Any, get_args, get_origin, get_type_hints

from aldea.core.engine.tables.rows import Cells, Row, Table
from aldea.core.engine.tables.run import (
    CalendarTables,
    InputTables,
    OutTables,
    PlanTables,
    RunTables,
    StateTables,
)

BITS = {ctypes.c_int8: 8, ctypes.c_int16: 16, ctypes.c_int32: 32, ctypes.c_int64: 64}
GROUPS: dict[str, type] = {
    "plan": PlanTables,
    "calendar": CalendarTables,
    "inputs": InputTables,
    "now": StateTables,
    "out": OutTables,
}
NEVER_WRITTEN = (PlanTables, CalendarTables, InputTables)


class WriterError(Exception):
    """The scan's source uses something that the writer does not know, or means two things."""


@dataclass(frozen=True, slots=True)
class Kind:
    """What an expression is: `name` says which of the sorts below.

    `int` has `bits`; `row` and `table` are `of` a class of rows, `cells` of a kind of number,
    `group` of a class of tables.
    """

    name: str
    bits: int = 0
    of: Any = None
    const: bool = False

    @property
    def c_type(self) -> str:
        """The type of a variable of this kind."""
        if self.name == "int":
            return f"int{max(self.bits, 32)}_t"
        if self.name == "row":
            return f"{'const ' if self.const else ''}{self.of.__name__} *"
        if self.name == "cells":
            return f"const {number_type(self.of)} *"
        return {"real": "double", "bool": "bool", "none": "void"}[self.name]


NONE, BOOL, REAL = Kind("none"), Kind("bool"), Kind("real")
INT64 = Kind("int", 64)
RUN = Kind("run", of=RunTables)


def number_type(number: Any) -> str:
    """The type in C of a kind of number of a column or of cells."""
    return "double" if number is ctypes.c_double else f"int{BITS[number]}_t"


def number_kind(number: Any) -> Kind:
    """The kind of what is read from a column or from cells."""
    return REAL if number is ctypes.c_double else Kind("int", BITS[number])


@cache
def columns_of(row: type[Row]) -> dict[str, Any]:
    """The columns of a class of rows, in the order in which they lie."""
    return dict(row._fields_)  # type: ignore[arg-type]


@cache
def tables_of(group: type) -> dict[str, Kind]:
    """What a group holds, by name."""
    const = group in NEVER_WRITTEN
    hints = get_type_hints(group, include_extras=True)
    tables = {}
    for part in dataclasses.fields(group):
        hint = hints[part.name]
        if isinstance(hint, type) and issubclass(hint, Row):
            tables[part.name] = Kind("row", of=hint, const=const)
        elif get_origin(hint) is Table:
            tables[part.name] = Kind("table", of=get_args(hint)[0], const=const)
        elif get_origin(hint) is Cells:
            tables[part.name] = Kind("cells", of=get_args(get_args(hint)[0])[1], const=const)
        else:
            raise WriterError(f"{group.__name__}.{part.name}: {hint}")
    return tables


@cache
def is_const(row: type[Row]) -> bool:
    """Whether rows of a class are never written by a scan."""
    return any(kind.of is row for group in NEVER_WRITTEN for kind in tables_of(group).values())


def kind_of_annotation(hint: Any, where: str) -> Kind:
    """The kind of a parameter, or of what a function returns."""
    plain = {int: INT64, float: REAL, bool: BOOL, type(None): NONE, None: NONE, RunTables: RUN}
    if hint in plain:
        return plain[hint]
    if isinstance(hint, type) and issubclass(hint, Row):
        return Kind("row", of=hint, const=is_const(hint))
    if get_origin(hint) is Cells:
        return Kind("cells", of=get_args(get_args(hint)[0])[1], const=True)
    raise WriterError(f"{where}: {hint} is no kind that the scan knows")
