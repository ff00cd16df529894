"""`./aldea test` and its neighbours: every check, the pictures, the benchmarks, the locks."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from aldea.cli.packages import ensure_printing, need
from aldea.store.settings import Settings

HOME = Settings().home
CHROMIUM = "/usr/bin/chromium"
CSS = HOME / "src/aldea/web/static/aldea.css"


def _run(*command: str, cwd: Path = HOME, quiet: bool = False) -> int:
    done = subprocess.run(
        command,
        cwd=cwd,
        check=False,
        stdout=subprocess.DEVNULL if quiet else None,
        env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1"},
    )
    return done.returncode


def build_css(target: Path = CSS) -> int:
    """Build the style sheet; installs the pinned builder into assets/ first."""
    assets = HOME / "assets"
    need("npm", "nodejs npm")
    if not (assets / "node_modules/.bin/tailwindcss").exists():
        code = _run("npm", "ci", "--silent", "--no-audit", "--no-fund", cwd=assets)
        if code:
            return code
    return _run(
        str(assets / "node_modules/.bin/tailwindcss"),
        *("-i", "aldea.css", "-o", str(target), "--minify"),
        cwd=assets,
        quiet=True,
    )


def _css_is_fresh() -> int:
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder) / "aldea.css"
        if build_css(fresh):
            return 1
        if fresh.read_text() != CSS.read_text():
            print("the built style sheet is stale: run ./aldea css and commit it")
            return 1
    return 0


def run_checks(arguments: list[str]) -> int:
    """Every check in order, cheapest first; stops at none, so that one run shows all."""
    need(CHROMIUM, "chromium")
    need("gcc", "gcc libc6-dev")
    need("pdftotext", "poppler-utils")
    ensure_printing()
    python = sys.executable
    tools = Path(python).parent
    if arguments:
        return _run(python, "-m", "pytest", *arguments)
    sources = ("src", "tests", "benchmarks", "aldea")
    steps: list[tuple[str, tuple[str, ...]]] = [
        ("format", (str(tools / "ruff"), "format", "--check", *sources)),
        ("lint", (str(tools / "ruff"), "check", *sources)),
        ("types", (str(tools / "mypy"), "src", "tests", "benchmarks")),
        ("import contracts", (str(tools / "lint-imports"), "--no-cache")),
        ("templates", (str(tools / "djlint"), "src/aldea/web/templates", "--lint", "--quiet")),
    ]
    failed: list[str] = []
    for name, command in steps:
        began = time.monotonic()
        if _run(*command):
            failed.append(name)
        print(f"-- {name}: {time.monotonic() - began:.1f} s", flush=True)
    if _css_is_fresh():
        failed.append("style sheet")
    began = time.monotonic()
    if _run(python, "-m", "pytest", "-n", "2", "--dist", "loadfile", "-q"):
        failed.append("tests")
    print(f"-- tests: {time.monotonic() - began:.1f} s", flush=True)
    print(f"failed: {', '.join(failed)}" if failed else "every check passed")
    return 1 if failed else 0


def take_shots() -> int:
    """Pictures of every main view."""
    need(CHROMIUM, "chromium")
    need("pdftoppm", "poppler-utils")
    ensure_printing()
    return _run(sys.executable, "-m", "tests.browser.shots")


def run_benchmarks() -> int:
    """Everything that has a target in time."""
    need("gcc", "gcc libc6-dev")
    return _run(sys.executable, "-m", "benchmarks.run")


def pin() -> int:
    """Write the locks anew, without any address in them."""
    uv = HOME / ".aldea/boot/bin/uv"
    for name in ("boot", "run", "test"):
        code = _run(
            *(str(uv), "pip", "compile", "-q", "--no-header", "--no-annotate"),
            *("--generate-hashes", "--python-version", "3.11"),
            *(f"requirements/{name}.in", "-o", f"requirements/{name}.txt"),
        )
        if code:
            return code
    return 0
