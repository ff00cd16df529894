"""What all long work shares: a run is held, may be stopped, and ends in words."""

import time

from sqlalchemy import Connection

from aldea.core.base.errors import AldeaError
from aldea.store.run_locks import Work, lock_run

SECONDS_BETWEEN_TELLING = 0.25
LOOKS, SECONDS_BETWEEN_LOOKS = 10, 0.1


class StoppedError(AldeaError):
    """Somebody pressed Stop."""


def held(connection: Connection, work: Work, run_id: int) -> bool:
    """Hold a run, so that other servers see that somebody is at it; False where another is.

    The lock ends with the process, in any case. Who only looks whether a run is held lets go of
    it in a moment.
    """
    for _ in range(LOOKS):
        if lock_run(connection, work, run_id):
            return True
        time.sleep(SECONDS_BETWEEN_LOOKS)
    return False


def words_of(exc: Exception) -> str:
    """What went wrong, as a sentence with the fix."""
    if isinstance(exc, AldeaError):
        return exc.sentence
    if isinstance(exc, FileNotFoundError):
        return "The upload is no longer here; choose the file again."
    if isinstance(exc, OSError):
        return f"The disk said: {exc}. Nothing was stored: free space and start again."
    if isinstance(exc, MemoryError):
        return "It needs more memory than there is. Nothing was stored: do it in parts."
    return (
        f"Nothing was stored: {type(exc).__name__}, {str(exc)[:200]}. Start it again; of a log "
        "choose the file again where that does not help."
    )
