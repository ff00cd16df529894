"""The process that sets pages: a request on a line, its PDF back, until the last request.

It is a process of its own because it is large and slow: what it loads and leaves lying is not the
server's, and no page waits while it works.
"""

import gc
import json
import sys
from functools import cache
from typing import Any, BinaryIO


def answer_requests(requests: BinaryIO, answers: BinaryIO) -> None:
    """Answer until the other end closes: a line of JSON with the length, then that many bytes."""
    gc.disable()  # a page is thousands of small parts that all go at its end
    for line in requests:
        request = json.loads(line)
        head: dict[str, Any] = {}
        pdf = b""
        try:
            pdf = _pdf(request["html"], tuple(request["styles"]), request["base"])
        except OSError as exc:
            head["missing"] = str(exc)
        head["bytes"] = len(pdf)
        answers.write(json.dumps(head).encode() + b"\n" + pdf)
        answers.flush()
        gc.collect()


def _pdf(html: str, styles: tuple[str, ...], base: str) -> bytes:
    printer, fonts, fetcher = _tools()
    sheets = [_style(text, base) for text in styles]
    page = printer(string=html, base_url=base, url_fetcher=fetcher)
    pdf: bytes = page.write_pdf(stylesheets=sheets, font_config=fonts)
    return pdf


@cache
def _tools() -> tuple[Any, Any, Any]:
    """The printer, its fonts and what it may fetch: our fonts, and drawings within the page."""
    from weasyprint import HTML  # noqa: PLC0415  where it is missing the answer says so
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    fetcher = URLFetcher(allowed_protocols=("file", "data"), allow_redirects=False)
    return HTML, FontConfiguration(), fetcher


@cache
def _style(text: str, base: str) -> Any:
    """A style sheet with its fonts, read once."""
    from weasyprint import CSS  # noqa: PLC0415

    _, fonts, fetcher = _tools()
    return CSS(string=text, base_url=base, url_fetcher=fetcher, font_config=fonts)


if __name__ == "__main__":
    answer_requests(sys.stdin.buffer, sys.stdout.buffer)
