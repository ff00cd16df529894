"""The House bench."""

from typing import Any

from fastapi import APIRouter, Request, Response
from sqlalchemy import Connection

from aldea.core.base.errors import NotFoundError
from aldea.core.words.ahead import ahead_sentence
from aldea.store.calibrations import certificates
from aldea.web.benches.house.owed import Owed, owed_things
from aldea.web.benches.house.view import make_house_view
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    open_house,
    render,
    render_bench,
    running_replay,
    timeline_of,
)
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def owed_of(connection: Connection, opened: OpenHouse) -> list[Owed]:
    """What is owed in a house."""
    return owed_things(
        base=opened.base,
        plan=opened.plan,
        running=opened.revision.plan if opened.revision else None,
        running_number=opened.revision.number if opened.revision else None,
        certificates=certificates(connection, opened.access.house.id),
        now_ms=opened.access.now_ms,
    )


def house_values(request: Request, state: AppState, opened: OpenHouse) -> dict[str, Any]:
    """What the bench shows at the scrubber of the address."""
    access = opened.access
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, opened)
        window = asked_window(request, access.now_ms, replayed)
        working = [probe.id for probe in plan.probes if probe.stage == "working"]
        traces = state.replays.latest(
            connection, access.house.id, working, window.start_ms, window.at_ms
        )
        view = make_house_view(
            plan=plan,
            replayed=replayed,
            traces=traces,
            window=window,
            owed=owed_of(connection, opened),
            picture=state.replays.pictures(connection, access.house.id),
        )
    return {
        "view": view,
        "timeline": timeline_of(plan, replayed, window, mode),
        "replayed": replayed,
    }


@router.get("")
def house(request: Request, state: State, access: MemberAccess) -> Response:
    """The house in section at the scrubber's instant."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    values = house_values(request, state, opened)
    if request.query_params.get("part") == "bench":
        return render(request, "house/rooms.html", opened=opened, **values)
    timeline = values.pop("timeline")
    return render_bench(
        request, "house/house.html", opened, current="house", timeline=timeline, **values
    )


@router.get("/ahead")
def ahead(request: Request, state: State, access: MemberAccess) -> Response:
    """What changes one load next, where the record has no end of it: asked for after the page."""
    load_id = request.query_params.get("load", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        replayed, _, plan = running_replay(state, connection, opened)
        load = plan.load(load_id)
        if load is None:
            raise NotFoundError("load", got=repr(load_id)[:80], allowed="a load of this house")
        window = asked_window(request, access.now_ms, replayed)
        now = None
        if replayed is not None:
            now = state.replays.standing(
                connection, access.house.id, plan, load.id, at_ms=window.at_ms, replayed=replayed
            )
    words = ""
    if now is not None:
        words = ahead_sentence(
            plan, load, now.ahead.get(load.id), now.at_ms, now.quiet_ms.get(load.id, 0)
        )
    return render(request, "house/ahead.html", text=words)
