"""The glossary of `docs/glossary.md`, word by word."""

import re
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Request, Response

from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house_of, render_bench, timeline_now

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
GLOSSARY = Path(__file__).parents[5] / "docs" / "glossary.md"
ROW = re.compile(r"^\| \*\*(.+?)\*\* \| (.+) \|$", re.MULTILINE)


@cache
def glossary() -> tuple[tuple[str, str], ...]:
    """Every word with what it means, in the order of the file."""
    rows = ROW.findall(GLOSSARY.read_text("utf-8"))
    return tuple((word, re.sub(r"[*`]", "", meaning)) for word, meaning in rows)


@router.get("/words")
def words(request: Request, state: State, access: MemberAccess) -> Response:
    """What each word means here."""
    opened = open_house_of(state, access)
    return render_bench(
        request,
        "words/words.html",
        opened,
        current="",
        timeline=timeline_now(request, state, opened),
        words=glossary(),
    )
