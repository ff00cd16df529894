"""The same scan in plain C: its source is written out statement by statement and compiled by gcc.

It does all that the engine does, in the same order, over the same tables; so the ratio to it says
what the way through Python costs, for any plan. Tables are pointers of their own kind, so that no
store of a cell makes an address be read again; widths that are known are constants. The twin by
hand (`twin.c`) knows bands alone and leans on nothing of this.
"""

import ast
import ctypes
import hashlib
import inspect
import math
import subprocess
import tempfile
import textwrap
from collections.abc import Callable
from functools import cache
from pathlib import Path
from types import FunctionType
from typing import Any

import numpy as np

from aldea.core.engine.scan import views
from aldea.core.engine.scan.replay_kernel import replay_kernel

FLAGS = ("-O3", "-march=native", "-ffp-contract=off", "-fPIC", "-shared", "-lm", "-w")
VIEWS = {"int_table": ("i", 2), "float_table": ("f", 2), "int_row": ("i", 1), "float_row": ("f", 1)}
C_TYPES = {"i": "i64", "f": "double", "b": "int", "v": "void", "I": "Ints", "F": "Floats"}
NAMED = {"int": "i", "float": "f", "bool": "b", "None": "v", "IntArray": "I", "FloatArray": "F"}
OPERATORS: dict[type, str] = {
    ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/", ast.BitAnd: "&", ast.BitOr: "|",
    ast.RShift: ">>", ast.LShift: "<<", ast.Eq: "==", ast.NotEq: "!=", ast.Lt: "<", ast.LtE: "<=",
    ast.Gt: ">", ast.GtE: ">=", ast.And: "&&", ast.Or: "||",
}  # fmt: skip
WIDER = "bif"
MATHS = {"isnan": "b", "exp": "f", "log": "f", "sqrt": "f", "floor": "f"}
HEAD = """
#include <math.h>
#include <stdint.h>
typedef int64_t i64;
typedef struct { i64 *data; int rows, columns; } Ints;
typedef struct { double *data; int rows, columns; } Floats;
static inline i64 rest(i64 a, i64 b) {
  i64 r = a % b; return r != 0 && ((r < 0) != (b < 0)) ? r + b : r;
}
static inline i64 below(i64 a, i64 b) { return (a - rest(a, b)) / b; }
static inline i64 least_i(i64 a, i64 b) { return b < a ? b : a; }
static inline i64 most_i(i64 a, i64 b) { return b > a ? b : a; }
static inline double least_f(double a, double b) { return b < a ? b : a; }
static inline double most_f(double a, double b) { return b > a ? b : a; }
"""


class Written:
    """One kernel on its way into C: what its names are, and its lines."""

    def __init__(self, function: FunctionType) -> None:
        self.globals = function.__globals__
        source = textwrap.dedent(inspect.getsource(function))
        found = ast.parse(source).body[0]
        assert isinstance(found, ast.FunctionDef)
        self.tree = found
        self.name = function.__name__
        self.kinds: dict[str, str] = {}
        self.tables: dict[str, int] = {}
        self.calls: dict[str, FunctionType] = {}
        self.params = [a for a in self.tree.args.args if a.arg != "run"]
        for param in self.params:
            self.kinds[param.arg] = _named(param.annotation)
        self.returns = _named(self.tree.returns)
        self.lines = self.block(self.tree.body[1:], 1)

    def head(self) -> str:
        """Its head in C."""
        params = ", ".join(f"{C_TYPES[self.kinds[p.arg]]} {p.arg}" for p in self.params)
        return f"static {C_TYPES[self.returns]} {self.name}({params or 'void'})"

    def text(self) -> str:
        """All of it in C."""
        given = {param.arg for param in self.params}
        local = [
            f"  {C_TYPES[kind]} {name} = {'{0}' if kind in 'IF' else '0'};"
            for name, kind in self.kinds.items()
            if name not in given and name not in self.tables
        ]
        return "\n".join([self.head() + " {", *local, *self.lines, "}"])

    def block(self, body: list[ast.stmt], depth: int) -> list[str]:
        """Some statements."""
        return ["  " * depth + line for stmt in body for line in self.statement(stmt)]

    def statement(self, stmt: ast.stmt) -> list[str]:
        """One statement as lines."""
        found: list[str] = getattr(self, f"do_{type(stmt).__name__.lower()}")(stmt)
        return found

    def do_assign(self, stmt: ast.Assign) -> list[str]:
        """Names or cells take values."""
        target, value = stmt.targets[0], stmt.value
        if len(stmt.targets) > 1:
            return [line for name in stmt.targets for line in self.assign(name, value)]
        if isinstance(target, ast.Tuple) and isinstance(value, ast.Tuple):
            pairs = zip(target.elts, value.elts, strict=True)
            return [line for name, part in pairs for line in self.assign(name, part)]
        return self.assign(target, value)

    def do_augassign(self, stmt: ast.AugAssign) -> list[str]:
        """A name or cell is changed."""
        return self.assign(stmt.target, ast.BinOp(left=stmt.target, op=stmt.op, right=stmt.value))

    def do_if(self, stmt: ast.If) -> list[str]:
        """A choice."""
        lines = [f"if ({self.value(stmt.test)}) {{", *self.block(stmt.body, 1)]
        if stmt.orelse:
            lines += ["} else {", *self.block(stmt.orelse, 1)]
        return [*lines, "}"]

    def do_while(self, stmt: ast.While) -> list[str]:
        """A loop."""
        return [f"while ({self.value(stmt.test)}) {{", *self.block(stmt.body, 1), "}"]

    def do_for(self, stmt: ast.For) -> list[str]:
        """A loop over a range, whose end is looked at once."""
        assert isinstance(stmt.target, ast.Name)
        assert isinstance(stmt.iter, ast.Call)
        name, args = stmt.target.id, stmt.iter.args
        self.kinds.setdefault(name, "i")
        first, end = self.value(args[0]) if len(args) > 1 else "0", f"end_{name}_{stmt.lineno}"
        over = f"for (i64 {end} = {self.value(args[-1])}; {name} < {end}; {name}++) {{"
        return [f"{name} = {first};", over, *self.block(stmt.body, 1), "}"]

    def do_return(self, stmt: ast.Return) -> list[str]:
        """The way out."""
        return [f"return {self.value(stmt.value)};" if stmt.value is not None else "return;"]

    def do_break(self, _stmt: ast.Break) -> list[str]:
        """Out of a loop."""
        return ["break;"]

    def do_continue(self, _stmt: ast.Continue) -> list[str]:
        """On with a loop."""
        return ["continue;"]

    def do_expr(self, stmt: ast.Expr) -> list[str]:
        """A call."""
        return [f"{self.value(stmt.value)};"]

    def assign(self, target: ast.expr, value: ast.expr) -> list[str]:
        """One name or cell takes a value; a name of a table stands for that table."""
        if isinstance(target, ast.Name):
            table = self.table(value)
            if table is not None:
                self.tables[target.id] = table
                return []
            kind, known = self.kind(value), self.kinds.get(target.id)
            if known is None or (known == "b" and kind in "if") or (known == "i" and kind == "f"):
                self.kinds[target.id] = kind
            return [f"{target.id} = {self.value(value)};"]
        return [f"{self.value(target)} = {self.value(value)};"]

    def table(self, node: ast.expr) -> int | None:
        """The number of the table that an expression stands for."""
        if isinstance(node, ast.Name):
            return self.tables.get(node.id)
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in VIEWS:
            return int(self.constant(node.args[1]))
        return None

    def constant(self, node: ast.expr) -> Any:
        """The value of a name of the module."""
        assert isinstance(node, ast.Name)
        return self.globals[node.id]

    def kind(self, node: ast.expr) -> str:
        """Whether an expression is whole, real, true or false, or a table."""
        match node:
            case ast.Constant(value=value):
                found = "b" if isinstance(value, bool) else "f" if isinstance(value, float) else "i"
            case ast.Name(id=name):
                stands = isinstance(self.globals.get(name), float)
                found = self.kinds.get(name, "f" if stands else "i")
            case ast.Attribute():
                found = "f"
            case ast.Subscript():
                found = self.kind_of_cell(node)
            case ast.BinOp(left=left, op=op, right=right):
                found = "i" if "f" not in self.kind(left) + self.kind(right) else "f"
                found = "f" if isinstance(op, ast.Div | ast.Pow) else found
            case ast.UnaryOp(op=op, operand=operand):
                found = "b" if isinstance(op, ast.Not) else self.kind(operand)
            case ast.IfExp(body=body, orelse=orelse):
                found = max(self.kind(body), self.kind(orelse), key=WIDER.index)
            case ast.Call():
                found = self.kind_of_call(node)
            case _:
                found = "b"  # a comparison, or some of them
        return found

    def kind_of_cell(self, node: ast.Subscript) -> str:
        """Of a cell, or of the size of a table."""
        if isinstance(node.value, ast.Attribute):
            return "i"
        number = self.table(node.value)
        if number is None:
            return self.kind(node.value).lower()
        return "f" if number in views.FLOATS else "i"

    def kind_of_call(self, node: ast.Call) -> str:
        """Of what a call gives."""
        if isinstance(node.func, ast.Attribute):
            return MATHS[node.func.attr]
        assert isinstance(node.func, ast.Name)
        if node.func.id in ("min", "max", "abs"):
            return max((self.kind(arg) for arg in node.args), key=WIDER.index)
        return _named(_tree(_source(self.globals[node.func.id])).returns)

    def value(self, node: ast.expr) -> str:
        """An expression."""
        found: str = getattr(self, f"of_{type(node).__name__.lower()}")(node)
        return found

    def of_constant(self, node: ast.Constant) -> str:
        """A number that stands there."""
        assert isinstance(node.value, int | float)
        return _number(node.value)

    def of_name(self, node: ast.Name) -> str:
        """A name: of a table, of something local, of a number of the module."""
        if node.id in self.tables:
            return _whole(self.tables[node.id])
        return node.id if node.id in self.kinds else _number(self.globals[node.id])

    def of_attribute(self, node: ast.Attribute) -> str:
        """A number of mathematics."""
        return _number(getattr(math, node.attr))

    def of_subscript(self, node: ast.Subscript) -> str:
        """A cell, or the size of a table."""
        if not isinstance(node.value, ast.Attribute):
            return self.cell(node.value, node.slice)
        assert isinstance(node.slice, ast.Constant)
        of, rows = node.value.value, node.slice.value == 0
        number = self.table(of)
        if number is None:
            return f"{self.value(of)}.{'rows' if rows else 'columns'}"
        return f"R{number}" if rows else _columns(number)

    def of_binop(self, node: ast.BinOp) -> str:
        """Arithmetic; whole division goes down, as in Python."""
        a, b = self.value(node.left), self.value(node.right)
        named = {ast.FloorDiv: "below", ast.Mod: "rest", ast.Pow: "pow"}.get(type(node.op))
        if named is not None:
            return f"{named}({a}, {b})"
        whole = "(double)" if isinstance(node.op, ast.Div) else ""
        return f"({whole}{a} {OPERATORS[type(node.op)]} {b})"

    def of_unaryop(self, node: ast.UnaryOp) -> str:
        """Not, or less than nothing."""
        return f"({'!' if isinstance(node.op, ast.Not) else '-'}{self.value(node.operand)})"

    def of_boolop(self, node: ast.BoolOp) -> str:
        """And, or."""
        return "(" + f" {OPERATORS[type(node.op)]} ".join(map(self.value, node.values)) + ")"

    def of_compare(self, node: ast.Compare) -> str:
        """A comparison, a chain of them, or one of some."""
        first, among = node.comparators[0], [self.value(node.left)]
        if isinstance(node.ops[0], ast.In) and isinstance(first, ast.Tuple):
            return "(" + " || ".join(f"{among[0]} == {self.value(e)}" for e in first.elts) + ")"
        sides = among + [self.value(side) for side in node.comparators]
        signs = [OPERATORS[type(op)] for op in node.ops]
        pairs = zip(sides, signs, sides[1:], strict=False)
        return "(" + " && ".join(f"{a} {sign} {b}" for a, sign, b in pairs) + ")"

    def of_ifexp(self, node: ast.IfExp) -> str:
        """One or the other."""
        test, body, orelse = self.value(node.test), self.value(node.body), self.value(node.orelse)
        return f"({test} ? {body} : {orelse})"

    def cell(self, of: ast.expr, index: ast.expr) -> str:
        """A cell of a table."""
        number = self.table(of)
        parts = index.elts if isinstance(index, ast.Tuple) else [index]
        at, two = [self.value(part) for part in parts], len(parts) > 1
        if number is not None:
            data, columns = f"T{number}", _columns(number)
        else:
            data, columns = f"{self.value(of)}.data", f"{self.value(of)}.columns"
        return f"{data}[{at[0]} * {columns} + {at[1]}]" if two else f"{data}[{at[0]}]"

    def of_call(self, node: ast.Call) -> str:
        """A call: of mathematics, of a table, of another kernel."""
        if isinstance(node.func, ast.Attribute):
            return f"{node.func.attr}({self.value(node.args[0])})"
        assert isinstance(node.func, ast.Name)
        name = node.func.id
        if name in VIEWS:
            return _whole(int(self.constant(node.args[1])))
        if name in ("min", "max"):
            kind = "f" if self.kind(node) == "f" else "i"
            said = self.value(node.args[0])
            for arg in node.args[1:]:
                said = f"{'least' if name == 'min' else 'most'}_{kind}({said}, {self.value(arg)})"
            return said
        if name == "abs":
            return f"{'fabs' if self.kind(node) == 'f' else 'llabs'}({self.value(node.args[0])})"
        self.calls[name] = _source(self.globals[name])
        own = [arg for arg in node.args if not (isinstance(arg, ast.Name) and arg.id == "run")]
        return f"{name}({', '.join(map(self.value, own))})"


def _source(kernel: Any) -> FunctionType:
    found: FunctionType = getattr(kernel, "py_func", kernel)
    return found


@cache
def _tree(function: FunctionType) -> ast.FunctionDef:
    found = ast.parse(textwrap.dedent(inspect.getsource(function))).body[0]
    assert isinstance(found, ast.FunctionDef)
    return found


def _named(annotation: ast.expr | None) -> str:
    assert annotation is not None
    return NAMED[ast.unparse(annotation)]


def _number(value: float) -> str:
    if isinstance(value, int):  # also true and false
        value = int(value)
        return f"{value}LL" if abs(value) > 2**31 - 1 else str(value)
    if math.isnan(value):
        return "NAN"
    return repr(value) if math.isfinite(value) else ("INFINITY" if value > 0 else "(-INFINITY)")


def _columns(number: int) -> str:
    return str(views.WIDTHS[number]) if number in views.WIDTHS else f"C{number}"


def _whole(number: int) -> str:
    kind = "Floats" if number in views.FLOATS else "Ints"
    return f"(({kind}){{T{number}, R{number}, {_columns(number)}}})"


def source() -> str:
    """The whole scan in C, with a way in."""
    written: dict[str, Written] = {}
    todo = [_source(replay_kernel)]
    while todo:
        function = todo.pop()
        if function.__name__ not in written:
            written[function.__name__] = Written(function)
            todo += written[function.__name__].calls.values()
    tables = [
        f"static {'double' if n in views.FLOATS else 'i64'} *T{n}; static int R{n}, C{n};"
        for n in range(views.TABLES)
    ]
    binds = [
        f"  T{n} = (void *)run[{3 * n}]; R{n} = run[{3 * n + 1}]; C{n} = run[{3 * n + 2}];"
        for n in range(views.TABLES)
    ]
    way_in = [
        "void replay(i64 *run, i64 *deciders, i64 loads, i64 *at, i64 start_ms, i64 end_ms,",
        "            i64 period_ms, int running, int goes_on, int skipping) {",
        *binds,
        "  Ints d = {deciders, loads, 2}, a = {at, 6, 1};",
        "  replay_kernel(d, a, start_ms, end_ms, period_ms, running, goes_on, skipping);",
        "}",
    ]
    heads = [f"{one.head()};" for one in written.values()]
    bodies = [one.text() for one in written.values()]
    return "\n".join([HEAD, *tables, *heads, *bodies, *way_in])


@cache
def kernel_in_c() -> Callable[..., None]:
    """What `run_replay` takes in place of the compiled source."""
    text = source()
    digest = hashlib.sha256((text + " ".join(FLAGS)).encode()).hexdigest()[:16]
    path = Path(tempfile.gettempdir()) / f"aldea-scan-{digest}.so"
    if not path.exists():
        written, partial = path.with_suffix(".c"), path.with_suffix(".part")
        written.write_text(text)
        subprocess.run(
            ["gcc", str(written), "-o", str(partial), *FLAGS], check=True, capture_output=True
        )
        partial.replace(path)
    library = ctypes.CDLL(str(path))
    number, address = ctypes.c_int64, ctypes.c_void_p

    def run(tables: int, deciders: np.ndarray, at: np.ndarray, *times_and_ways: Any) -> None:
        start_ms, end_ms, period_ms, *ways = times_and_ways
        library.replay(
            address(tables), address(deciders.ctypes.data), number(len(deciders)),
            address(at.ctypes.data), number(start_ms), number(end_ms), number(period_ms),
            *(ctypes.c_int(int(way)) for way in ways),
        )  # fmt: skip

    return run
