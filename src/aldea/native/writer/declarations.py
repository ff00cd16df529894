"""Rows, groups of tables and constants of the scan, declared in C."""

import inspect
import io
import tokenize

from aldea.core.engine.tables.rows import Row
from aldea.core.engine.tables.run import rows_of_tables
from aldea.native.writer.expressions import number, width_of
from aldea.native.writer.kinds import GROUPS, Kind, columns_of, number_type, tables_of
from aldea.native.writer.text import block_comment

WAY_IN = """\
void aldea_scan(const int64_t *tables, int64_t start_ms, int64_t end_ms, int64_t period_ms,
                int32_t running, int32_t goes_on, int32_t skipping)"""


def row_lines(row: type[Row]) -> list[str]:
    """A class of rows as a struct, its columns in the order in which they lie."""
    comments = _column_comments(row)
    columns = [
        f"  {number_type(kind)} {name};{comments.get(name, '')}"
        for name, kind in columns_of(row).items()
    ]
    doc = inspect.getdoc(row) or ""
    return [*block_comment(doc), "typedef struct {", *columns, f"}} {row.__name__};"]


def _column_comments(row: type[Row]) -> dict[str, str]:
    column_comments = {}
    source = inspect.getsource(row)
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        name, colon, _ = token.line.strip().partition(":")
        if token.type == tokenize.COMMENT and colon and name.isidentifier():
            column_comments[name] = f" /* {token.string[1:].strip()} */"
    return column_comments


def group_lines(group: type) -> list[str]:
    """A group of tables as a struct of pointers, with how many rows each has."""
    lines = [*block_comment(inspect.getdoc(group) or ""), "typedef struct {"]
    for name, kind in tables_of(group).items():
        const = "const " if kind.const else ""
        lines.append(f"  {const}{_pointed(kind)} *{name};")
        if kind.name != "row":
            lines.append(f"  int32_t {name}_rows;")
    return [*lines, f"}} {group.__name__};"]


def run_lines() -> list[str]:
    """All groups together."""
    parts = [f"  {group.__name__} {name};" for name, group in GROUPS.items()]
    return ["/* What a scan is given. */", "typedef struct {", *parts, "} RunTables;"]


def _pointed(kind: Kind) -> str:
    return number_type(kind.of) if kind.name == "cells" else str(kind.of.__name__)


def constant_lines(constants: dict[str, int | float]) -> list[str]:
    """The numbers that have names."""
    small = {n: v for n, v in constants.items() if isinstance(v, int) and width_of(v) <= 32}
    lines = ["enum {", *(f"  {name} = {value}," for name, value in sorted(small.items())), "};"]
    lines += [
        f"#define {name} {number(value) if value >= 0 else f'({number(value)})'}"
        for name, value in sorted(constants.items())
        if name not in small
    ]
    return lines


def way_in_lines(entry: str) -> list[str]:
    """What Python calls: where every table lies and how many rows it has, then the loop."""
    lines = [
        "/* How wide each row is, so that whoever loads this can see that both mean the same. */",
        "extern const int32_t aldea_row_bytes[];",
        "const int32_t aldea_row_bytes[] = {",
        *(f"  (int32_t)sizeof({row.__name__})," for row in rows_of_tables()),
        "};",
        "",
        "/* The way in: address and rows of every table, in the order of the groups above. */",
        f"{WAY_IN};",
        f"{WAY_IN} {{",
        "  RunTables run;",
    ]
    at = 0
    for name, group in GROUPS.items():
        for table, kind in tables_of(group).items():
            const = "const " if kind.const else ""
            pointer = f"({const}{_pointed(kind)} *)(uintptr_t)tables[{at}]"
            lines.append(f"  run.{name}.{table} = {pointer};")
            if kind.name != "row":
                lines.append(f"  run.{name}.{table}_rows = (int32_t)tables[{at + 1}];")
            at += 2
    ways = "running != 0, goes_on != 0, skipping != 0"
    return [*lines, f"  {entry}(&run, start_ms, end_ms, period_ms, {ways});", "}"]
