"""What the whole server shares, made once at start."""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import procrastinate

from aldea.core.engine.replay import Samples, run_replay
from aldea.core.errors import AldeaError
from aldea.store.database import Database
from aldea.store.readings import ReadingCache
from aldea.web.desk import Desk

SHORT_WAIT_S = 0.5  # a compiled engine is loaded from disk in less


def wall_clock_ms() -> int:
    """UTC epoch milliseconds now."""
    return time.time_ns() // 1_000_000


class EngineStartingError(AldeaError):
    """The engine still compiles itself; a replay would have to wait for it."""

    def __init__(self) -> None:
        super().__init__(
            "engine",
            got="an engine that still compiles itself",
            allowed="one that is ready, about ten seconds after the first start",
            mend="Ask again in a moment.",
        )


@dataclass(slots=True)
class EngineStart:
    """The engine compiles itself once, in the background; pages say so while it does."""

    ready: threading.Event = field(default_factory=threading.Event)

    def begin(self) -> None:
        """Start compiling."""
        threading.Thread(target=self._compile, name="engine-start", daemon=True).start()

    def check(self) -> None:
        """Raise `EngineStartingError` while a replay would have to wait."""
        if not self.ready.wait(SHORT_WAIT_S):
            raise EngineStartingError

    def _compile(self) -> None:
        import numpy as np  # noqa: PLC0415

        from aldea.core.engine.program import compile_plan  # noqa: PLC0415
        from aldea.core.plan.document import House, Plan  # noqa: PLC0415

        empty = Plan(
            format="aldea-plan/1",
            house=House(name="none", time_zone="UTC"),
            places=(),
            probes=(),
            loads=(),
            claims=(),
        )
        nothing = np.zeros(0, dtype=np.int64)
        try:
            run_replay(
                compile_plan(empty),
                Samples(t_ms=nothing, probe=nothing, value=np.zeros(0)),
                start_ms=0,
                end_ms=1000,
            )
        except AldeaError:
            pass
        finally:
            self.ready.set()


@dataclass(slots=True, kw_only=True)
class AppState:
    """The server's parts."""

    database: Database
    readings: ReadingCache
    desk: Desk
    queue: procrastinate.App
    uploads: Path
    engine: EngineStart
    clock: Callable[[], int] = wall_clock_ms
