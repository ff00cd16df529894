"""Printing: a page of HTML as PDF, with our own fonts and no other file."""

from pathlib import Path

from fastapi import Response

from aldea.core.base.errors import AldeaError

STATIC = Path(__file__).parent / "static"


def pdf_of(html: str) -> bytes:
    """A page of HTML as PDF; nothing is fetched but files of this machine, which are our fonts."""
    from weasyprint import HTML  # noqa: PLC0415  half a second, for prints alone
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    fetcher = URLFetcher(allowed_protocols=("file",), allow_redirects=False)
    made: bytes = HTML(string=html, base_url=f"{STATIC.as_uri()}/", url_fetcher=fetcher).write_pdf()
    return made


def pdf_answer(html: str, name: str) -> Response:
    """A PDF to look at or to keep; `AldeaError` with the mend where a library is missing."""
    try:
        made = pdf_of(html)
    except OSError as exc:
        raise AldeaError(
            "printing",
            got=f"a library that is missing ({exc})",
            allowed="libpango and libharfbuzz-subset",
            mend="As root: apt-get install libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0",
        ) from exc
    return Response(
        made,
        media_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}"'},
    )
