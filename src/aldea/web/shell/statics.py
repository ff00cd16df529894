"""Style, fonts and scripts: the shell's own folder, and the scripts that benches bring."""

from collections.abc import Sequence
from pathlib import Path

from fastapi import FastAPI
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles

from aldea.core.base.errors import NotFoundError
from aldea.web.shell.bench import Bench

FOLDER = Path(__file__).parent / "static"


def serve_statics(app: FastAPI, benches: Sequence[Bench]) -> None:
    """Serve `/static/…` from the shell and `/static/benches/<bench>/<script>` from each bench."""
    scripts = {(bench.key, name): path for bench in benches for name, path in bench.scripts.items()}

    @app.get("/static/benches/{key}/{name}", include_in_schema=False)
    def script(key: str, name: str) -> Response:
        """A script of a bench."""
        path = scripts.get((key, name))
        if path is None:
            raise NotFoundError("script", got=repr(f"{key}/{name}"), allowed="one of a bench")
        return FileResponse(path, media_type="text/javascript")

    app.mount("/static", StaticFiles(directory=FOLDER), name="static")
