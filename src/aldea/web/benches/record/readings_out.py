"""Readings out: what was recorded of a probe, as the log that it could be brought in from."""

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from aldea.core.base.errors import NotFoundError
from aldea.core.base.quantities import unit_of
from aldea.store.reading_cache import series_of
from aldea.store.readings import readings_csv
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/record/readings.csv")
def readings_out(state: State, access: MemberAccess, probe: str = "") -> StreamingResponse:
    """Every reading of a probe, raw, in UTC; what Record reads in again as it is."""
    with state.database.begin() as connection:
        plan = open_house(connection, access).plan
        series = series_of(connection, access.house.id).get(probe)
    if series is None or not series.count:
        raise NotFoundError("recording", got=repr(probe)[:80], allowed="a recorded probe")
    known = plan.probe(probe)
    unit = f" {unit_of(known.quantity)}" if known is not None else ""
    return StreamingResponse(
        readings_csv(state.database, series.id, f"time,{probe}{unit}"),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{access.house.slug}-{probe}.csv"'},
    )
