"""Importing a log: taken in, looked at, counted, stored; every step refused at its field."""

from dataclasses import replace
from typing import Any, get_args

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from aldea.core.base.errors import InputError, LogFileError, NotFoundError
from aldea.formats.log_options import (
    DELIMITERS,
    HEAD_BYTES,
    LOCAL_FORMATS,
    MOST_BYTES,
    LogOptions,
    TimeKind,
    guess_options,
    head_rows,
    usual_columns,
)
from aldea.jobs.queue import CHECK_LOG, STORE_LOG, defer, forget
from aldea.jobs.uploads import throw_away, upload_path, written
from aldea.store.imports import (
    MAY_CHOOSE,
    ImportRun,
    begin_import,
    change_import,
    claim_run,
    find_import,
    move_import,
    want_stop,
)
from aldea.web.benches.record.imports.view import (
    BUSY,
    DECIMAL_OPTIONS,
    DELIMITER_OPTIONS,
    TIME_OPTIONS,
    import_view,
)
from aldea.web.benches.record.routes import record_page
from aldea.web.shell.access import BuilderAccess, MemberAccess, RowId, Sent, State
from aldea.web.shell.forms import Fields
from aldea.web.shell.page import OpenHouse, open_house, rail_now, render, render_bench
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
PREVIEW_ROWS = 8
MOST_COLUMNS = 500
ROOM_FOR_A_FORM = 100_000


@router.post("/record/readings", max_body_size=MOST_BYTES + ROOM_FOR_A_FORM)
async def upload(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a log in and show its first rows; nothing is stored yet."""
    sent = form.get("log")
    probe_id = str(form.get("probe", ""))

    def take() -> Response:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        errors: dict[str, str] = {}
        probe = opened.plan.probe(probe_id)
        if probe is None or probe.stage != "working":
            errors["probe"] = f"Got {probe_id!r}; allowed: a working probe."
        if not isinstance(sent, UploadFile) or not sent.filename:
            errors["log"] = "Got no file; allowed: a CSV log."
        if errors or not isinstance(sent, UploadFile):
            return record_page(request, state, opened, errors=errors, status=422)
        head = sent.file.read(HEAD_BYTES)
        if not head.strip():
            errors["log"] = "Got an empty file; allowed: a CSV log with a time and a value."
            return record_page(request, state, opened, errors=errors, status=422)
        with state.database.begin() as connection:
            run_id = begin_import(
                connection,
                access.house.id,
                by=access.account,
                probe=probe_id,
                file_name=(sent.filename or "log.csv")[-120:],
                size_bytes=sent.size or 0,
                options=guess_options(head, opened.plan.house.time_zone),
                at_ms=access.now_ms,
            )
        sent.file.seek(0)
        with written(upload_path(state.uploads, run_id)) as target:
            while block := sent.file.read(1 << 20):
                target.write(block)
        return RedirectResponse(f"{opened.base}/record/readings/{run_id}", status_code=303)

    return await run_in_threadpool(take)


def _preview(state: AppState, run: ImportRun) -> list[list[str]]:
    path = upload_path(state.uploads, run.id)
    if not path.exists():
        return []
    with path.open("rb") as source:
        rows = head_rows(source.read(HEAD_BYTES), run.options.delimiter, 40)
    return rows[: run.options.header_rows + PREVIEW_ROWS]


@router.get("/record/readings/{run_id}")
def import_page(request: Request, state: State, access: MemberAccess, run_id: RowId) -> Response:
    """One import: how it is read, what was counted, how far it is."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        run = find_import(connection, run_id, access.house.id)
    return _import_page(request, state, opened, run)


def _import_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    run: ImportRun,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    zone = opened.plan.house.time_zone
    values: dict[str, Any] = {
        "view": import_view(run, _preview(state, run), opened.plan.probe(run.probe), zone),
        "here": f"{opened.base}/record/readings/{run.id}",
    }
    if request.query_params.get("part") == "progress":
        answer = render(
            request,
            "record/imports/state.html",
            opened=opened,
            may_build=opened.access.may_build,
            form_token=opened.access.visitor.form_token,
            **values,
        )
        if run.state not in BUSY:
            answer.headers["HX-Refresh"] = "true"  # the whole page has more to offer now
        return answer
    return render_bench(
        request,
        "record/imports/import.html",
        opened,
        current="record",
        rail=rail_now(request, state, opened),
        status=status,
        delimiters=DELIMITER_OPTIONS,
        decimals=DECIMAL_OPTIONS,
        times=TIME_OPTIONS,
        errors=errors or {},
        typed=typed or {},
        **values,
    )


def _options(fields: Fields, columns: int) -> LogOptions:
    base = LogOptions(
        delimiter={"tab": "\t"}.get(fields.sent.get("delimiter", ""), fields.text("delimiter")),
        decimal=fields.choice("decimal", (".", ",")),
        header_rows=fields.whole("header_rows", low=0, high=30),
        time_column=fields.whole("time_column", low=0, high=MOST_COLUMNS),
        value_column=fields.whole("value_column", low=0, high=MOST_COLUMNS),
        time_kind=fields.choice("time_kind", get_args(TimeKind)),  # type: ignore[arg-type]
        local_format=fields.choice("local_format", LOCAL_FORMATS),
        zone=fields.text("zone"),
    )
    fields.check()
    try:
        return base.checked(columns)
    except LogFileError as exc:
        name = {
            "delimiter": "delimiter",
            "decimal": "decimal",
            "zone": "zone",
            "time column": "time_column",
            "value column": "value_column",
        }.get(exc.where, "time_kind")
        fields.refuse(name, exc.got, exc.allowed)
        raise


@router.post("/record/readings/{run_id}/check")
def check(
    request: Request, state: State, access: BuilderAccess, run_id: RowId, form: Sent
) -> Response:
    """Read the whole log by the chosen options and count; a change of options counts again."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        run = find_import(connection, run_id, access.house.id)
    delimiter = {"tab": "\t"}.get(typed.get("delimiter", ""), typed.get("delimiter", ","))
    shown = replace(run, options=replace(run.options, delimiter=delimiter or ","))
    if delimiter not in DELIMITERS:
        shown = run
    columns = max(usual_columns(_preview(state, shown)), 1)
    try:
        options = _options(fields, columns)
    except InputError:
        errors = fields.errors
        return _import_page(request, state, opened, run, errors=errors, typed=typed, status=422)
    with state.database.begin() as connection:
        change_import(connection, run_id, options)
        if typed.get("only") == "preview":
            return RedirectResponse(
                f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303
            )
        move_import(
            connection,
            run_id,
            allowed_from=MAY_CHOOSE,
            to="checking",
            done_share=0.0,
            report=None,
            refusal=None,
            wanted_stop=False,
        )
        defer(connection, CHECK_LOG, run_id)
    return RedirectResponse(f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303)


@router.post("/record/readings/{run_id}/store")
def store(state: State, access: BuilderAccess, run_id: RowId) -> Response:
    """Store what was checked."""
    with state.database.begin() as connection:
        find_import(connection, run_id, access.house.id)
        move_import(
            connection,
            run_id,
            allowed_from=("checked",),
            to="storing",
            done_share=0.0,
            refusal=None,
            wanted_stop=False,
        )
        defer(connection, STORE_LOG, run_id)
    return RedirectResponse(f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303)


@router.post("/record/readings/{run_id}/stop")
def stop(state: State, access: BuilderAccess, run_id: RowId) -> Response:
    """Stop a running step, or throw the upload away where none runs."""
    with state.database.begin() as connection:
        run = find_import(connection, run_id, access.house.id)
        if run.state in BUSY:
            if claim_run(connection, run_id):  # it waits for its turn: nobody is at it
                forget(connection, run_id)
                move_import(connection, run_id, allowed_from=BUSY, to="stopped")
            else:
                want_stop(connection, run_id)
            return RedirectResponse(
                f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303
            )
        if run.state == "stored":
            raise NotFoundError("import", got="a stored one", allowed="one that is under way")
        move_import(connection, run_id, allowed_from=MAY_CHOOSE, to="stopped")
    throw_away(state.uploads, run_id)
    return RedirectResponse(f"/h/{access.house.slug}/record", status_code=303)
