"""The house in order: readable templates, one way for one thing, nothing that nobody uses."""

import ast
import re
from collections import defaultdict
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
WEB = ROOT / "src/aldea/web"
TEMPLATES = sorted(p for p in WEB.rglob("*") if p.suffix in {".html", ".svg"})
PYTHON = sorted((ROOT / "src").rglob("*.py")) + sorted((ROOT / "tests").rglob("*.py"))
LONGEST = 140
COPIED_LINES = 10
COPIED_STATEMENTS = 5


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda p: str(p.relative_to(WEB)))
def test_no_line_of_a_template_is_too_long_to_read(path):
    long = [n for n, line in enumerate(path.read_text().splitlines(), 1) if len(line) > LONGEST]
    assert long == []


def test_what_was_typed_in_another_form_goes_along_in_one_way():
    hidden = [p.name for p in TEMPLATES if re.search(r"<textarea[^>]*hidden", p.read_text())]
    assert hidden == ["widgets.html"]


def test_every_class_of_the_style_sheet_is_used():
    sheet = re.sub(r"/\*.*?\*/", "", (ROOT / "assets/aldea.css").read_text(), flags=re.DOTALL)
    selectors = " ".join(re.findall(r"([^{};]+)\{", sheet))
    own = set(re.findall(r"\.([a-z][\w-]*)", selectors))
    places = [*TEMPLATES, *WEB.rglob("*.js"), *(ROOT / "src").rglob("*.py")]
    text = "\n".join(p.read_text() for p in places if "vendor" not in p.parts)
    assert len(own) > 50
    assert sorted(name for name in own if not re.search(rf"(?<![\w-]){name}(?![\w-])", text)) == []


def test_no_template_is_a_copy_of_another():
    """Ten lines in a row, twice, are a macro that was not made."""
    seen = defaultdict(set)
    for path in TEMPLATES:
        lines = [line.strip() for line in path.read_text().splitlines() if len(line.strip()) > 8]
        for i in range(len(lines) - COPIED_LINES + 1):
            seen["\n".join(lines[i : i + COPIED_LINES])].add(str(path.relative_to(WEB)))
    assert [sorted(paths) for paths in seen.values() if len(paths) > 1] == []


def test_no_function_is_a_copy_of_another():
    """Five statements in a row that differ in nothing, or a test's whole body."""
    seen = defaultdict(list)
    for path in PYTHON:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef):
                body = node.body[1:] if ast.get_docstring(node) else node.body
                if len(body) >= COPIED_STATEMENTS:
                    text = "\n".join(ast.dump(statement) for statement in body)
                    seen[text].append(f"{path.relative_to(ROOT)}:{node.name}")
    assert [places for places in seen.values() if len(places) > 1] == []


def test_every_folder_says_what_it_is_for():
    for path in (ROOT / "src/aldea").rglob("__init__.py"):
        doc = ast.get_docstring(ast.parse(path.read_text()))
        assert doc, path
        assert len(doc) > 12 or "." in doc, path
