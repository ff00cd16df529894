"""What the database says, in Aldea's own errors: translated here and nowhere else."""

from collections.abc import Iterator
from contextlib import contextmanager

import psycopg
from psycopg import errors
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError

from aldea.core.base.errors import AldeaError, ConflictError, InputError, UnavailableError

AGAIN = "Try again in a moment; nothing was changed."


@contextmanager
def translated() -> Iterator[None]:
    """Raise what the database refused as an `AldeaError`; what is a defect of ours stays as it is.

    A server that is away or full is `UnavailableError`, a value that it cannot hold `InputError`,
    two people at one thing `ConflictError`.
    """
    try:
        yield
    except PoolTimeoutError as exc:
        raise UnavailableError(
            "database",
            text=f"The database has more work than it has connections for. {AGAIN}",
        ) from exc
    except (DBAPIError, psycopg.Error) as exc:
        translated_error = in_our_words(exc)
        if translated_error is None:
            raise
        raise translated_error from exc


def in_our_words(exc: DBAPIError | psycopg.Error) -> AldeaError | None:
    """The error of ours that says the same; None for one that only a fix of the code helps."""
    cause = exc.orig if isinstance(exc, DBAPIError) else exc
    if isinstance(cause, errors.DiskFull):
        return UnavailableError(
            "database",
            text="The disk is full. Free space and try again; nothing is half-stored.",
        )
    if isinstance(cause, (errors.DeadlockDetected, errors.SerializationFailure)):
        return ConflictError(
            "database",
            text=f"Two changes blocked each other. {AGAIN}",
        )
    if isinstance(cause, errors.UniqueViolation):
        return ConflictError(
            "database",
            text="The same thing was sent twice at one moment. Load the page again and look what "
            "is there now.",
        )
    if isinstance(cause, (errors.DataError, errors.ProgramLimitExceeded)):
        return InputError(
            "value",
            text="A value cannot be stored: a text with signs that cannot be seen, or a number out "
            f"of the range of its field. The database says: {_first_line(cause)}",
        )
    if isinstance(cause, (psycopg.OperationalError, psycopg.InterfaceError)):
        return UnavailableError(
            "database",
            text=f"The database does not answer: {_first_line(cause)}. {AGAIN}",
        )
    return None


def _first_line(cause: BaseException) -> str:
    return (str(cause).strip().splitlines() or ["no answer"])[0][:200]
