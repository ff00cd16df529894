"""What the rules of a house share: schedules, modes, doorways, signals."""

import re
from datetime import timedelta
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.datastructures import UploadFile

from aldea.core.base.errors import AldeaError, InputError, NotFoundError
from aldea.core.base.instants import local
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id
from aldea.core.plan.schedules import Schedule
from aldea.core.rules.findings import offered_for
from aldea.formats.calendar_ics import MOST_BYTES, dates_of_ics, ics_of
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.earth import earth_fields, placed
from aldea.web.benches.rule.house_parts import (
    COLLECTIONS,
    KIND_NAMES,
    deep,
    fields_of,
    part_asked,
    parts_of,
    with_part,
    without_part,
)
from aldea.web.benches.rule.part_refusals import in_its_words, still_used
from aldea.web.benches.rule.schedule_form import (
    DAY_NAMES,
    fields_typed,
    read_schedule,
    schedule_form,
    used_by,
    week_rows,
)
from aldea.web.benches.rule.schedule_overview import (
    next_edges_words,
    now_share,
    schedule_strips,
)
from aldea.web.benches.rule.schedule_year import year_band
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import OpenHouse, open_house, render, render_bench, timeline_now
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
CALENDAR_DAYS = 365


def house_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    key: str,
    *,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    refusal: str = "",
    brought: tuple[str, ...] = (),
    status: int = 200,
) -> Response:
    """What the rules share, with one part open; `brought` is what a calendar file gave."""
    plan = opened.plan
    here = f"{opened.base}/rule/house"
    kind, part = part_asked(plan, key) if key else ("", None)
    now_ms = opened.access.now_ms
    more: dict[str, Any] = {"fields": (), "schedule": None, "week": (), "year": None, "used": ()}
    values = dict(typed or {})
    if kind == "schedule":
        more["schedule"] = schedule_form(part, values)
        more["week"] = week_rows(plan, part or Schedule(id="new", name="New"), now_ms)
        if part is not None:
            more["year"] = year_band(plan, part, now_ms)
            more["used"] = used_by(plan, part.id)
    elif kind:
        more["fields"] = fields_of(plan, kind, part, values)
        values = {**{f.name: f.value for f in more["fields"]}, **values}
    return render_bench(
        request,
        "rule/house.html",
        opened,
        current="rule",
        timeline=timeline_now(request, state, opened),
        load=None,
        status=status,
        key=key,
        kind=kind,
        part=part,
        part_id=part.id if part is not None and kind != "memory" else "",
        parts=parts_of(plan),
        strips=schedule_strips(plan, now_ms) if kind != "schedule" else (),
        now_x=now_share(plan, now_ms),
        now_words=local(now_ms, plan.house.time_zone).strftime("%a %H:%M"),
        coming=next_edges_words(plan, now_ms),
        kind_names=KIND_NAMES,
        day_names=DAY_NAMES,
        deep=deep(part),
        typed=values,
        errors=errors or {},
        refusal=refusal,
        brought=brought,
        typed_week=False,
        here=here,
        undo_back=here,
        version=opened.draft.version,
        earth=earth_fields(plan),
        findings=offered_for(plan, None, opened.today),
        **more,
    )


@router.get("/rule/house")
def house(request: Request, state: State, access: MemberAccess) -> Response:
    """Schedules, modes and the rest, with the one that is asked for open."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    try:
        return house_page(request, state, opened, request.query_params.get("part", "")[:80])
    except NotFoundError:
        return house_page(request, state, opened, "")


def _with(plan: Plan, fields: Fields, kind: str, part_id: str) -> Plan:
    _, part = part_asked(plan, f"{kind}:{part_id}" if kind != "memory" else "memory")
    if kind != "schedule":
        changed = with_part(fields, plan, kind, part)
    else:
        taken = {one.id for one in plan.schedules}
        new_id = fresh_id(fields.sent.get("name", "") or "schedule", taken)
        schedule = read_schedule(fields, new_id, part)
        fields.check()
        changed = _put_schedule(placed(plan, fields), schedule)
    check_plan(changed)
    compile_plan(changed)
    return changed


def _schedule(plan: Plan, schedule_id: str) -> Schedule:
    schedule = next((one for one in plan.schedules if one.id == schedule_id), None)
    if schedule is None:
        got = repr(schedule_id)[:80]
        raise NotFoundError("schedule", got=got, allowed="a schedule of this house")
    return schedule


def _put_schedule(plan: Plan, schedule: Schedule | None) -> Plan:
    if schedule is None:
        raise InputError("schedule", got="a refused field", allowed="a schedule")
    rows = plan.schedules
    known = any(row.id == schedule.id for row in rows)
    changed = tuple(schedule if row.id == schedule.id else row for row in rows)
    return plan.model_copy(update={"schedules": changed if known else (*rows, schedule)})


@router.post("/rule/house")
def keep(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep the form of a part: a new one, or one that is there."""
    typed = typed_of(form)
    kind, part_id = typed.get("part_kind", ""), typed.get("part_id", "")
    key = "memory" if kind == "memory" else f"{kind}:{part_id}"
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    fields = Fields(typed)

    def again(refusal: str, status: int, current: OpenHouse) -> Response:
        return house_page(
            request, state, current, key, typed=typed, errors=fields.errors, refusal=refusal,
            status=status,
        )  # fmt: skip

    try:
        changed = _with(opened.plan, fields, kind, part_id)
        what = f"{typed.get('name') or KIND_NAMES.get(kind, kind)} kept"
        edit_draft(
            state,
            access,
            version_of(typed),
            lambda plan: _with(plan, Fields(typed), kind, part_id),
            what,
        )
    except DraftMovedError as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        return again(exc.sentence, 409, opened)
    except AldeaError as exc:
        if exc.where in typed and not fields.errors:
            fields.refuse_error(exc.where, exc)
        return again("" if fields.errors else in_its_words(opened.plan, exc), 422, opened)
    if not part_id and kind in COLLECTIONS:
        part_id = getattr(changed, COLLECTIONS[kind])[-1].id
        key = f"{kind}:{part_id}"
    return RedirectResponse(f"{opened.base}/rule/house?part={key}", status_code=303)


EDGE = re.compile(r"w[0-9]+_(start|end)")


@router.post("/rule/house/edge")
def move_edge(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Save one edge of a window that was dragged, or moved by arrow keys, in the overview."""
    typed = typed_of(form)
    part_id, field = typed.get("part_id", ""), typed.get("field", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)

    def change(plan: Plan) -> Plan:
        sent = fields_typed(_schedule(plan, part_id))
        if field not in sent or not EDGE.fullmatch(field):
            raise NotFoundError("edge", got=repr(field)[:40], allowed="an edge of this schedule")
        return _with(plan, Fields({**sent, field: typed.get("text", "")}), "schedule", part_id)

    try:
        name = _schedule(opened.plan, part_id).name
        edit_draft(state, access, version_of(typed), change, f"{name}: a window moved")
    except (AldeaError, DraftMovedError) as exc:
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return house_page(request, state, opened, "", refusal=exc.sentence, status=status)
    return RedirectResponse(f"{opened.base}/rule/house", status_code=303)


@router.post("/rule/house/week")
def week_anew(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """The week of a schedule as it is typed; nothing where a field is not a schedule's yet."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    schedule = read_schedule(Fields({"name": "New", **typed_of(form)}), "new", None)
    if schedule is None:
        return Response(status_code=204)
    try:
        week = week_rows(opened.plan, schedule, access.now_ms)
    except AldeaError:  # an edge that follows the sun, in a house without a place
        return Response(status_code=204)
    return render(request, "rule/week.html", week=week, typed_week=True, may_build=access.may_build)


@router.post("/rule/house/fields")
def fields_anew(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """The fields of a part that is being typed, with those of what was chosen."""
    typed = typed_of(form)
    kind, part_id = typed.get("part_kind", ""), typed.get("part_id", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    _, part = part_asked(opened.plan, f"{kind}:{part_id}")
    fields = fields_of(opened.plan, kind, part, typed)
    shown = {
        f.name: typed[f.name]
        if f.name in typed and (f.kind != "choice" or typed[f.name] in dict(f.options))
        else f.value
        for f in fields
    }
    return render(
        request,
        "rule/house_fields.html",
        fields=fields,
        typed=shown,
        errors={},
        deep=deep(part),
        here=f"{opened.base}/rule/house",
        may_build=access.may_build,
    )


@router.get("/rule/house/{schedule_id}.ics")
def calendar_out(state: State, access: MemberAccess, schedule_id: str) -> Response:
    """A schedule as a calendar file; an edge that follows the sun is refused in words."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    _, schedule = part_asked(opened.plan, f"schedule:{schedule_id}")
    zone = opened.plan.house.time_zone
    return Response(
        ics_of(schedule, zone=zone, first=local(access.now_ms, zone).date()),
        media_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{schedule_id}.ics"'},
    )


@router.post("/rule/house/calendar")
def calendar_in(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take the events of a calendar file into a schedule, as dates of its own."""
    typed = typed_of(form)
    key = f"schedule:{typed.get('part_id', '')}"
    upload = form.get("calendar")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    zone = opened.plan.house.time_zone
    today = local(access.now_ms, zone).date()
    try:
        _, schedule = part_asked(opened.plan, key)
        if schedule is None or not isinstance(upload, UploadFile) or not upload.filename:
            raise InputError("calendar", got="no file", allowed="an iCalendar file (.ics)")
        dates, left_out = dates_of_ics(
            upload.file.read(MOST_BYTES + 1),
            zone=zone,
            first=today,
            last=today + timedelta(days=CALENDAR_DAYS),
        )

        def change(plan: Plan) -> Plan:
            _, there = part_asked(plan, key)
            spans = {(d.start, d.end): d for d in (*there.dates, *dates)}
            update = {"dates": tuple(spans[span] for span in sorted(spans))}
            changed = _put_schedule(plan, there.model_copy(update=update))
            check_plan(changed)
            return changed

        summary = f"{len(dates)} dates imported, {len(left_out)} left out"
        edit_draft(state, access, version_of(typed), change, f"{schedule.name}: {summary}")
    except (AldeaError, DraftMovedError) as exc:
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return house_page(request, state, opened, key, refusal=exc.sentence, status=status)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    count = f"{len(dates)} date{'' if len(dates) == 1 else 's'}"
    brought = (f"{count} of the coming year imported.", *left_out)
    return house_page(request, state, opened, key, brought=brought)


@router.post("/rule/house/remove")
def remove(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a part out; refused where a rule stands on it."""
    typed = typed_of(form)
    kind, part_id = typed.get("part_kind", ""), typed.get("part_id", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    key = f"{kind}:{part_id}"
    try:
        _, part = part_asked(opened.plan, key)

        def change(plan: Plan) -> Plan:
            changed = without_part(plan, kind, part_id)
            check_plan(changed)
            return changed

        edit_draft(
            state,
            access,
            version_of(typed),
            change,
            f"{getattr(part, 'name', '') or part.id} removed",
        )
    except (AldeaError, DraftMovedError) as exc:
        status = 409 if isinstance(exc, DraftMovedError) else 422
        refusal = still_used(opened.plan, exc)
        return house_page(request, state, opened, key, refusal=refusal, status=status)
    return RedirectResponse(f"{opened.base}/rule/house", status_code=303)
