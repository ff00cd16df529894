"""One way to change a draft from a page: read it at a version, change it, keep it as one step."""

from collections.abc import Callable

from aldea.core.errors import AldeaError, InputError
from aldea.core.plan.document import Plan
from aldea.store.houses import write_log
from aldea.store.plans import Draft, DraftMovedError, keep_draft, read_draft
from aldea.web.security import Door
from aldea.web.state import AppState

Change = Callable[[Plan], Plan]


def edit_draft(state: AppState, door: Door, version: int, change: Change, what: str) -> Draft:
    """Apply a change to the draft and keep it.

    Raises `DraftMovedError` where the draft is no longer at `version`, `InputError` (`PlanError`)
    where the changed plan does not fit together; nothing is kept then.
    """
    with state.database.begin() as connection:
        draft = read_draft(connection, door.house.id)
        if draft.version != version:
            raise DraftMovedError(draft, version)
        made = change(draft.plan)
        if made == draft.plan:
            return draft
        kept = keep_draft(
            connection,
            door.house.id,
            made,
            version_read=version,
            by=door.account,
            at_ms=door.now_ms,
            what=what,
        )
        write_log(
            connection, door.house.id, account=door.account, at_ms=door.now_ms, what=f"{what}."
        )
    return kept


def refused_edit(
    state: AppState, door: Door, sent: dict[str, str], change: Change, what: str
) -> str:
    """Edit the draft by a form that carries its version; the refusal's sentence, empty if kept."""
    try:
        edit_draft(state, door, version_of(sent), change, what)
    except AldeaError as exc:
        return exc.sentence
    return ""


def version_of(sent: dict[str, str]) -> int:
    """The version that a form was made for; `InputError` where it carries none."""
    text = sent.get("version", "")
    if not text.isdigit():
        raise InputError(
            "version", got=repr(text), allowed="the draft's version", mend="Load the page again."
        )
    return int(text)
