"""Lines broken on purpose, one at a time: which breaks do the tests not see?

`./aldea mutants` breaks a sample of the engine, the store and the access in copies of this checkout
and runs the tests that are about them. What survives is printed; a law that would see it is owed.
"""

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

HOME = Path(__file__).resolve().parents[1]
COPIED = ("src", "tests", "benchmarks", "assets", "docs", "requirements", "pyproject.toml", "aldea")
AT_ONCE = 2
LONGEST_S = 600
ENGINE = "src/aldea/native/scan.c"
WRITE_ENGINE = (
    "from aldea.native.building import SCAN_C;"
    "from aldea.native.writer.document import scan_in_c;"
    "SCAN_C.write_text(scan_in_c())"
)
SWAPPED: dict[type[ast.AST], str] = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.Is: "is not",
    ast.IsNot: "is",
    ast.In: "not in",
    ast.NotIn: "in",
    ast.And: "or",
    ast.Or: "and",
    ast.Add: "-",
    ast.Sub: "+",
    ast.Mult: "/",
    ast.Div: "*",
    ast.FloorDiv: "*",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """What is broken, and the tests that are about it."""

    name: str
    sources: tuple[str, ...]
    tests: tuple[str, ...]


TARGETS = (
    Target(
        name="engine",
        sources=("src/aldea/core/engine", "src/aldea/core/rehearse"),
        tests=("tests/core/engine", "tests/core/rehearse", "tests/core/words"),
    ),
    Target(
        name="store",
        sources=("src/aldea/store", "src/aldea/jobs"),
        tests=("tests/store", "tests/jobs", "tests/core/plan"),
    ),
    Target(
        name="access",
        sources=(
            "src/aldea/web/shell/access.py",
            "src/aldea/web/shell/gate.py",
            "src/aldea/web/shell/drafts.py",
            "src/aldea/web/shell/forms.py",
            "src/aldea/web/benches/sign_in/routes.py",
        ),
        tests=("tests/web/test_pages.py", "tests/web/shell", "tests/web/benches/sign_in"),
    ),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Mutant:
    """One broken line: where, what stood there and what stands there now."""

    target: Target
    path: str
    line: int
    start: int
    end: int
    new: str

    def words(self, text: str) -> str:
        """As it is printed."""
        old = text[self.start : self.end]
        shown = text.splitlines()[self.line - 1].strip()
        return f"{self.path}:{self.line}: {old.strip()!r} → {self.new!r}    {shown}"


def mutants(target: Target) -> Iterator[Mutant]:
    """Every break of a target, in the order of its files."""
    for name in target.sources:
        root = HOME / name
        for path in sorted(root.rglob("*.py")) if root.is_dir() else [root]:
            if "migrations" not in path.parts:
                text = path.read_text()
                rows = text.splitlines()
                for line, start, end, new in _breaks(text):
                    if rows[line - 1].lstrip().startswith("@"):  # how a class is written
                        continue
                    yield Mutant(
                        target=target,
                        path=str(path.relative_to(HOME)),
                        line=line,
                        start=start,
                        end=end,
                        new=new,
                    )


def _breaks(text: str) -> Iterator[tuple[int, int, int, str]]:
    """Line, span and new text of each break of a source."""
    starts = [0]
    for row in text.splitlines(keepends=True):
        starts.append(starts[-1] + len(row.encode()))
    raw = text.encode()

    def at(line: int, column: int) -> int:
        return len(raw[: starts[line - 1] + column].decode())

    def between(left: ast.expr, right: ast.expr, new: str) -> tuple[int, int, int, str]:
        start = at(left.end_lineno or 0, left.end_col_offset or 0)
        end = at(right.lineno, right.col_offset)
        gap = text[start:end]
        before = gap[: len(gap) - len(gap.lstrip(" )\n"))]
        after = gap[len(gap.rstrip(" (\n")) :]
        return left.end_lineno or 0, start, end, f"{before}{new}{after}"

    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            for left, operator, right in zip(sides, node.ops, sides[1:], strict=False):
                yield between(left, right, SWAPPED[type(operator)])
        elif isinstance(node, ast.BoolOp):
            yield between(node.values[0], node.values[1], SWAPPED[type(node.op)])
        elif isinstance(node, ast.BinOp) and type(node.op) in SWAPPED:
            yield between(node.left, node.right, SWAPPED[type(node.op)])
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            start = at(node.lineno, node.col_offset)
            yield node.lineno, start, at(node.operand.lineno, node.operand.col_offset), ""
        elif isinstance(node, ast.Constant) and isinstance(node.value, int):  # a bool is one
            start = at(node.lineno, node.col_offset)
            end = at(node.end_lineno or 0, node.end_col_offset or 0)
            new = str(not node.value) if isinstance(node.value, bool) else str(node.value + 1)
            yield node.lineno, start, end, new


def sampled(count: int, seed: int, only: str) -> list[Mutant]:
    """As many of each target, chosen by a seed."""
    chance = random.Random(seed)
    found: list[Mutant] = []
    for target in TARGETS:
        if only in ("", target.name):
            every = [m for m in mutants(target) if _is_python(m)]
            found += chance.sample(every, min(count, len(every)))
    return found


def _is_python(mutant: Mutant) -> bool:
    try:
        compile(broken(mutant), mutant.path, "exec")
    except SyntaxError:
        return False
    return True


def broken(mutant: Mutant) -> str:
    """The source with its break."""
    text = (HOME / mutant.path).read_text()
    return text[: mutant.start] + mutant.new + text[mutant.end :]


def survives(mutant: Mutant, copy: Path) -> bool:
    """Whether the tests of its target pass in a copy that has the break."""
    path, engine = copy / mutant.path, copy / ENGINE
    whole, compiled = path.read_text(), engine.read_text()
    path.write_text(broken(mutant))
    tests = [name for name in mutant.target.tests if (copy / name).exists()]
    commands = [[sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]]
    if mutant.target.name == "engine":  # what is compiled has the break, too
        commands.insert(0, [sys.executable, "-c", WRITE_ENGINE])
    try:
        done = [
            subprocess.run(
                command,
                cwd=copy,
                env={**os.environ, "PYTHONPATH": str(copy / "src"), "ALDEA_HOME": str(copy)},
                capture_output=True,
                timeout=LONGEST_S,
                check=False,
            )
            for command in commands
        ]
    except subprocess.TimeoutExpired:
        return False
    finally:
        path.write_text(whole)
        engine.write_text(compiled)
    return all(one.returncode == 0 for one in done)


def main() -> None:
    """Break a sample and print what survives."""
    count, seed, only = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3] if sys.argv[3:] else ""
    chosen = sampled(count, seed, only)
    with tempfile.TemporaryDirectory(prefix="aldea-mutants-") as name:
        Path(name).chmod(0o755)
        free: SimpleQueue[Path] = SimpleQueue()
        for number in range(AT_ONCE):
            copy = Path(name) / str(number)
            copy.mkdir(mode=0o755)
            for part in COPIED:
                source = HOME / part
                if source.is_dir():
                    ignored = shutil.ignore_patterns("__pycache__", "node_modules")
                    shutil.copytree(source, copy / part, ignore=ignored)
                else:
                    shutil.copy2(source, copy / part)
            free.put(copy)

        def tried(mutant: Mutant) -> bool:
            copy = free.get()
            try:
                return survives(mutant, copy)
            finally:
                free.put(copy)

        survived = 0
        with ThreadPoolExecutor(AT_ONCE) as pool:
            for mutant, lives in zip(chosen, pool.map(tried, chosen), strict=True):
                survived += lives
                words = mutant.words((HOME / mutant.path).read_text())
                print(f"{'SURVIVES' if lives else 'seen    '}  {words}", flush=True)
    print(f"{survived} of {len(chosen)} survive")
    raise SystemExit(1 if survived else 0)


if __name__ == "__main__":
    main()
