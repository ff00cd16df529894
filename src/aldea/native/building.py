"""Compiling the engine: once for each state of its source, its compiler and this machine."""

import hashlib
import os
import platform
import shutil
import subprocess
import tempfile
from pathlib import Path

from aldea.core.base.errors import SetUpError

SCAN_C = Path(__file__).parent / "scan.c"
COMPILERS = ("gcc", "clang", "cc")
# Nothing may be contracted: a fused multiply and add rounds once where the scan rounds twice.
FLAGS = ("-std=c99", "-O3", "-ffp-contract=off", "-fPIC", "-shared")
KEPT = 3  # engines: this one, and two to go back to


def compiler() -> str | None:
    """The C compiler of this machine, if there is one."""
    return next((path for name in COMPILERS if (path := shutil.which(name))), None)


def built_engine(folder: Path) -> Path:
    """The compiled engine below `folder`, made where it is not there yet (a few seconds, once).

    Without a compiler one that was made elsewhere of the same source, for this kind of machine,
    is taken. Raises `SetUpError` where there is neither.
    """
    source, tool = SCAN_C.read_bytes(), compiler()
    if tool is None:
        libraries = sorted(folder.glob(f"{_digest(source)}-{platform.machine()}-*/scan.so"))
        if not libraries:
            raise SetUpError(
                "engine",
                got="no C compiler",
                allowed="gcc or clang",
                fix="As root: apt-get install -y --no-install-recommends gcc libc6-dev",
            )
        return libraries[-1]
    version = subprocess.run([tool, "--version"], check=False, capture_output=True).stdout
    by = _digest(version + " ".join(FLAGS).encode())
    target = folder / f"{_digest(source)}-{platform.machine()}-{by}" / "scan.so"
    if not target.exists():
        compile_scan(SCAN_C, target, tool, FLAGS)
        _forget(folder)
    os.utime(target.parent)
    return target


def compile_scan(source: Path, target: Path, tool: str, flags: tuple[str, ...]) -> None:
    """Compile a file of C to a library; `SetUpError` with the compiler's own words.

    It is written beside its place and put there whole: two processes that begin together each
    find a whole one, and one that is killed meanwhile leaves none.
    """
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=target.parent) as own:
            partial = Path(own) / target.name
            command = [tool, *flags, str(source), "-o", str(partial), "-lm"]
            done = subprocess.run(command, check=False, capture_output=True, text=True)
            if done.returncode:
                raise SetUpError(
                    "engine",
                    got=done.stderr.strip()[-400:],
                    allowed="a compiler that can compile scan.c",
                    fix="Check that gcc and libc6-dev are whole, then start again.",
                )
            partial.replace(target)
    except OSError as exc:
        raise SetUpError(
            "engine",
            got=f"{target.parent}: {exc.strerror}",
            allowed="a folder that can be written",
            fix="Free space, or make the folder writable, then start again.",
        ) from exc


def _digest(text: bytes) -> str:
    return hashlib.sha256(text).hexdigest()[:16]


def _forget(folder: Path) -> None:
    """Remove all but the engines used last."""
    libraries = sorted(folder.iterdir(), key=lambda path: path.stat().st_mtime)
    for old in libraries[:-KEPT]:
        shutil.rmtree(old, ignore_errors=True)
