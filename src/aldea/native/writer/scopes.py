"""Where the variables of a function are declared in C: as near to their use as they may be."""

import ast

Declared = dict[str, set[int]]  # by name: the statements, by id, that declare it


def mentions(node: ast.AST, name: str) -> bool:
    """Whether a name stands anywhere in a statement."""
    return any(isinstance(part, ast.Name) and part.id == name for part in ast.walk(node))


def assigned(statement: ast.stmt) -> list[tuple[ast.expr, ast.expr]]:
    """Targets and values of an assignment, one by one; nothing of any other statement."""
    if not isinstance(statement, ast.Assign):
        return []
    target, value = statement.targets[0], statement.value
    if isinstance(target, ast.Tuple) and isinstance(value, ast.Tuple):
        return list(zip(target.elts, value.elts, strict=True))
    return [(target, value)]


def _first_value(statement: ast.stmt, name: str) -> ast.expr | None:
    """What an assignment gives to a name."""
    for target, value in assigned(statement):
        if isinstance(target, ast.Name) and target.id == name:
            return value
    return None


def bodies_of(statement: ast.stmt) -> list[list[ast.stmt]]:
    """The blocks inside a statement."""
    if isinstance(statement, ast.If | ast.For | ast.While):
        return [statement.body, statement.orelse]
    return []


def _heads(statement: ast.stmt) -> list[ast.AST]:
    if isinstance(statement, ast.For):
        return [statement.target, statement.iter]
    if isinstance(statement, ast.If | ast.While):
        return [statement.test]
    return [statement]


def declarations(body: list[ast.stmt], name: str) -> set[int] | None:
    """The statements of a block that may declare a name; None where it must stand before it.

    A name may be declared where it is first given a value, in each of the blocks in which it
    stands, as long as no block reads what another has left in it.
    """
    touching = [statement for statement in body if mentions(statement, name)]
    if not touching:
        return set()
    value = _first_value(touching[0], name)
    if value is not None and not mentions(value, name):
        return {id(touching[0])}
    rows: set[int] = set()
    for statement in touching:
        if any(mentions(head, name) for head in _heads(statement)):
            return None
        for inner in bodies_of(statement):
            own = declarations(inner, name)
            if own is None:
                return None
            rows |= own
    return rows


def local_names(function: ast.FunctionDef) -> list[str]:
    """Every variable of a function that is not a parameter, in the order of their first value."""
    given = {argument.arg for argument in function.args.args}
    names: dict[str, None] = {}
    for node in ast.walk(function):
        if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store) and node.id not in given:
            names[node.id] = None
    return list(names)


def counts_only(function: ast.FunctionDef, name: str) -> bool:
    """Whether a name is the counter of loops and stands nowhere else."""
    loops = [
        node
        for node in ast.walk(function)
        if isinstance(node, ast.For)
        and isinstance(node.target, ast.Name)
        and node.target.id == name
    ]
    inside = {
        id(part)
        for loop in loops
        for part in ast.walk(loop)
        if isinstance(part, ast.Name) and part.id == name
    }
    every = [n for n in ast.walk(function) if isinstance(n, ast.Name) and n.id == name]
    stored = [n for n in every if isinstance(n.ctx, ast.Store)]
    return bool(loops) and len(stored) == len(loops) and all(id(n) in inside for n in every)


def writes(body: list[ast.stmt]) -> set[str]:
    """The names and the columns that a block gives a value to."""
    names: set[str] = set()
    for statement in body:
        for node in ast.walk(statement):
            if isinstance(node, ast.Name | ast.Attribute) and isinstance(node.ctx, ast.Store):
                names.add(node.id if isinstance(node, ast.Name) else node.attr)
    return names
