"""The tables of a run inside a scan: each is found by its number, so that a function takes one row.

A function of a compiler that takes sixty arrays pays for sixty at every call, and so does compiling
it. `packed` writes down where each table lies, and a scan is given where that row lies: one number.
`int_table(run, LOADS_INTS)` is that table again, for the compiler (`table.py`) and for plain Python
alike. An index is never negative: the compiled table does not count from its end.
"""

import ctypes
from typing import Any

import numpy as np
from numba import types

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.engine.layout import E_INTS
from aldea.core.engine.scan.table import ROW_INTS, view_of
from aldea.core.engine.tables.conditions import C_INTS, N_FLOATS, N_INTS
from aldea.core.engine.tables.loads import K_INTS, L_INTS, O_INTS, Q_INTS, R_INTS, W_INTS
from aldea.core.engine.tables.probes import P_FLOATS, P_INTS, S_FLOATS, S_INTS, U_FLOATS

(
    PROBES_FLOATS,
    PROBES_INTS,
    PROBES_DERIVED,
    PROBES_DERIVED_FLOATS,
    PROBES_MEMBERS,
    PROBES_RATES,
    CONDITIONS_INTS,
    CONDITIONS_FLOATS,
    CONDITIONS_MEMBERS,
    LOADS_INTS,
    LOADS_FLOATS,
    LOADS_CLAIMS,
    LOADS_LINES,
    LOADS_COMBOS,
    LOADS_PATTERNS,
    LOADS_PARTS_MS,
    LOADS_EXCLUSIVE,
    LOADS_EXCLUSIVE_LINES,
    PEOPLE_BUTTONS,
    PEOPLE_SELECTORS,
    PEOPLE_POSITIONS,
    PEOPLE_CODES,
    PEOPLE_ACTIONS,
    PEOPLE_MODES,
    PEOPLE_DOORWAYS,
    MEMORY_FIELDS,
    MEMORY_POLICY,
    RUN_HEAD,
    PROBES_NOW_FLOATS,
    PROBES_NOW_INTS,
    PROBES_NOW_RING,
    PROBES_NOW_SCRATCH,
    PROBES_NOW_VALUES,
    PROBES_NOW_GOOD,
    PROBES_NOW_QUIET,
    PROBES_NOW_RATE_MS,
    PROBES_NOW_RATE_VALUES,
    PROBES_NOW_RATES,
    RUN_CONDITIONS,
    LOADS_NOW_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_LINES,
    LOADS_NOW_STARTS_MS,
    LOADS_NOW_TURNS,
    PEOPLE_NOW_INPUTS,
    PEOPLE_NOW_BUTTONS,
    PEOPLE_NOW_SELECTORS,
    PEOPLE_NOW_CODES,
    PEOPLE_NOW_MODES,
    PEOPLE_NOW_DOORWAYS,
    CALENDAR_NOW_SCHEDULES,
    CALENDAR_NOW_BEGUN,
    MEMORY_NOW_HEADS,
    MEMORY_NOW_SLOTS,
    MEMORY_NOW_SLOT_HEADS,
    MEMORY_NOW_BEFORE,
    MEMORY_NOW_NOW,
    MEMORY_NOW_BASE,
    MEMORY_NOW_SNAPSHOT,
    CALENDAR_SCHEDULES,
    CALENDAR_SPANS,
    CALENDAR_MOMENTS,
    CALENDAR_SUNS,
    CALENDAR_SUN_INSTANTS,
    CALENDAR_RESETS,
    CALENDAR_RESET_INSTANTS,
    INPUTS_SAMPLE_MS,
    INPUTS_SAMPLE_PROBE,
    INPUTS_SAMPLE_VALUE,
    INPUTS_LEVELS,
    INPUTS_MESSAGES,
    INPUTS_CLOCK,
    INPUTS_CUTS,
    OUT_COUNTS,
    OUT_EVENTS,
    OUT_VALUES,
    OUT_LINES,
    OUT_WRITES,
    OUT_CELLS,
    OUT_TRACE,
    OUT_QUALITIES,
) = range(81)
TABLES = 81
FLOATS = frozenset(
    {
        PROBES_FLOATS,
        PROBES_DERIVED_FLOATS,
        CONDITIONS_FLOATS,
        LOADS_FLOATS,
        PROBES_NOW_FLOATS,
        PROBES_NOW_RING,
        PROBES_NOW_SCRATCH,
        PROBES_NOW_VALUES,
        PROBES_NOW_QUIET,
        PROBES_NOW_RATE_VALUES,
        INPUTS_SAMPLE_VALUE,
        OUT_VALUES,
        OUT_TRACE,
    }
)
# Columns that the compiler may rely on, of the tables that every scan goes through.
WIDTHS = {
    PROBES_FLOATS: P_FLOATS,
    PROBES_INTS: P_INTS,
    PROBES_NOW_FLOATS: S_FLOATS,
    PROBES_NOW_INTS: S_INTS,
    PROBES_NOW_QUIET: U_FLOATS,
    CONDITIONS_INTS: N_INTS,
    CONDITIONS_FLOATS: N_FLOATS,
    RUN_CONDITIONS: C_INTS,
    LOADS_INTS: L_INTS,
    LOADS_CLAIMS: K_INTS,
    LOADS_LINES: R_INTS,
    LOADS_NOW_INTS: O_INTS,
    LOADS_NOW_CLAIMS: Q_INTS,
    LOADS_NOW_LINES: W_INTS,
    OUT_EVENTS: E_INTS,
}
MOST_KNOWN = 1000


def packed(*tables: Any) -> IntArray:
    """Where each table of a run lies: address, rows, columns; in the order of the numbers above.

    The tables must be held elsewhere for as long as the row is used.
    """
    found: list[np.ndarray] = []

    def walk(part: Any) -> None:
        if isinstance(part, np.ndarray):
            kind = np.float64 if len(found) in FLOATS else np.int64
            if not part.flags.c_contiguous or part.dtype != kind:
                raise AssertionError(f"table {len(found)}: {part.dtype}")
            if WIDTHS.get(len(found), part.shape[-1]) != part.shape[-1]:
                raise AssertionError(f"table {len(found)}: {part.shape}")
            found.append(part)
            return
        for member in part:
            walk(member)

    for part in tables:
        walk(part)
    if len(found) != TABLES:
        raise AssertionError
    run = np.zeros((TABLES, 3), dtype=np.int64)
    for row, table in enumerate(found):
        run[row] = table.ctypes.data, len(table), table.shape[1] if table.ndim > 1 else 1
    return run.ravel()


int_table: Any = view_of(types.int64, 2, WIDTHS)
float_table: Any = view_of(types.float64, 2, WIDTHS)
int_row: Any = view_of(types.int64, 1, WIDTHS)
float_row: Any = view_of(types.float64, 1, WIDTHS)


def _plainly(kind: Any, dimensions: int) -> Any:
    """The same for plain Python."""
    known: dict[tuple[int, int, int], IntArray | FloatArray] = {}

    def made(run: int, number: int) -> IntArray | FloatArray:
        row = (ctypes.c_int64 * ROW_INTS).from_address(run + 8 * ROW_INTS * number)
        address, rows, columns = row
        key = (address, rows, columns)
        if key not in known:
            if len(known) > MOST_KNOWN:
                known.clear()
            cells = (kind * (rows * columns)).from_address(address)
            view = np.ctypeslib.as_array(cells)
            known[key] = view.reshape(rows, columns) if dimensions > 1 else view
        return known[key]

    return made


int_table.plain = _plainly(ctypes.c_int64, 2)
float_table.plain = _plainly(ctypes.c_double, 2)
int_row.plain = _plainly(ctypes.c_int64, 1)
float_row.plain = _plainly(ctypes.c_double, 1)
