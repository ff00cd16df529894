"""Printing: a page of HTML as PDF, with our own fonts and no other file; each kept a while."""

import base64
import contextlib
import json
import re
import subprocess
import sys
import threading
from collections.abc import Callable, Hashable
from pathlib import Path

from fastapi import Response
from markupsafe import Markup

from aldea.core.base.bounded import BoundedCache
from aldea.core.base.errors import AldeaError
from aldea.web.shell.templates import templates

STATIC = Path(__file__).parent / "static"
SHEET_STYLE = "sheet.css"
WORKER = Path(__file__).with_name("print_worker.py")
MOST_BYTES = 16_000_000
IDLE_S = 300.0
LIBRARIES = "apt-get install libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"

READY = (  # what every sheet has: whoever sets it has all at hand for the first one
    "<h1>1</h1><table><tr><td>1 <b>1</b></table><img src='data:image/svg+xml,"
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><text>1</text></svg>'
    "'>"
)


class PrintProcess:
    """The process that sets pages; begun when it is wanted, ended when nobody wants it a while."""

    def __init__(self, idle_s: float = IDLE_S) -> None:
        self._idle_s = idle_s
        self._process: subprocess.Popen[bytes] | None = None
        self._idle: threading.Timer | None = None
        self._lock = threading.Lock()  # one sheet at a time

    @property
    def runs(self) -> bool:
        """Whether it is there."""
        return self._process is not None and self._process.poll() is None

    def pdf(self, html: str, styles: tuple[str, ...]) -> bytes:
        """A page of HTML by its styles.

        `AldeaError` where a library is missing, with what to install, and where a sheet is too
        large for this machine.
        """
        with self._lock:
            try:
                return self._twice(html, styles)
            finally:
                self._end_later()

    def _twice(self, html: str, styles: tuple[str, ...]) -> bytes:
        for _ in range(2):
            try:
                return self._answer(html, styles)
            except (OSError, EOFError):  # it was ended between two sheets, or by this one
                self._end()
        raise AldeaError(
            "printing",
            text="The process that prints ended while it worked, twice. Where this machine has "
            "little memory left, close what else runs on it; then print again.",
        )

    def end(self) -> None:
        """End it, once it has done what it does."""
        with self._lock:
            self._end()

    def _answer(self, html: str, styles: tuple[str, ...]) -> bytes:
        process = self._running()
        assert process.stdin is not None  # noqa: S101
        assert process.stdout is not None  # noqa: S101
        request = {"html": html, "styles": styles, "base": f"{STATIC.as_uri()}/"}
        process.stdin.write(json.dumps(request).encode() + b"\n")
        process.stdin.flush()
        line = process.stdout.readline()
        if not line:
            raise EOFError
        head = json.loads(line)
        if "missing" in head:
            raise AldeaError(
                "printing",
                text=f"A library for printing is missing ({head['missing']}). As root: {LIBRARIES}",
            )
        answer = process.stdout.read(head["bytes"])
        if len(answer) < head["bytes"]:
            raise EOFError
        return answer

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-P", str(WORKER)],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
            )
        return self._process

    def _end_later(self) -> None:
        if self._idle is not None:
            self._idle.cancel()
        self._idle = threading.Timer(self._idle_s, self.end)
        self._idle.daemon = True
        self._idle.start()

    def _end(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.communicate()
            self._process = None


class Printer:
    """Sheets by what they depend on: none is made anew while its plan stands."""

    def __init__(self) -> None:
        self._kept: BoundedCache[bytes] = BoundedCache(MOST_BYTES)
        self._process = PrintProcess()

    def prepare(self) -> None:
        """Make ready in the background, where somebody stands before the door to it."""
        if not self._process.runs:
            threading.Thread(target=self._make_ready, name="printing", daemon=True).start()

    def _make_ready(self) -> None:
        # Without its libraries a print says what to install.
        with contextlib.suppress(AldeaError):
            self._process.pdf(READY, _texts(()))

    def answer(self, key: Hashable, name: str, make: Callable[[], str], *styles: str) -> Response:
        """A PDF to look at or to keep; `AldeaError` with the fix where a library is missing."""
        sheet = self._kept.get(key)
        if sheet is None:
            sheet = self._process.pdf(make(), _texts(styles))
            self._kept.put(key, sheet, len(sheet))
        return Response(
            sheet,
            media_type="application/pdf",
            headers={"Content-Disposition": f'inline; filename="{name}"'},
        )


def _texts(styles: tuple[str, ...]) -> tuple[str, ...]:
    """The style of every sheet and then its own."""
    return tuple(templates.env.get_template(name).render() for name in (SHEET_STYLE, *styles))


def as_image(svg: str) -> Markup:
    """A drawing as an image within a page: its parts need no style sought for them."""
    size = " ".join(re.findall(r'\b(?:width|height)="[\d.]+"', svg[: svg.index(">")]))
    named = str(svg).replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    data = base64.b64encode(named.strip().encode()).decode()
    return Markup(f'<img {size} alt="" src="data:image/svg+xml;base64,{data}" />')  # noqa: S704


templates.env.filters["as_image"] = as_image
