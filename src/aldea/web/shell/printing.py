"""Printing: a page of HTML as PDF, with our own fonts and no other file; each kept a while."""

import atexit
import contextlib
import threading
from collections.abc import Callable, Hashable
from functools import cache
from pathlib import Path
from typing import Any

from fastapi import Response

from aldea.core.base.bounded import BoundedCache
from aldea.core.base.errors import AldeaError
from aldea.web.shell.templates import templates

STATIC = Path(__file__).parent / "static"
SHEET_STYLE = "sheet.css"
MOST_BYTES = 16_000_000
# A sheet takes a second or more of one core, and the fonts are shared: one at a time.
_one_at_a_time = threading.Lock()


@cache
def _tools() -> tuple[Any, Any, Any]:
    """The printer, its fonts and what it may fetch: files of this machine, which are our fonts."""
    from weasyprint import HTML  # noqa: PLC0415  half a second, for prints alone
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    atexit.register(_tools.cache_clear)  # its fonts are given back while there is still a way to
    return HTML, FontConfiguration(), URLFetcher(allowed_protocols=("file",), allow_redirects=False)


@cache
def _style(name: str) -> Any:
    """A style sheet with its fonts, read once."""
    from weasyprint import CSS  # noqa: PLC0415

    _, fonts, fetcher = _tools()
    text = templates.env.get_template(name).render()
    base = f"{STATIC.as_uri()}/"
    return CSS(string=text, base_url=base, url_fetcher=fetcher, font_config=fonts)


def pdf_of(html: str, *styles: str) -> bytes:
    """A page of HTML as PDF, by the style of every sheet and then its own."""
    with _one_at_a_time:
        printer, fonts, fetcher = _tools()
        page = printer(string=html, base_url=f"{STATIC.as_uri()}/", url_fetcher=fetcher)
        sheets = [_style(name) for name in (SHEET_STYLE, *styles)]
        made: bytes = page.write_pdf(stylesheets=sheets, font_config=fonts)
    return made


def _load() -> None:
    # Without its libraries a print says what to install.
    with contextlib.suppress(OSError), _one_at_a_time:
        _style(SHEET_STYLE)


class Printer:
    """Sheets by what they depend on: none is made anew while its plan stands."""

    def __init__(self) -> None:
        self._kept: BoundedCache[bytes] = BoundedCache(MOST_BYTES)
        self._prepared = False

    def prepare(self) -> None:
        """Load what prints, in the background, where somebody stands before the door to it."""
        if not self._prepared:
            self._prepared = True
            threading.Thread(target=_load, name="printing", daemon=True).start()

    def answer(self, key: Hashable, name: str, make: Callable[[], str], *styles: str) -> Response:
        """A PDF to look at or to keep; `AldeaError` with the mend where a library is missing."""
        made = self._kept.get(key)
        if made is None:
            try:
                made = pdf_of(make(), *styles)
            except OSError as exc:
                raise AldeaError(
                    "printing",
                    said=f"A library for printing is missing ({exc}). As root: apt-get install "
                    "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0",
                ) from exc
            self._kept.put(key, made, len(made))
        return Response(
            made,
            media_type="application/pdf",
            headers={"Content-Disposition": f'inline; filename="{name}"'},
        )
