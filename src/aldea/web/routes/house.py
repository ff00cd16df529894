"""The House bench."""

from typing import Any

from fastapi import APIRouter, Request, Response
from sqlalchemy import Connection

from aldea.store.calibrations import certificates
from aldea.web.pages import (
    Bench,
    asked_window,
    open_bench,
    rail_of,
    render,
    render_bench,
    running_replay,
)
from aldea.web.security import AnyDoor, State
from aldea.web.state import AppState
from aldea.web.views.house import Owed, make_house_view, owed_things

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def owed_of(connection: Connection, bench: Bench) -> list[Owed]:
    """What is owed in a house."""
    return owed_things(
        base=bench.base,
        plan=bench.plan,
        running=bench.program.plan if bench.program else None,
        running_number=bench.program.number if bench.program else None,
        certificates=certificates(connection, bench.door.house.id),
        now_ms=bench.door.now_ms,
    )


def house_values(request: Request, state: AppState, bench: Bench) -> dict[str, Any]:
    """What the bench shows at the scrubber of the address."""
    door = bench.door
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, bench)
        window = asked_window(request, door.now_ms, replayed)
        traces = {
            probe.id: state.desk.trace(connection, door.house.id, probe.id, door.now_ms)
            for probe in plan.probes
            if probe.stage == "working"
        }
        owed = owed_of(connection, bench)
    view = make_house_view(plan=plan, replayed=replayed, traces=traces, window=window, owed=owed)
    return {"view": view, "rail": rail_of(plan, replayed, window, mode), "replayed": replayed}


@router.get("")
def house(request: Request, state: State, door: AnyDoor) -> Response:
    """The house in section at the scrubber's instant."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    values = house_values(request, state, bench)
    if request.query_params.get("part") == "bench":
        return render(request, "_house_bench.html", bench=bench, **values)
    rail = values.pop("rail")
    return render_bench(request, "house.html", bench, current="house", rail=rail, **values)
