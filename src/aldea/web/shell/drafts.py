"""One way to change a draft from a page: read it at a version, change it, keep it as one step."""

from collections.abc import Callable

from pydantic import ValidationError

from aldea.core.base.errors import AldeaError, InputError
from aldea.core.base.numbers import whole_of
from aldea.core.base.unfit import unfit
from aldea.core.plan.changes import PlanChange, plan_changes
from aldea.core.plan.document import Plan
from aldea.store.drafts import Draft, DraftMovedError, change_draft, change_over, plan_at
from aldea.web.shell.access import HouseAccess
from aldea.web.shell.page import OpenHouse
from aldea.web.shell.state import AppState

Change = Callable[[Plan], Plan]


def edit_draft(
    state: AppState,
    access: HouseAccess,
    version: int,
    change: Change,
    what: str,
    begun_at: int | None = None,
) -> Draft:
    """Apply a change to the draft and keep it, beside what others changed in other parts since.

    Raises `DraftMovedError` where somebody changed the same part since `version`, `InputError`
    (`PlanError`) where the changed plan does not fit together; nothing is kept then. With
    `begun_at` it goes over what others changed since that version, field by field.
    """
    with state.database.begin() as connection:
        return change_draft(
            connection,
            access.house.id,
            lambda plan: _changed(change, plan),
            version_read=version,
            by=access.account,
            at_ms=access.now_ms,
            what=what,
            begun_at=begun_at,
        )


REMOVED = (
    "It was removed while you were here. What you typed is below. Save it to add it again, or "
    "cancel."
)


def as_begun(state: AppState, opened: OpenHouse, sent: dict[str, str]) -> Plan | None:
    """The draft's plan as it was when a form was begun; None where that is too long ago."""
    version = begun_at(sent) or version_of(sent)
    with state.database.begin() as connection:
        try:
            return plan_at(connection, opened.access.house.id, version, opened.draft)
        except DraftMovedError:
            return None


def rows_over(
    state: AppState, access: HouseAccess, moved: DraftMovedError, change: Change
) -> tuple[PlanChange, ...]:
    """What keeping mine over theirs would change of the draft as it is now, row by row."""
    with state.database.begin() as connection:
        mine = change_over(connection, access.house.id, moved, change)
    return plan_changes(moved.current.plan, mine)


def begun_at(sent: dict[str, str]) -> int | None:
    """The version at which a form was begun whose difference the person has seen; else None."""
    return whole_of(sent.get("begun_at", ""))


def _changed(change: Change, plan: Plan) -> Plan:
    """A change done; what a part of the plan cannot be is refused at its field, in words."""
    try:
        return change(plan)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        raise InputError(
            first.field.replace("_", " ") or "what was typed", got=first.got, allowed=first.allowed
        ) from exc


def refused_edit(
    state: AppState, access: HouseAccess, sent: dict[str, str], change: Change, what: str
) -> str:
    """Edit the draft by a form that carries its version; the refusal's sentence, empty if kept."""
    try:
        edit_draft(state, access, version_of(sent), change, what)
    except AldeaError as exc:
        return exc.sentence
    return ""


def version_of(sent: dict[str, str]) -> int:
    """The version that a form was made for; `InputError` where it carries none."""
    text = sent.get("version", "")
    version = whole_of(text)
    if version is None:
        raise InputError(
            "version", text="This form does not say which draft it is for. Load the page again."
        )
    return version
