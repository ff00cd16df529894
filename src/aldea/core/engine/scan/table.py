"""A table of a run as the compiler knows it: where its cells lie, its rows and its columns.

Lighter than the compiler's own arrays, in the code that it makes and in making it: no negative
index, no strides, no owner. Cells are 64 bits wide.
"""

import operator
from collections.abc import Mapping
from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.core.typing.templates import (
    AbstractTemplate,
    AttributeTemplate,
    infer_getattr,
    infer_global,
    signature,
)
from numba.extending import (
    intrinsic,
    lower_builtin,
    lower_getattr,
    models,
    register_model,
)

WORD = ir.IntType(64)
ADDRESS, ROWS, COLUMNS = range(3)
ROW_INTS = 3


class Table(types.Type):
    """Rows of cells of one kind; of one dimension, cells. `width` is 0 where it is not known."""

    def __init__(self, dtype: types.Type, dimensions: int, width: int) -> None:
        self.dtype, self.dimensions, self.width = dtype, dimensions, width
        super().__init__(name=f"Table({dtype}, {dimensions}, {width})")


@register_model(Table)
class TableModel(models.StructModel):
    """Where the first cell lies, how many rows there are, how many cells a row has."""

    def __init__(self, manager: Any, kind: Table) -> None:
        members = [
            ("data", types.CPointer(kind.dtype)),
            ("rows", types.int64),
            ("columns", types.int64),
        ]
        super().__init__(manager, kind, members)


def view_of(kind: types.Type, dimensions: int, widths: Mapping[int, int]) -> Any:
    """What finds a table of a run by its number: a function for compiled code."""

    def made(typing_context: Any, run: Any, number: Any) -> Any:
        if not isinstance(number, types.IntegerLiteral):
            return None
        width = widths.get(number.literal_value, 0) if dimensions > 1 else 1
        table = Table(kind, dimensions, width)

        def lower(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            base = builder.inttoptr(args[0], WORD.as_pointer())
            first = ROW_INTS * number.literal_value

            def cell(column: int) -> Any:
                found = builder.load(builder.gep(base, [WORD(first + column)]))
                # Nothing writes there while a run goes on: no store makes it be read again.
                found.set_metadata("invariant.load", builder.module.add_metadata([]))
                return found

            view = cgutils.create_struct_proxy(table)(context, builder)
            view.data = builder.inttoptr(cell(ADDRESS), view.data.type)
            view.rows = cell(ROWS)
            view.columns = WORD(width) if width else cell(COLUMNS)
            return view._getvalue()

        return table(types.int64, number), lower

    return intrinsic(prefer_literal=True)(made)


def _index(table: Table) -> Any:
    return types.UniTuple(types.int64, 2) if table.dimensions > 1 else types.int64


@infer_global(operator.getitem)
class ReadCell(AbstractTemplate):
    """The type of a cell that is read."""

    def generic(self, args: Any, kws: Any) -> Any:
        """Its signature; None where something else than a table is indexed."""
        if isinstance(args[0], Table):
            return signature(args[0].dtype, args[0], _index(args[0]))
        return None


@infer_global(operator.setitem)
class WriteCell(AbstractTemplate):
    """The types of a cell that is written."""

    def generic(self, args: Any, kws: Any) -> Any:
        """Its signature; None where something else than a table is indexed."""
        if isinstance(args[0], Table):
            return signature(types.none, args[0], _index(args[0]), args[0].dtype)
        return None


@infer_getattr
class TableAttributes(AttributeTemplate):
    """What is asked of a table beside its cells."""

    key = Table

    def resolve_shape(self, table: Table) -> Any:
        """Rows and columns."""
        return types.UniTuple(types.int64, table.dimensions)


def _cell(context: Any, builder: Any, table: Table, value: Any, index: Any) -> Any:
    view = cgutils.create_struct_proxy(table)(context, builder, value=value)
    at = index
    if table.dimensions > 1:
        row, column = cgutils.unpack_tuple(builder, index, 2)
        width = WORD(table.width) if table.width else view.columns
        at = builder.add(builder.mul(row, width), column)
    return builder.gep(view.data, [at])


@lower_builtin(operator.getitem, Table, types.UniTuple)
@lower_builtin(operator.getitem, Table, types.Integer)
def read_cell(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    """A cell that is read."""
    return builder.load(_cell(context, builder, signature.args[0], *args))


@lower_builtin(operator.setitem, Table, types.UniTuple, types.Any)
@lower_builtin(operator.setitem, Table, types.Integer, types.Any)
def write_cell(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    """A cell that is written."""
    builder.store(args[2], _cell(context, builder, signature.args[0], *args[:2]))
    return context.get_dummy_value()


@lower_getattr(Table, "shape")
def shape_of(context: Any, builder: Any, table: Table, value: Any) -> Any:
    """Rows and columns as a tuple."""
    view = cgutils.create_struct_proxy(table)(context, builder, value=value)
    sizes = [view.rows, view.columns][: table.dimensions]
    return cgutils.pack_array(builder, sizes)
