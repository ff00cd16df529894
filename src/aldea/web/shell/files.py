"""Files out: the answers that a browser keeps as a download."""

from fastapi import Response


def csv_file(text: str, name: str) -> Response:
    """A CSV download."""
    return Response(
        text,
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
