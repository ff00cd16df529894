"""What the whole server shares, made once at start."""

import gc
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from anyio import CapacityLimiter

from aldea.core.base.errors import AldeaError
from aldea.store.database import Database
from aldea.store.reading_cache import ReadingCache
from aldea.web.shell.printing import Printer
from aldea.web.shell.replay_cache import ReplayCache

# An answer makes tens of thousands of things and lets them all go: no need to look after each.
LOOKED_THROUGH_AFTER = (50_000, 20, 100)
SHORT_WAIT_S = 0.5  # a compiled engine is loaded from disk in less


def wall_clock_ms() -> int:
    """UTC epoch milliseconds now."""
    return time.time_ns() // 1_000_000


class EngineStartingError(AldeaError):
    """The engine still compiles itself; a replay would have to wait for it."""

    def __init__(self) -> None:
        super().__init__(
            "engine",
            said="The engine still compiles itself; it is ready about twenty seconds after the "
            "first start. Ask again in a moment.",
        )


@dataclass(slots=True)
class EngineStart:
    """The engine compiles itself once, in the background; pages say so while it does."""

    ready: threading.Event = field(default_factory=threading.Event)

    def begin(self) -> None:
        """Start compiling."""
        threading.Thread(target=self._compile, name="engine-start", daemon=True).start()

    def stands(self) -> bool:
        """Whether a replay can be had now, or in the moment that loading it takes."""
        return self.ready.wait(SHORT_WAIT_S)

    def check(self) -> None:
        """Raise `EngineStartingError` while a replay would have to wait."""
        if not self.stands():
            raise EngineStartingError

    def _compile(self) -> None:
        try:
            _load_engine()
        finally:
            self.ready.set()


@cache
def _load_engine() -> None:
    """Compile the engine or load it: once in a process, however many applications it serves."""
    from aldea.core.engine.warm import warm_up  # noqa: PLC0415

    try:
        warm_up()
    finally:
        # What is loaded by now stays for good: looking through it again costs an answer 0.2 s.
        gc.collect()
        gc.freeze()
        gc.set_threshold(*LOOKED_THROUGH_AFTER)


@dataclass(slots=True, kw_only=True)
class AppState:
    """The server's parts."""

    database: Database
    readings: ReadingCache
    replays: ReplayCache
    hashing: CapacityLimiter
    printer: Printer
    uploads: Path
    engine: EngineStart
    clock: Callable[[], int] = wall_clock_ms
