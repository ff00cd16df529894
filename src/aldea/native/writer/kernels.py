"""One function of the scan in C: its statements, its variables, its comments."""

import ast
import inspect
import io
import textwrap
import tokenize
from types import FunctionType
from typing import get_type_hints

from aldea.native.writer.expressions import Expressions, Names, Value
from aldea.native.writer.kinds import NONE, Kind, kind_of_annotation
from aldea.native.writer.scopes import (
    assigned,
    counts_only,
    declarations,
    local_names,
    writes,
)
from aldea.native.writer.text import block_comment

IN_PLACE: dict[type, str] = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.BitOr: "|"}
ZERO = {"int": "0", "real": "0.0", "bool": "false", "row": "NULL"}


class Kernel:
    """A function of the scan, written out."""

    def __init__(self, function: FunctionType) -> None:
        self.function = function
        self.name = function.__name__
        source = textwrap.dedent(inspect.getsource(function))
        tree = ast.parse(source).body[0]
        if not isinstance(tree, ast.FunctionDef):
            raise TypeError(function)
        self.tree = tree
        self.comments = _comments(source)
        hints = get_type_hints(function, include_extras=True)
        self.returns = kind_of_annotation(hints.pop("return"), self.name)
        self.params = {name: kind_of_annotation(hint, self.name) for name, hint in hints.items()}
        self.names = Names(function, dict(self.params))
        self.write = Expressions(self.names)
        self.locals = local_names(tree)
        self.doc = ast.get_docstring(tree) or ""
        self.statements = tree.body[1:] if self.doc else tree.body
        self.declared: set[int] = set()
        self.hoisted: list[str] = []
        self._scopes()
        self._kinds()
        self.lines = self.block(self.statements, 1)

    def head(self) -> str:
        """Its head in C."""
        params = [
            "const RunTables *run" if kind.name == "run" else _typed(kind, name)
            for name, kind in self.params.items()
        ]
        return f"static {_typed(self.returns, self.name)}({', '.join(params)})"

    def text(self) -> list[str]:
        """All of it in C, a line each."""
        own = [
            f"  {_typed(self.names.kinds[name], name)} = {ZERO[self.names.kinds[name].name]};"
            for name in self.hoisted
            if name in self.names.kinds
        ]
        return [*block_comment(self.doc), f"{self.head()} {{", *own, *self.lines, "}"]

    def _scopes(self) -> None:
        for name in self.locals:
            if counts_only(self.tree, name):
                continue
            names = declarations(self.statements, name)
            if names is None:
                self.hoisted.append(name)
            else:
                self.declared |= {hash((name, where)) for where in names}

    def _kinds(self) -> None:
        """The kind of every variable: wide enough for all that it is given."""
        before: dict[str, Kind] | None = None
        while before != self.names.kinds:
            before = dict(self.names.kinds)
            for node in ast.walk(self.tree):
                self._kinds_of(node)

    def _kinds_of(self, node: ast.AST) -> None:
        if isinstance(node, ast.For) and isinstance(node.target, ast.Name):
            ends = [self._try(arg) for arg in _range(node).args]
            bits = max((end.kind.bits for end in ends if end), default=32)
            self._widen(node, node.target.id, Kind("int", max(32, bits)))
        elif isinstance(node, ast.Assign):
            for target, value in assigned(node):
                if isinstance(target, ast.Name):
                    self._check_assigned(node, target.id, value)
        elif isinstance(node, ast.AugAssign) and isinstance(node.target, ast.Name):
            value = ast.BinOp(
                left=ast.Name(node.target.id, ast.Load()), op=node.op, right=node.value
            )
            self._check_assigned(node, node.target.id, ast.copy_location(value, node))

    def _check_assigned(self, node: ast.AST, name: str, value: ast.expr) -> None:
        assigned = self._try(value)
        if assigned is None:
            return
        kind = assigned.kind
        if kind.name in ("group", "table"):
            self.names.aliases[name] = assigned
        elif kind.name == "int":
            self._widen(node, name, Kind("int", max(32, kind.bits)))
        else:
            self._widen(node, name, kind)

    def _try(self, node: ast.expr) -> Value | None:
        """An expression whose names are known by now; None where one is not yet."""
        unknown = {
            part.id
            for part in ast.walk(node)
            if isinstance(part, ast.Name)
            and part.id in self.locals
            and part.id not in self.names.kinds
            and part.id not in self.names.aliases
        }
        return None if unknown else self.write.of(node)

    def _widen(self, node: ast.AST, name: str, kind: Kind) -> None:
        known = self.names.kinds.get(name)
        if name in self.params and known != kind and known is not None:
            if known.name != kind.name or kind.bits > known.bits:
                raise self.names.refuse(node, f"{name} takes another kind")
            return
        if known is None or known.name == kind.name:
            if known is None or kind.bits > known.bits or known.name != "int":
                self.names.kinds[name] = kind
        else:
            raise self.names.refuse(node, f"{name} is {known.name} and {kind.name}")

    # --- statements

    def block(self, body: list[ast.stmt], depth: int) -> list[str]:
        """Some statements, with the comments that stand over them."""
        lines: list[str] = []
        for statement in body:
            lines += [f"{'  ' * depth}/* {text} */" for text in self._over(statement)]
            beside = self._beside(statement)
            own = self.statement(statement, depth)
            if beside and own:
                own[0] += f" /* {beside} */"
            lines += own
        return lines

    def statement(self, statement: ast.stmt, depth: int) -> list[str]:
        """One statement as lines."""
        how = getattr(self, f"_do_{type(statement).__name__.lower()}", None)
        if how is None:
            raise self.names.refuse(statement, f"{type(statement).__name__} is not written")
        lines: list[str] = how(statement, depth)
        return lines

    def _do_assign(self, statement: ast.Assign, depth: int) -> list[str]:
        if len(statement.targets) > 1:
            raise self.names.refuse(statement, "one target at a time")
        pairs = assigned(statement)
        given: set[str] = set()
        for target, value in pairs:
            if any(isinstance(n, ast.Name) and n.id in given for n in ast.walk(value)):
                raise self.names.refuse(statement, "a value reads a name of the same line")
            if isinstance(target, ast.Name):
                given.add(target.id)
        return [
            line
            for target, value in pairs
            for line in self._assign(statement, target, self.write.of(value), value, depth)
        ]

    def _do_augassign(self, statement: ast.AugAssign, depth: int) -> list[str]:
        place, value = self.write.of(statement.target), self.write.of(statement.value)
        sign = IN_PLACE.get(type(statement.op))
        wide = place.kind == value.kind and place.kind.bits in (0, 64)
        wide = wide or (place.kind.bits == 64 and value.kind.name == "int")
        if sign is not None and wide:
            one = value.text == "1" and sign in "+-"
            text = f"{place.text}{sign * 2}" if one else f"{place.text} {sign}= {value.text}"
            return [f"{'  ' * depth}{text};"]
        read: ast.expr = ast.parse(ast.unparse(statement.target), mode="eval").body
        whole = ast.BinOp(left=read, op=statement.op, right=statement.value)
        ast.copy_location(whole, statement)
        ast.fix_missing_locations(whole)
        return self._assign(statement, statement.target, self.write.of(whole), whole, depth)

    def _assign(
        self, statement: ast.stmt, target: ast.expr, value: Value, node: ast.expr, depth: int
    ) -> list[str]:
        if isinstance(target, ast.Name) and target.id in self.names.aliases:
            return []
        place = self.write.of(target)
        if place.kind.name == "row":
            if value.kind.of is not place.kind.of:
                raise self.names.refuse(statement, "a row of another table")
            text = self.write.address(value)
        elif place.kind.name == "real":
            text = self.write.as_real(node, value).text
        elif place.kind.name != value.kind.name:
            raise self.names.refuse(
                statement, f"{value.kind.name} is given to {place.kind.name} {place.text}"
            )
        elif place.kind.name == "int":
            text = self._narrowed(target, place, value)
        else:
            text = value.text
        typed = place.text
        if isinstance(target, ast.Name) and hash((target.id, id(statement))) in self.declared:
            typed = _typed(place.kind, target.id)
        elif not isinstance(target, ast.Name) and self._is_const(target):
            raise self.names.refuse(statement, f"{place.text} is never written")
        return [f"{'  ' * depth}{typed} = {text};"]

    def _narrowed(self, target: ast.expr, place: Value, value: Value) -> str:
        bits = place.kind.bits
        if value.kind.bits <= bits:
            return value.text
        if value.literal:
            raise self.names.refuse(target, f"{value.text} does not fit {place.text}")
        return f"(int{bits}_t){value.within(11)}"

    def _is_const(self, target: ast.expr) -> bool:
        of = target.value if isinstance(target, ast.Attribute | ast.Subscript) else target
        return self.write.of(of).kind.const

    def _do_if(self, statement: ast.If, depth: int) -> list[str]:
        pad = "  " * depth
        lines = [f"{pad}if ({self.write.truth(statement.test).text}) {{"]
        lines += self.block(statement.body, depth + 1)
        other = statement.orelse
        while len(other) == 1 and isinstance(other[0], ast.If) and not self._over(other[0]):
            chained = other[0]
            lines.append(f"{pad}}} else if ({self.write.truth(chained.test).text}) {{")
            lines += self.block(chained.body, depth + 1)
            other = chained.orelse
        if other:
            lines += [f"{pad}}} else {{", *self.block(other, depth + 1)]
        return [*lines, f"{pad}}}"]

    def _do_while(self, statement: ast.While, depth: int) -> list[str]:
        pad = "  " * depth
        always = isinstance(statement.test, ast.Constant) and statement.test.value is True
        head = "for (;;)" if always else f"while ({self.write.truth(statement.test).text})"
        return [f"{pad}{head} {{", *self.block(statement.body, depth + 1), f"{pad}}}"]

    def _do_for(self, statement: ast.For, depth: int) -> list[str]:
        pad, call = "  " * depth, _range(statement)
        if not isinstance(statement.target, ast.Name):
            raise self.names.refuse(statement, "a loop counts one name")
        name = statement.target.id
        first = self.write.of(call.args[0]).text if len(call.args) > 1 else "0"
        end_node = call.args[-1]
        end = self.write.of(end_node).text
        lines = []
        changed = writes(statement.body)
        moves = any(
            isinstance(node, ast.Call)
            or (isinstance(node, ast.Name) and node.id in changed)
            or (isinstance(node, ast.Attribute) and node.attr in changed)
            for node in ast.walk(end_node)
            if not (isinstance(node, ast.Call) and ast.unparse(node.func) == "len")
        )
        if moves:  # Python looks at the end once
            lines.append(f"{pad}const int64_t {name}_end = {end};")
            end = f"{name}_end"
        kind = self.names.kinds[name]
        typed = "" if name in self.hoisted else f"{kind.c_type} "
        lines.append(f"{pad}for ({typed}{name} = {first}; {name} < {end}; {name}++) {{")
        return [*lines, *self.block(statement.body, depth + 1), f"{pad}}}"]

    def _do_return(self, statement: ast.Return, depth: int) -> list[str]:
        pad = "  " * depth
        if statement.value is None:
            return [f"{pad}return;"]
        return [f"{pad}return {self.write.argument(statement.value, self.returns)};"]

    def _do_break(self, _statement: ast.Break, depth: int) -> list[str]:
        return [f"{'  ' * depth}break;"]

    def _do_continue(self, _statement: ast.Continue, depth: int) -> list[str]:
        return [f"{'  ' * depth}continue;"]

    def _do_expr(self, statement: ast.Expr, depth: int) -> list[str]:
        value = self.write.of(statement.value)
        text = value.text if value.kind == NONE else f"(void){value.text}"
        return [f"{'  ' * depth}{text};"]

    # --- comments

    def _over(self, statement: ast.stmt) -> list[str]:
        """The comments that stand on lines of their own right over a statement."""
        fields: list[str] = []
        line = statement.lineno - 1
        while line in self.comments and self.comments[line][0]:
            fields.insert(0, self.comments[line][1])
            line -= 1
        return fields

    def _beside(self, statement: ast.stmt) -> str:
        """The comment behind the first line of a statement, or of its head."""
        for line in range(statement.lineno, _head_end(statement) + 1):
            if line in self.comments and not self.comments[line][0]:
                return self.comments[line][1]
        return ""


def _head_end(statement: ast.stmt) -> int:
    if isinstance(statement, ast.If | ast.For | ast.While):
        return statement.body[0].lineno - 1
    return statement.end_lineno or statement.lineno


def _comments(source: str) -> dict[int, tuple[bool, str]]:
    """By line: whether a comment stands alone there, and its words."""
    comments = {}
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        words = token.string[1:].strip()
        if token.type == tokenize.COMMENT and not words.startswith(("fmt:", "noqa", "type:")):
            alone = not token.line[: token.start[1]].strip()
            comments[token.start[0]] = (alone, words)
    return comments


def _range(statement: ast.For) -> ast.Call:
    call = statement.iter
    if not isinstance(call, ast.Call) or ast.unparse(call.func) != "range" or len(call.args) > 2:
        raise TypeError("a loop goes over a range")
    return call


def _typed(kind: Kind, name: str) -> str:
    """A name with its type before it."""
    return f"{kind.c_type}{'' if kind.c_type.endswith('*') else ' '}{name}"
