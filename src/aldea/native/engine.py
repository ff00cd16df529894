"""The compiled engine in this process: loaded once, handed to the core."""

import ctypes
import dataclasses
from pathlib import Path
from weakref import WeakKeyDictionary

from aldea.core.base.errors import SetUpError
from aldea.core.engine.scans import Scans, use_scans
from aldea.core.engine.tables.rows import Row
from aldea.core.engine.tables.run import RunTables, rows_of_tables
from aldea.native.building import built_engine

GROUPS = tuple(part.name for part in dataclasses.fields(RunTables))
_loaded: dict[Path, Scans] = {}


def load_engine(folder: Path) -> None:
    """Let every run of this process be scanned by the compiled engine, made where it is missing.

    `folder` keeps what was compiled. Raises `SetUpError` where it cannot be made.
    """
    use_scans(scans_of(built_engine(folder)))


def scans_of(path: Path) -> Scans:
    """What scans runs by a compiled library; other threads go on meanwhile."""
    if path not in _loaded:
        _loaded[path] = _open(path)
    return _loaded[path]


def _open(path: Path) -> Scans:
    library = ctypes.CDLL(str(path))
    known = [ctypes.sizeof(row) for row in rows_of_tables()]
    there = list((ctypes.c_int32 * len(known)).in_dll(library, "aldea_row_bytes"))
    if there != known:
        raise SetUpError(
            "engine",
            got=f"{path}, whose rows are laid out in another way",
            allowed="an engine made of this very source",
            fix=f"Remove {path.parent} and start again.",
        )
    scan = library.aldea_scan
    number = ctypes.c_int64
    scan.argtypes = [ctypes.c_void_p, number, number, number, *[ctypes.c_int32] * 3]
    scan.restype = None

    # A session scans one run thousands of times; its tables stay where they lie.
    known_places: WeakKeyDictionary[RunTables, ctypes.Array[ctypes.c_int64]] = WeakKeyDictionary()

    def scans(
        run: RunTables,
        start_ms: int,
        end_ms: int,
        period_ms: int,
        running: bool,
        goes_on: bool,
        skipping: bool,
    ) -> None:
        places = known_places.get(run)
        if places is None:
            places = known_places[run] = where_tables_lie(run)
        scan(places, start_ms, end_ms, period_ms, running, goes_on, skipping)

    return scans


def where_tables_lie(run: RunTables) -> "ctypes.Array[ctypes.c_int64]":
    """Address and rows of every table, in the order in which the C declares them."""
    offsets: list[int] = []
    for group in GROUPS:
        tables = getattr(run, group)
        for part in dataclasses.fields(tables):
            table = getattr(tables, part.name)
            offsets += (ctypes.addressof(table), 1 if isinstance(table, Row) else len(table))
    return (ctypes.c_int64 * len(offsets))(*offsets)
