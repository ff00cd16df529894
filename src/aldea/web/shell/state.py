"""What the whole server shares, made once at start."""

import gc
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from anyio import CapacityLimiter

from aldea.store.database import Database
from aldea.store.reading_cache import ReadingCache
from aldea.web.shell.printing import Printer
from aldea.web.shell.replay_cache import ReplayCache

# An answer makes tens of thousands of things and lets them all go: no need to look after each.
LOOKED_THROUGH_AFTER = (50_000, 20, 100)


def wall_clock_ms() -> int:
    """UTC epoch milliseconds now."""
    return time.time_ns() // 1_000_000


def leave_alone_what_is_loaded() -> None:
    """What is loaded by now stays for good: looking through it again costs an answer 0.2 s."""
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
    clock: Callable[[], int] = wall_clock_ms
