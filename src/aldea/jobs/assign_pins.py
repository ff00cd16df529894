"""Pins for a whole house: dealt from the draft as it was, kept in the draft as it is."""

import logging
import math
import time

from aldea.core.base.errors import AldeaError
from aldea.core.plan.document import Plan
from aldea.core.wiring.assign import Assigned, assign_pins
from aldea.core.wiring.pin_model import Tell
from aldea.core.wiring.signals import signals
from aldea.jobs.queue import ASSIGN_PINS, defer
from aldea.jobs.running import SECONDS_BETWEEN_TELLING, StoppedError, held, words_of
from aldea.store.accounts import Account
from aldea.store.assign_runs import AssignRun, State, end_assigning, find_assigning, tell_assigning
from aldea.store.database import Database
from aldea.store.drafts import DraftMovedError, change_draft, lock_draft, plan_at, read_draft

MOVED = (
    "Somebody changed what the pins were dealt for meanwhile; nothing was changed. Assign again."
)
log = logging.getLogger("aldea.jobs")


class _LongerError(Exception):
    """It takes longer than somebody waits."""


def assign_house(database: Database, run_id: int, *, seconds: float = math.inf) -> None:
    """Do one run, whatever comes of it: pins in the draft, a conflict, a refusal, or stopped.

    What is not done after `seconds` is put into the queue, and begun anew there.
    """
    with database.begin() as holding:
        if not held(holding, "assign", run_id):
            return
        with database.begin() as connection:
            run = find_assigning(connection, run_id)
        if run.state != "working":  # released after a crash, or stopped, before its turn came
            return
        try:
            _deal(database, run, time.monotonic() + seconds)
        except _LongerError:
            with database.begin() as connection:
                defer(connection, ASSIGN_PINS, run_id)
        except StoppedError:
            _end(database, run, "stopped")
        except DraftMovedError:
            _end(database, run, "refused", MOVED)
        except Exception as exc:
            if not isinstance(exc, AldeaError):
                log.exception("assigning %s", run_id)
            _end(database, run, "refused", words_of(exc))


def _deal(database: Database, run: AssignRun, ends_s: float) -> None:
    with database.begin() as connection:
        draft = read_draft(connection, run.house_id)
        plan = plan_at(connection, run.house_id, run.version_read, draft)
    tell = _teller(database, run, ends_s)
    tell("Looking at the plan", 0.0)
    done = assign_pins(plan, redeal=run.redeal, tell=tell)
    with database.begin() as connection:
        lock_draft(connection, run.house_id)
        now = read_draft(connection, run.house_id)
        if _dealt_for(now.plan) != _dealt_for(plan):
            raise DraftMovedError(now, run.version_read)
        if not done.conflict:
            change_draft(
                connection,
                run.house_id,
                lambda before: _with_pins(before, done),
                version_read=run.version_read,
                by=Account(id=run.account_id, name=""),
                at_ms=run.at_ms,
                what="pins assigned",
            )
        end_assigning(
            connection,
            run.id,
            "refused" if done.conflict else "done",
            conflict=done if done.conflict else None,
        )


def _dealt_for(plan: Plan) -> object:
    """What pins are dealt by: where that changed, they may no longer be the right ones."""
    return plan.boards, plan.board_types, plan.assignments, signals(plan)


def _with_pins(plan: Plan, done: Assigned) -> Plan:
    """The plan with the pins that were dealt."""
    return plan.model_copy(update={"assignments": done.assignments})


def _teller(database: Database, run: AssignRun, ends_s: float) -> Tell:
    last = [0.0]

    def report_progress(doing: str, share: float) -> None:
        if time.monotonic() - last[0] < SECONDS_BETWEEN_TELLING:
            return
        last[0] = time.monotonic()
        if last[0] > ends_s:
            raise _LongerError
        with database.begin() as connection:
            if tell_assigning(connection, run.id, doing, share):
                raise StoppedError("pins", got="a wish to stop", allowed="going on")

    return report_progress


def _end(database: Database, run: AssignRun, state: State, refusal: str = "") -> None:
    with database.begin() as connection:
        end_assigning(connection, run.id, state, refusal=refusal)
