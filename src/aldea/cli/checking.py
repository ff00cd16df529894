"""`./aldea test` and its neighbours: every check, the pictures, the benchmarks, the locks."""

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from aldea.cli.packages import ensure_printing, need
from aldea.native.building import SCAN_C, built_engine
from aldea.native.writer.document import scan_in_c
from aldea.store.settings import Settings

HOME = Settings().home
CHROMIUM = "/usr/bin/chromium-headless-shell"  # Debian's Chromium without its windows
PICTURES = {CHROMIUM: "chromium-headless-shell", "pdftotext": "poppler-utils"}
COMPILER = {"gcc": "gcc libc6-dev"}
CSS = HOME / "src/aldea/web/shell/static/aldea.css"
# Three workers on two cores: a browser test waits for a third of its time. The files that take
# longest come first, in the order of the alphabet, so that the workers end together.
SPREAD = ("-n", "3", "--dist", "loadfile", "--no-loadscope-reorder")
# What is looked through, and how much of its lines and branches the tests have to take.
WATCHED = ("core", "formats", "store")
LEAST_PCT = {"core": 92, "formats": 92, "store": 92, "core/words": 85, "core/rehearse": 85}


@dataclass(frozen=True, slots=True)
class Outcome:
    """How one check went."""

    name: str
    seconds: float
    passed: bool
    output: str


def _run(*command: str, cwd: Path = HOME, quiet: bool = False) -> int:
    done = subprocess.run(
        command,
        cwd=cwd,
        check=False,
        stdout=subprocess.DEVNULL if quiet else None,
    )
    return done.returncode


def build_css(target: Path = CSS) -> int:
    """Build the style sheet; installs the pinned builder into assets/ first."""
    assets = HOME / "assets"
    need({"npm": "nodejs npm"})
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


def _css_is_fresh() -> Outcome:
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder) / "aldea.css"
        passed = not build_css(fresh) and fresh.read_text() == CSS.read_text()
    output = "the built style sheet is stale: run ./aldea css and commit it"
    return Outcome("style sheet", time.monotonic() - began, passed, output)


def _scan_is_fresh() -> Outcome:
    began = time.monotonic()
    passed = SCAN_C.read_text() == scan_in_c()
    output = "scan.c is stale: run ./aldea engine --write and commit it"
    return Outcome("engine source", time.monotonic() - began, passed, output)


def _check(name: str, *command: str) -> Outcome:
    began = time.monotonic()
    done = subprocess.run(command, cwd=HOME, check=False, capture_output=True, text=True)
    return Outcome(name, time.monotonic() - began, done.returncode == 0, done.stdout + done.stderr)


def _checks() -> Iterator[Outcome]:
    """Every check, cheapest first; types and the style sheet beside what waits for other things."""
    python = sys.executable
    tools = Path(python).parent
    sources = ("src", "tests", "benchmarks", "aldea")
    with ThreadPoolExecutor(2) as pool:
        types = pool.submit(_check, "types", str(tools / "mypy"), "src", "tests", "benchmarks")
        yield _check("format", str(tools / "ruff"), "format", "--check", *sources)
        yield _check("lint", str(tools / "ruff"), "check", *sources)
        yield _check("import contracts", str(tools / "lint-imports"), "--no-cache")
        yield _check("templates", str(tools / "djlint"), "src/aldea/web", "--lint", "--quiet")
        yield _scan_is_fresh()
        _need_for_tests()
        built_engine(Settings().engine)  # or every worker of the tests would make it
        style = pool.submit(_css_is_fresh)
        with tempfile.TemporaryDirectory() as folder:
            seen = Path(folder) / "coverage.json"
            began = time.monotonic()
            code = _run(python, "-m", "pytest", *SPREAD, "-q", *_watching(seen))
            yield Outcome("tests", time.monotonic() - began, not code, "")
            yield _covered(seen)
        yield style.result()
        yield types.result()


def _watching(seen: Path) -> list[str]:
    """Options of the tests that write down which branches were taken."""
    sources = [f"--cov=src/aldea/{name}" for name in WATCHED]
    return [*sources, "--cov-branch", f"--cov-report=json:{seen}", "--cov-report="]


def _covered(seen: Path) -> Outcome:
    """Whether enough of the lines and branches was gone through, part by part."""
    began = time.monotonic()
    if not seen.exists():
        return Outcome("coverage", 0.0, False, "the tests wrote down no coverage")
    files = json.loads(seen.read_text())["files"]
    short = []
    for part, least_pct in LEAST_PCT.items():
        rows = [row["summary"] for name, row in files.items() if f"src/aldea/{part}/" in name]
        there = sum(row["num_statements"] + row["num_branches"] for row in rows)
        gone = sum(row["covered_lines"] + row["covered_branches"] for row in rows)
        pct = 100 * gone / max(there, 1)
        print(f"   {part}: {pct:.1f} % of {there} lines and branches, {least_pct} wanted")
        if pct < least_pct:
            short.append(f"{part} {pct:.1f} %, wanted {least_pct}")
    return Outcome("coverage", time.monotonic() - began, not short, "\n".join(short))


def _need_for_tests() -> None:
    need({**PICTURES, **COMPILER, "clang": "clang libclang-rt-dev", "npm": "nodejs npm"})
    ensure_printing()


def run_checks(arguments: list[str]) -> int:
    """Every check; stops at none, so that one run shows all. Arguments: only pytest, with them."""
    began = time.monotonic()
    if arguments:
        _need_for_tests()
        return _run(sys.executable, "-m", "pytest", *arguments)
    failed: list[str] = []
    for outcome in _checks():
        if not outcome.passed:
            failed.append(outcome.name)
            print(outcome.output)
        how = "passed" if outcome.passed else "FAILED"
        print(f"-- {outcome.name}: {how}, {outcome.seconds:.1f} s", flush=True)
    print(f"-- all: {time.monotonic() - began:.1f} s", flush=True)
    print(f"failed: {', '.join(failed)}" if failed else "every check passed")
    return 1 if failed else 0


def take_shots() -> int:
    """Pictures of every main view."""
    need(PICTURES)
    ensure_printing()
    return _run(sys.executable, "-m", "tests.browser.shots")


def send_odd_requests(*, seed: int, count: int) -> int:
    """Requests that nobody would send, made from what the pages offer."""
    ensure_printing()
    return _run(sys.executable, "-m", "tests.web.generated", str(seed), str(count))


def break_lines(*, count: int, seed: int, only: str) -> int:
    """Mutants of a sample of lines, in copies of this checkout."""
    _need_for_tests()
    return _run(sys.executable, "-m", "tests.mutants", str(count), str(seed), only)


def run_benchmarks(soak_minutes: float | None) -> int:
    """Everything that has a target in time; or a soak of so many minutes."""
    need(COMPILER)
    ensure_printing()
    if soak_minutes is not None:
        return _run(sys.executable, "-m", "benchmarks.soak", str(soak_minutes))
    return _run(sys.executable, "-m", "benchmarks.run")


def pin() -> int:
    """Write the locks, without any address in them."""
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
