"""Functions are named by a verb with its object or by the noun that they give."""

import ast
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2] / "src" / "aldea"
ONLY_VERBS = {
    "said", "found", "made", "told", "heard", "asks", "work", "done", "taken", "kept", "given",
    "begun", "gone",
}  # fmt: skip


@pytest.mark.parametrize("part", sorted(p.name for p in ROOT.iterdir() if p.is_dir()))
def test_no_function_is_named_by_a_bare_participle(part):
    bare = []
    for path in sorted((ROOT / part).rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                continue
            if node.name.strip("_") in ONLY_VERBS:
                bare.append(f"{path.relative_to(ROOT)}:{node.lineno} {node.name}")
    assert bare == []
