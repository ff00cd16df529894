"""Expressions of the scan in C, with the kind of each."""

import ast
import math
from collections.abc import Callable
from dataclasses import dataclass, field
from types import FunctionType
from typing import Any, get_type_hints

from aldea.native.writer.kinds import (
    BOOL,
    GROUPS,
    INT64,
    REAL,
    Kind,
    WriterError,
    columns_of,
    kind_of_annotation,
    number_kind,
    tables_of,
)

# How tightly each kind of expression binds.
ATOM, UNARY, TIMES, PLUS, SHIFT, ORDER, EQUAL, BITS_AND, BITS_OR, AND, OR, CHOICE = range(12, 0, -1)
SUMS: dict[type, tuple[str, int]] = {
    ast.Add: ("+", PLUS),
    ast.Sub: ("-", PLUS),
    ast.Mult: ("*", TIMES),
    ast.Div: ("/", TIMES),
}
MASKS: dict[type, tuple[str, int]] = {
    ast.BitAnd: ("&", BITS_AND),
    ast.BitOr: ("|", BITS_OR),
    ast.RShift: (">>", SHIFT),
}
COMPARISONS: dict[type, tuple[str, int]] = {
    ast.Eq: ("==", EQUAL),
    ast.NotEq: ("!=", EQUAL),
    ast.Lt: ("<", ORDER),
    ast.LtE: ("<=", ORDER),
    ast.Gt: (">", ORDER),
    ast.GtE: (">=", ORDER),
}
MATHS = {
    "isnan": BOOL,
    "exp": REAL,
    "log": REAL,
    "sqrt": REAL,
    "pow": REAL,
}
MATH_NUMBERS = {"nan": "NAN", "inf": "INFINITY"}


@dataclass(frozen=True, slots=True)
class Value:
    """An expression in C: its text, its kind, how tightly it binds.

    `literal` says that it is a number that stands there, so that a narrow column takes it as it
    is; a row's `text` is a pointer, or what a pointer would be taken of.
    """

    text: str
    kind: Kind
    binds: int = ATOM
    literal: bool = False
    pointer: bool = True

    def within(self, binds: int) -> str:
        """The text as a part of what binds so tightly."""
        return self.text if self.binds > binds else f"({self.text})"


@dataclass(slots=True)
class Names:
    """What the names inside a function mean, and what it uses of others."""

    function: FunctionType
    kinds: dict[str, Kind]
    aliases: dict[str, Value] = field(default_factory=dict)
    constants: dict[str, int | float] = field(default_factory=dict)
    calls: dict[str, FunctionType] = field(default_factory=dict)

    def refuse(self, node: ast.AST, why: str) -> WriterError:
        """What cannot be written, where it stands."""
        line = self.function.__code__.co_firstlineno + getattr(node, "lineno", 1) - 1
        return WriterError(f"{self.function.__module__}, line {line}: {why}")


def width_of(number: int) -> int:
    """How many bits a number needs."""
    return next(bits for bits in (8, 16, 32, 64) if -(2 ** (bits - 1)) <= number < 2 ** (bits - 1))


def number(value: float) -> str:
    """A number that stands in the text."""
    if isinstance(value, int):
        return f"INT64_C({value})" if width_of(value) == 64 else str(value)
    if math.isnan(value):
        return "NAN"
    if math.isinf(value):
        return "INFINITY" if value > 0 else "-INFINITY"
    return repr(value)


class Expressions:
    """Writes expressions of one function."""

    def __init__(self, names: Names) -> None:
        self.names = names

    def of(self, node: ast.expr) -> Value:
        """An expression."""
        how: Callable[[Any], Value] | None = getattr(
            self, f"_of_{type(node).__name__.lower()}", None
        )
        if how is None:
            raise self.names.refuse(node, f"{type(node).__name__} is not written")
        return how(node)

    def real(self, node: ast.expr) -> Value:
        """An expression as a real number."""
        return self.as_real(node, self.of(node))

    def as_real(self, node: ast.expr, value: Value) -> Value:
        """A value as a real number; no whole number becomes one unsaid."""
        if value.kind is REAL:
            return value
        if value.kind.name != "int":
            raise self.names.refuse(node, "a number is wanted")
        if isinstance(node, ast.Constant) and isinstance(node.value, int):
            return Value(f"{node.value}.0", REAL, literal=True)
        return Value(f"(double){value.within(UNARY)}", REAL, UNARY)

    def truth(self, node: ast.expr) -> Value:
        """An expression as true or false."""
        value = self.of(node)
        if value.kind.name == "int":
            return Value(f"{value.within(EQUAL)} != 0", BOOL, EQUAL)
        if value.kind is not BOOL:
            raise self.names.refuse(node, "true or false is wanted")
        return value

    def _of_constant(self, node: ast.Constant) -> Value:
        value = node.value
        if isinstance(value, bool):
            return Value("true" if value else "false", BOOL, literal=True)
        if isinstance(value, int):
            return Value(number(value), Kind("int", width_of(value)), literal=True)
        if isinstance(value, float):
            return Value(number(value), REAL, literal=True)
        raise self.names.refuse(node, f"{value!r} is no number")

    def _of_name(self, node: ast.Name) -> Value:
        names = self.names
        if node.id in names.aliases:
            return names.aliases[node.id]
        if node.id in names.kinds:
            return Value(node.id, names.kinds[node.id])
        value = names.function.__globals__.get(node.id)
        if isinstance(value, int | float) and not isinstance(value, bool):
            names.constants[node.id] = value
            if isinstance(value, int):
                return Value(node.id, Kind("int", width_of(value)), literal=True)
            return Value(node.id, REAL)
        raise names.refuse(node, f"{node.id} is not known")

    def _of_attribute(self, node: ast.Attribute) -> Value:
        if isinstance(node.value, ast.Name) and node.value.id == "math":
            return Value(MATH_NUMBERS[node.attr], REAL)
        of = self.of(node.value)
        if of.kind.name == "run":
            group = GROUPS[node.attr]
            return Value(f"{of.text}->{node.attr}", Kind("group", of=group))
        if of.kind.name == "group":
            return Value(f"{of.text}.{node.attr}", tables_of(of.kind.of)[node.attr])
        if of.kind.name == "row":
            column = columns_of(of.kind.of).get(node.attr)
            if column is None:
                raise self.names.refuse(node, f"{of.kind.of.__name__} has no {node.attr}")
            return Value(f"{of.text}{'->' if of.pointer else '.'}{node.attr}", number_kind(column))
        raise self.names.refuse(node, f"nothing has a {node.attr} here")

    def _of_subscript(self, node: ast.Subscript) -> Value:
        of, place = self.of(node.value), self.of(node.slice)
        if place.kind.name != "int":
            raise self.names.refuse(node, "a row or a cell is found by a whole number")
        text = f"{of.text}[{place.text}]"
        if of.kind.name == "table":
            return Value(text, Kind("row", of=of.kind.of, const=of.kind.const), pointer=False)
        if of.kind.name == "cells":
            return Value(text, number_kind(of.kind.of))
        raise self.names.refuse(node, "neither rows nor cells")

    def _of_binop(self, node: ast.BinOp) -> Value:
        kind = type(node.op)
        if kind in (ast.FloorDiv, ast.Mod):
            name = "whole_part" if kind is ast.FloorDiv else "remainder_of"
            return Value(f"{name}({self.whole(node.left)}, {self.whole(node.right)})", INT64)
        if kind in MASKS:
            return self._of_mask(node)
        if kind not in SUMS:
            raise self.names.refuse(node, f"{kind.__name__} is not written")
        sign, binds = SUMS[kind]
        left, right = self.of(node.left), self.of(node.right)
        if kind is ast.Div or REAL in (left.kind, right.kind):
            left, right = self.as_real(node.left, left), self.as_real(node.right, right)
            result = REAL
        else:
            bits = max(left.kind.bits, right.kind.bits)
            if bits == 32:  # the sum might not fit: it is made in 64 bits
                left = Value(f"(int64_t){left.within(UNARY)}", INT64, UNARY)
            result = Kind("int", 32 if bits < 32 else 64)
        return Value(f"{left.within(binds - 1)} {sign} {right.within(binds)}", result, binds)

    def whole(self, node: ast.expr) -> str:
        """A whole number as an argument."""
        value = self.of(node)
        if value.kind.name != "int":
            raise self.names.refuse(node, "a whole number is wanted")
        return value.text

    def _of_mask(self, node: ast.BinOp) -> Value:
        """Bits; always in brackets beside other signs."""
        sign, binds = MASKS[type(node.op)]
        left, right = self.of(node.left), self.of(node.right)
        bits = max(left.kind.bits, right.kind.bits)
        text = f"{left.within(UNARY)} {sign} {right.within(UNARY)}"
        return Value(text, Kind("int", max(bits, 32)), binds)

    def _of_unaryop(self, node: ast.UnaryOp) -> Value:
        if isinstance(node.op, ast.Not):
            return Value(f"!{self.truth(node.operand).within(UNARY)}", BOOL, UNARY)
        value = self.of(node.operand)
        if isinstance(node.op, ast.USub) and value.kind.name in ("int", "real"):
            return Value(f"-{value.within(UNARY)}", value.kind, UNARY, literal=value.literal)
        raise self.names.refuse(node, "this sign is not written")

    def _of_boolop(self, node: ast.BoolOp) -> Value:
        both = isinstance(node.op, ast.And)
        parts = [self.truth(part) for part in node.values]
        # `a && b` inside `||` stands in brackets: compilers ask for them.
        text = f" {'&&' if both else '||'} ".join(part.within(AND) for part in parts)
        return Value(text, BOOL, AND if both else OR)

    def _of_compare(self, node: ast.Compare) -> Value:
        first = node.comparators[0]
        if isinstance(node.ops[0], ast.In) and isinstance(first, ast.Tuple):
            left = self.of(node.left)
            parts = [f"{left.within(EQUAL)} == {self.of(one).within(EQUAL)}" for one in first.elts]
            return Value(" || ".join(parts), BOOL, OR)
        sides = [node.left, *node.comparators]
        if len(sides) > 2 and any(isinstance(part, ast.Call) for part in ast.walk(node)):
            raise self.names.refuse(node, "a call inside a chain would be made twice")
        pairs = zip(sides, node.ops, sides[1:], strict=False)
        parts = [self.compared(a, op, b) for a, op, b in pairs]
        if len(parts) == 1:
            return Value(parts[0], BOOL, COMPARISONS[type(node.ops[0])][1])
        return Value(" && ".join(parts), BOOL, AND)

    def compared(self, a: ast.expr, op: ast.cmpop, b: ast.expr) -> str:
        """One comparison."""
        sign, _ = COMPARISONS[type(op)]
        left, right = self.of(a), self.of(b)
        if REAL in (left.kind, right.kind):
            left, right = self.as_real(a, left), self.as_real(b, right)
        if left.kind.name != right.kind.name:
            raise self.names.refuse(a, "two kinds are compared")
        return f"{left.within(ORDER)} {sign} {right.within(ORDER)}"

    def _of_ifexp(self, node: ast.IfExp) -> Value:
        body, other = self.of(node.body), self.of(node.orelse)
        if REAL in (body.kind, other.kind):
            body, other = self.as_real(node.body, body), self.as_real(node.orelse, other)
        if body.kind.name != other.kind.name or body.kind.name not in ("int", "real", "bool"):
            raise self.names.refuse(node, "a choice between two kinds")
        kind, literal = body.kind, body.literal and other.literal
        if kind.name == "int":
            bits = max(body.kind.bits, other.kind.bits)
            kind = Kind("int", bits if literal else max(32, bits))
        test = self.truth(node.test)
        text = f"{test.within(CHOICE)} ? {body.within(CHOICE)} : {other.within(CHOICE)}"
        return Value(text, kind, CHOICE, literal=literal)

    def _of_call(self, node: ast.Call) -> Value:
        if node.keywords:
            raise self.names.refuse(node, "arguments have no names here")
        if isinstance(node.func, ast.Attribute):
            return self._of_math(node, node.func)
        if not isinstance(node.func, ast.Name):
            raise self.names.refuse(node, "what is called has no name")
        name = node.func.id
        if name == "len":
            return Value(f"{self.of(node.args[0]).text}_rows", Kind("int", 32))
        if name in ("min", "max"):
            return self._of_extreme(node, "least" if name == "min" else "most")
        if name == "abs":
            return Value(f"fabs({self.real(node.args[0]).text})", REAL)
        called = self.names.function.__globals__.get(name)
        if not isinstance(called, FunctionType):
            raise self.names.refuse(node, f"{name} is no function of the scan")
        self.names.calls[name] = called
        hints = get_type_hints(called, include_extras=True)
        returns = kind_of_annotation(hints.pop("return"), name)
        if len(hints) != len(node.args):
            raise self.names.refuse(node, f"{name} takes {len(hints)} arguments")
        given = [
            self.argument(arg, kind_of_annotation(hint, name))
            for arg, hint in zip(node.args, hints.values(), strict=True)
        ]
        return Value(f"{name}({', '.join(given)})", returns)

    def _of_math(self, node: ast.Call, called: ast.Attribute) -> Value:
        """A function of mathematics."""
        if not (isinstance(called.value, ast.Name) and called.value.id == "math"):
            raise self.names.refuse(node, "only math has functions here")
        if called.attr not in MATHS:
            raise self.names.refuse(node, f"math.{called.attr} is not written")
        text = f"{called.attr}({', '.join(self.real(arg).text for arg in node.args)})"
        return Value(text, MATHS[called.attr])

    def _of_extreme(self, node: ast.Call, name: str) -> Value:
        """The least or the most of two numbers."""
        if len(node.args) != 2:
            raise self.names.refuse(node, "of two numbers")
        values = [self.of(arg) for arg in node.args]
        if REAL in (values[0].kind, values[1].kind):
            parts = [self.as_real(a, v).text for a, v in zip(node.args, values, strict=True)]
            return Value(f"{name}_real({', '.join(parts)})", REAL)
        return Value(f"{name}({values[0].text}, {values[1].text})", INT64)

    def argument(self, node: ast.expr, wanted: Kind) -> str:
        """An argument of the kind that is wanted."""
        value = self.of(node)
        if wanted is REAL:
            return self.as_real(node, value).text
        if wanted.name == "row" and value.kind.name == "row" and value.kind.of is wanted.of:
            return self.address(value)
        same = wanted.name == value.kind.name
        if not same or (wanted.name == "cells" and wanted.of is not value.kind.of):
            raise self.names.refuse(node, f"{wanted.name} is wanted, not {value.kind.name}")
        return value.text

    def address(self, value: Value) -> str:
        """A row as a pointer to it."""
        return value.text if value.pointer else f"&{value.text}"
