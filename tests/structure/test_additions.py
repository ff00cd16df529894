"""Adding a made-up one of everything touches the files that the map names, and no others."""

import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from tests.structure.additions import ADDITIONS, Addition

ROOT = Path(__file__).resolve().parents[2]
SOURCE = ROOT / "src/aldea"
MAP = (ROOT / "docs/maintainers.md").read_text()


def touched(added: Addition) -> set[str]:
    return {*added.new, *added.lines}


def documented(what: str) -> list[str]:
    """The files of a row of the map, as patterns: `<…>` is a name, a folder all that is in it."""
    row = re.search(rf"^\| {what} \| (.*) \|$", MAP, re.MULTILINE)
    assert row, what
    names = re.findall(r"`([^`]+)`", row[1])
    return [
        re.sub(r"<\w+>", r"\\w+", name) + (".*" if name.endswith("/") else "") for name in names
    ]


def copy_with(added: Addition, folder: Path) -> Path:
    """The source with something added to it."""
    shutil.copytree(SOURCE, folder / "aldea")  # with what is compiled of it
    for path, text in added.new.items():
        target = folder / "aldea" / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text)
    for path, lines in added.lines.items():
        target = folder / "aldea" / path
        text = target.read_text()
        for mark, line in lines:
            assert text.count(mark) == 1, f"{path}: {mark!r}"
            text = text.replace(mark, line + mark)
        target.write_text(text)
    return folder


@pytest.mark.parametrize("what", ADDITIONS)
def test_the_map_names_every_file_that_is_touched_and_no_other(what):
    patterns = documented(what)
    for path in touched(ADDITIONS[what]):
        assert any(re.fullmatch(pattern, path) for pattern in patterns), path
    for pattern in patterns:
        assert any(re.fullmatch(pattern, path) for path in touched(ADDITIONS[what])), pattern


@pytest.mark.parametrize("what", ADDITIONS)
def test_what_is_added_works_and_is_gone_again(what, tmp_path):
    added = ADDITIONS[what]
    folder = copy_with(added, tmp_path)
    command = [sys.executable, "-W", "error::SyntaxWarning", "-c", added.proof]
    done = subprocess.run(
        command, env={"PYTHONPATH": str(folder), "PATH": "/usr/bin:/bin"}, capture_output=True,
        text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    without = subprocess.run(
        command, env={"PYTHONPATH": str(ROOT / "src"), "PATH": "/usr/bin:/bin"},
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert without.returncode != 0, "the proof proves nothing: it works without what is added"
