"""Rendering: one way from a finished value to a page, a part of one, or an error."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fastapi import Request, Response
from fastapi.templating import Jinja2Templates
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from sqlalchemy import Connection

from aldea.core.plan.document import Plan
from aldea.core.wire.conductors import ohms
from aldea.core.words.figures import figure, short, signed
from aldea.core.words.times import day_clock, span, stamp
from aldea.store.plans import Draft, Revision, newest_revision, read_draft
from aldea.web.desk import Replayed
from aldea.web.security import Door
from aldea.web.state import AppState
from aldea.web.views.rail import Rail, Window, make_rail, window_of

FOLDER = Path(__file__).parent
BENCHES = (
    ("house", "0", "House", ""),
    ("layout", "1", "Lay out", "/layout"),
    ("wire", "2", "Wire", "/wire"),
    ("calibrate", "3", "Calibrate", "/calibrate"),
    ("tune", "4", "Tune", "/tune"),
    ("record", "9", "Record", "/record"),
)


def _environment() -> Environment:
    environment = Environment(
        loader=FileSystemLoader(FOLDER / "templates"),
        autoescape=select_autoescape(("html", "svg")),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters.update(
        figure=figure,
        signed=signed,
        short=short,
        ohms=ohms,
        span=span,
        stamp=stamp,
        day_clock=day_clock,
        path_words=lambda path: path.strip("/").replace("/", " › ").replace("_", " "),
        thousands=lambda number: f"{number:,}".replace(",", " "),
    )
    environment.globals["benches"] = BENCHES
    return environment


templates = Jinja2Templates(env=_environment())


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """What every bench of a house starts from."""

    door: Door
    draft: Draft
    program: Revision | None
    base: str

    @property
    def plan(self) -> Plan:
        """The draft's plan."""
        return self.draft.plan


def open_bench(connection: Connection, door: Door) -> Bench:
    """The draft and the program of a house."""
    return Bench(
        door=door,
        draft=read_draft(connection, door.house.id),
        program=newest_revision(connection, door.house.id),
        base=f"/h/{door.house.slug}",
    )


def whole_number(text: str | None) -> int | None:
    """A number of an address, or None where it is none: an address never fails a page."""
    try:
        return int(float(text)) if text else None
    except (ValueError, OverflowError):
        return None


def asked_window(request: Request, now_ms: int, replayed: Replayed | None) -> Window:
    """The window that the address asks for."""
    query = request.query_params
    hours = whole_number(query.get("hours"))
    return window_of(
        now_ms=now_ms,
        hours=hours,
        end_ms=whole_number(query.get("end")),
        at_ms=whole_number(query.get("at")),
        first_ms=replayed.start_ms if replayed else None,
    )


def running_replay(
    state: AppState, connection: Connection, bench: Bench
) -> tuple[Replayed | None, str, Plan]:
    """What the panel's program does on the record; the draft where nothing is published."""
    state.engine.check()
    house, now_ms = bench.door.house.id, bench.door.now_ms
    if bench.program is None:
        replayed = state.desk.replay(connection, house, bench.plan, bench.draft.text, now_ms=now_ms)
        return replayed, "Replay · draft", bench.plan
    plan = bench.program.plan
    replayed = state.desk.replay(connection, house, plan, bench.program.text, now_ms=now_ms)
    return replayed, f"Replay · program {bench.program.number}", plan


def rail_of(plan: Plan, replayed: Replayed | None, window: Window, mode: str) -> Rail:
    """The rail of a bench."""
    if replayed is None:
        return make_rail(plan, None, window, mode, {})
    return make_rail(plan, replayed.rehearsal, window, mode, replayed.words)


def render(request: Request, template: str, *, status: int = 200, **values: Any) -> Response:
    """A page or a part of one."""
    return templates.TemplateResponse(request, template, values, status_code=status)


def render_bench(
    request: Request,
    template: str,
    bench: Bench,
    *,
    current: str,
    rail: Rail,
    status: int = 200,
    **values: Any,
) -> Response:
    """A bench with roof and race around it."""
    return render(
        request,
        template,
        status=status,
        bench=bench,
        current=current,
        rail=rail,
        zone=bench.plan.house.time_zone,
        house_name=bench.plan.house.name,
        form_token=bench.door.visitor.form_token,
        may_build=bench.door.may_build,
        **values,
    )
