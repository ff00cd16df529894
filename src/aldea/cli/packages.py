"""Debian packages beside PostgreSQL: installed where we may, else the line to run is said."""

import os
import shutil
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

from aldea.core.base.errors import SetUpError
from aldea.native.building import compiler
from aldea.store.settings import Settings

PRINTING = "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"
PRINTING_FILES = ("libpango-1.0.so.0", "libpangoft2-1.0.so.0", "libharfbuzz-subset.so.0")


def need(packages: Mapping[str, str]) -> None:
    """Install the packages of those programs that are missing, all in one go."""
    missing = {program: names for program, names in packages.items() if not shutil.which(program)}
    if missing:
        install(", ".join(Path(program).name for program in missing), " ".join(missing.values()))


def install(what: str, packages: str) -> None:
    """Install packages as root; `SetUpError` with the line to run for anybody else."""
    line = f"apt-get install -y --no-install-recommends {packages}"
    if os.geteuid() != 0:
        raise SetUpError(
            what, got="not installed", allowed="Debian's package", fix=f"As root: {line}"
        )
    print(f"aldea: installing {packages} …", flush=True)
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for command in (["apt-get", "update", "-q"], line.split()):
        done = subprocess.run(command, env=env, check=False, capture_output=True, text=True)
        if done.returncode:
            raise SetUpError(
                what, got=done.stderr[-300:], allowed="the package", fix=f"Run: {line}"
            )


def ensure_compiler() -> None:
    """Install gcc where no engine is compiled yet and nothing could compile it."""
    if compiler() is None and not any(Settings().engine.glob("*/scan.so")):
        install("the engine", "gcc libc6-dev")


def printing_is_there() -> bool:
    """Whether the libraries that set pages are on this machine."""
    return all(any(Path("/usr/lib").glob(f"*/{name}")) for name in PRINTING_FILES)


def ensure_printing() -> None:
    """Install what printing needs; without it all else still works, and the line is said."""
    if printing_is_there():
        return
    try:
        install("printing", PRINTING)
    except SetUpError as exc:
        print(f"aldea: sheets cannot be printed yet. {exc.fix}", file=sys.stderr)
