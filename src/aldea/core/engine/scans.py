"""What runs the scans: the compiled engine, once it is loaded, or the same source as it stands.

The core knows no file: whoever starts a process loads the engine and hands it in
(`aldea.native.engine`).
"""

from collections.abc import Callable

from aldea.core.base.errors import AldeaError
from aldea.core.engine.scan.loop import scan_loop
from aldea.core.engine.tables.run import RunTables

Scans = Callable[[RunTables, int, int, int, bool, bool, bool], None]
in_python: Scans = scan_loop  # slow, and nothing between it and the source
_loaded: list[Scans] = []


class EngineMissingError(AldeaError):
    """Nobody loaded the compiled engine in this process."""

    def __init__(self) -> None:
        super().__init__(
            "engine",
            text="The compiled engine is not loaded in this process: call "
            "aldea.native.engine.load_engine first, or run the scans in Python.",
        )


def use_scans(scans: Scans) -> None:
    """Let every run of this process be scanned by `scans` from now on."""
    _loaded[:] = [scans]


def loaded_scans() -> Scans:
    """What scans the runs of this process; `EngineMissingError` where nothing was loaded."""
    if not _loaded:
        raise EngineMissingError
    return _loaded[0]
