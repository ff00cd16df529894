"""Every string that a person may read, by the bench or room that it stands in, for review.

From templates the text between tags and the texts of attributes that are read; from Python every
string with a word in it that is no docstring, key, route or format. `python -m
tests.structure.strings` writes one file a room into `.aldea/strings`.
"""

import ast
import re
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from html import unescape
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
SOURCE = ROOT / "src" / "aldea"
OUT = ROOT / ".aldea" / "strings"
JINJA = re.compile(r"\{#.*?#\}|\{%.*?%\}", re.DOTALL)
VALUE = re.compile(r"\{\{.*?\}\}", re.DOTALL)
TAG = re.compile(r"<(script|style|svg)\b.*?</\1>|<[^>]+>", re.DOTALL)
BLOCK = re.compile(r"</?(p|li|h\d|td|th|tr|div|section|label|button|option|dt|dd|legend)\b[^>]*>")
QUOTED = re.compile(r'"([^"]*)"')
READ = re.compile(r'\b(?:aria-label|title|placeholder|alt)="([^"]*[a-zA-Z][^"]*)"')
WORDS = re.compile(r"[A-Za-z]{2,}[ ,.:;’][^{}]*[A-Za-z]")
CODE = re.compile(r"^[\w./:%#\-\[\]{}()=*?<>+|^$\\,@&~]*$|SELECT|CREATE |ALTER |</|/>|\bpx\b|^M ")


@dataclass(frozen=True, slots=True)
class Text:
    """A string with where it stands."""

    room: str
    where: str
    text: str


def room_of(path: Path) -> str:
    """The bench that a file belongs to, or the part of the product beside benches."""
    parts = path.relative_to(SOURCE).parts
    if parts[:2] == ("web", "benches"):
        return parts[2]
    return "-".join(parts[:2]).removesuffix(".py") if len(parts) > 2 else parts[0]


def of_template(path: Path) -> Iterator[Text]:
    """What a template shows, block by block; what is put in stands as …"""
    source = path.read_text(encoding="utf-8")
    where = str(path.relative_to(SOURCE))
    for found in READ.finditer(source):
        yield Text(room_of(path), where, VALUE.sub("…", JINJA.sub("", found[1])))
    for code in (*VALUE.findall(source), *JINJA.findall(source)):
        for text in QUOTED.findall(code):
            if WORDS.search(text) and not CODE.search(text) and not code.startswith("{#"):
                yield Text(
                    room_of(path), where, text.partition(":")[2] if ":" in text[:3] else text
                )
    source = VALUE.sub("…", JINJA.sub(" ", source))
    for block in BLOCK.split(source):
        text = " ".join(unescape(TAG.sub(" ", block)).split())
        if WORDS.search(text):
            yield Text(room_of(path), where, text)


def of_module(path: Path) -> Iterator[Text]:
    """The strings of a module that somebody may read; what is put in stands as …"""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    skipped: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            skipped.add(id(node.value))
        if isinstance(node, ast.JoinedStr):
            skipped.update(id(part) for part in node.values)
            for part in node.values:
                if isinstance(part, ast.FormattedValue) and part.format_spec is not None:
                    skipped.add(id(part.format_spec))
    for node in ast.walk(tree):
        text = ""
        if id(node) in skipped:
            continue
        if isinstance(node, ast.JoinedStr):
            text = "".join(
                str(part.value) if isinstance(part, ast.Constant) else "…" for part in node.values
            )
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            text = node.value
        if WORDS.search(text) and not CODE.search(text):
            where = f"{path.relative_to(SOURCE)}:{getattr(node, 'lineno', 0)}"
            yield Text(room_of(path), where, " ".join(text.split()))


def texts() -> list[Text]:
    """Every string of the product that a person may read."""
    made: list[Text] = []
    for path in sorted(SOURCE.rglob("*.html")):
        made += of_template(path)
    for path in sorted(SOURCE.rglob("*.py")):
        if "native/writer" not in str(path) and "migrations" not in str(path):
            made += of_module(path)
    return made


def write(folder: Path = OUT) -> int:
    """One file a room; how many strings there are."""
    folder.mkdir(parents=True, exist_ok=True)
    by_room: dict[str, list[str]] = {}
    for text in texts():
        by_room.setdefault(text.room, []).append(f"{text.where}\t{text.text}")
    for room, lines in by_room.items():
        (folder / f"{room}.txt").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return sum(len(lines) for lines in by_room.values())


if __name__ == "__main__":
    sys.stdout.write(f"{write()} strings in {OUT}\n")
