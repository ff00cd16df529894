"""A page: the draft and the revision of a house as a visitor may use them, and its rendering."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from fastapi import Request, Response
from sqlalchemy import Connection

from aldea.core.base.bounded import BoundedCache
from aldea.core.base.instants import local
from aldea.core.base.numbers import whole_of
from aldea.core.plan.document import Plan
from aldea.store.drafts import Draft, read_draft
from aldea.store.revisions import Revision, newest_revision
from aldea.web.shell.access import HouseAccess
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.state import AppState
from aldea.web.shell.templates import templates
from aldea.web.shell.timeline import Timeline, make_timeline
from aldea.web.shell.window import Window, window_of

MOST_TIMELINE_BYTES = 24_000_000
BYTES_A_LETTER = 3  # of what the script is told: with the drawing, and once more as a page has it


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenHouse:
    """What every bench of a house starts from."""

    access: HouseAccess
    draft: Draft
    revision: Revision | None
    base: str

    @property
    def plan(self) -> Plan:
        """The draft's plan."""
        return self.draft.plan

    @property
    def today(self) -> date:
        """The date at the house now."""
        return local(self.access.now_ms, self.plan.house.time_zone).date()


def open_house(connection: Connection, access: HouseAccess) -> OpenHouse:
    """The draft and the newest revision of a house."""
    return OpenHouse(
        access=access,
        draft=read_draft(connection, access.house.id),
        revision=newest_revision(connection, access.house.id),
        base=f"/h/{access.house.slug}",
    )


def open_house_of(state: AppState, access: HouseAccess) -> OpenHouse:
    """The same in a transaction of its own."""
    with state.database.begin() as connection:
        return open_house(connection, access)


def asked_window(request: Request, now_ms: int, replayed: Replayed | None) -> Window:
    """The window that the address asks for; now is where the replay ends."""
    query = request.query_params
    hours = whole_of(query.get("hours", ""))
    return window_of(
        now_ms=min(now_ms, replayed.end_ms) if replayed else now_ms,
        hours=hours,
        end_ms=whole_of(query.get("end", "")),
        at_ms=whole_of(query.get("at", "")),
        first_ms=replayed.start_ms if replayed else None,
    )


def running_replay(
    state: AppState, connection: Connection, opened: OpenHouse
) -> tuple[Replayed | None, str, Plan]:
    """What the newest revision does on the record; the draft where nothing is published."""
    house, now_ms = opened.access.house.id, opened.access.now_ms
    chosen = opened.revision or opened.draft
    replayed = state.replays.replay(connection, house, chosen.plan, now_ms=now_ms)
    mode = f"Replay · revision {opened.revision.number}" if opened.revision else "Replay · draft"
    return replayed, mode, chosen.plan


_timelines: BoundedCache[tuple[Timeline, Plan]] = BoundedCache(MOST_TIMELINE_BYTES)


def timeline_of(
    plan: Plan, replayed: Replayed | None, window: Window, mode: str, *, unsaved: bool = False
) -> Timeline:
    """The timeline of a bench; the same one while plan, replays, window and mode are the same."""
    if replayed is None:
        return make_timeline(plan, None, window, mode)
    key = (id(plan), *replayed.loads.values(), replayed.asked_ms, window, mode, unsaved)
    timeline = _timelines.get(key)
    if timeline is None:
        timeline = (
            make_timeline(plan, replayed, window, mode, unsaved=unsaved),
            plan,
        )  # whose id the key names
        _timelines.put(key, timeline, BYTES_A_LETTER * len(timeline[0].json))
    return timeline[0]


def draft_timeline(plan: Plan, replayed: Replayed | None, window: Window) -> Timeline:
    """The timeline of a bench that tries what nobody has saved yet; it brings its own words."""
    return timeline_of(plan, replayed, window, "Replay · draft", unsaved=True)


def timeline_now(request: Request, state: AppState, opened: OpenHouse) -> Timeline:
    """The timeline of a bench that stays at the running revision."""
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, opened)
    window = asked_window(request, opened.access.now_ms, replayed)
    return timeline_of(plan, replayed, window, mode)


def render(request: Request, template: str, *, status: int = 200, **values: Any) -> Response:
    """A page or a part of one."""
    return templates.TemplateResponse(request, template, values, status_code=status)


def render_bench(
    request: Request,
    template: str,
    opened: OpenHouse,
    *,
    current: str,
    timeline: Timeline,
    status: int = 200,
    **values: Any,
) -> Response:
    """A bench with roof and timeline around it."""
    return render(
        request,
        template,
        status=status,
        opened=opened,
        current=current,
        timeline=timeline,
        zone=opened.plan.house.time_zone,
        house_name=opened.plan.house.name,
        form_token=opened.access.visitor.form_token,
        may_build=opened.access.may_build,
        **values,
    )
