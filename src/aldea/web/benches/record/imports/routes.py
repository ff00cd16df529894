"""Importing a log: taken in, looked at, counted, stored; every step refused at its field."""

from dataclasses import replace
from typing import Any, get_args

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from aldea.core.base.errors import InputError, LogFileError, NotFoundError
from aldea.core.base.numbers import whole_of
from aldea.formats.log_options import (
    DELIMITERS,
    HEAD_BYTES,
    LOCAL_FORMATS,
    MOST_BYTES,
    LogOptions,
    TimeKind,
    head_rows,
    shared,
    usual_columns,
)
from aldea.formats.log_units import options_for
from aldea.jobs.queue import CHECK_LOG, STORE_LOG, TAKE_BACK_LOG, defer, forget
from aldea.jobs.uploads import throw_away, upload_path, written
from aldea.store.houses import add_log_entry
from aldea.store.imports import (
    MAY_CHOOSE,
    ImportRun,
    begin_import,
    change_import,
    find_import,
    move_import,
    siblings_of,
    want_stop,
)
from aldea.store.imports import State as RunState
from aldea.store.reading_changes import change_of_import
from aldea.store.run_locks import lock_run
from aldea.web.benches.record.imports.columns import (
    begin_columns,
    chosen_columns,
    heads_of,
    with_new_probes,
)
from aldea.web.benches.record.imports.view import (
    BUSY,
    DECIMAL_OPTIONS,
    DELIMITER_OPTIONS,
    JOIN_OPTIONS,
    TIME_OPTIONS,
    import_view,
)
from aldea.web.benches.record.routes import record_page
from aldea.web.shell.access import BuilderAccess, MemberAccess, RowId, Sent, State
from aldea.web.shell.forms import Fields
from aldea.web.shell.page import OpenHouse, open_house, render, render_bench, timeline_now
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
        if probe is None:
            errors["probe"] = "Choose a probe of this house."
        if not isinstance(sent, UploadFile) or not sent.filename:
            errors["log"] = "Choose a file first: a CSV log."
        if errors or probe is None or not isinstance(sent, UploadFile):
            return record_page(request, state, opened, errors=errors, status=422)
        head = sent.file.read(HEAD_BYTES)
        if not head.strip():
            errors["log"] = "This file is empty. A log has a time and a value on each line."
            return record_page(request, state, opened, errors=errors, status=422)
        with state.database.begin() as connection:
            run_id = begin_import(
                connection,
                access.house.id,
                by=access.account,
                probe=probe_id,
                file_name=(sent.filename or "log.csv")[-120:],
                size_bytes=sent.size or 0,
                options=options_for(head, opened.plan.house.time_zone, probe),
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
    with state.database.begin() as connection:
        siblings = siblings_of(connection, run)
    values: dict[str, Any] = {
        "view": import_view(run, _preview(state, run), opened.plan, siblings),
        "here": f"{opened.base}/record/readings/{run.id}",
    }
    if request.query_params.get("part") == "progress":
        answer = render(
            request,
            "record/imports/progress.html",
            opened=opened,
            may_build=opened.access.may_build,
            form_token=opened.access.visitor.form_token,
            errors={},
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
        timeline=timeline_now(request, state, opened),
        status=status,
        joins=JOIN_OPTIONS,
        delimiters=DELIMITER_OPTIONS,
        decimals=DECIMAL_OPTIONS,
        times=TIME_OPTIONS,
        errors=errors or {},
        typed=typed or {},
        **values,
    )


def _local_format(fields: Fields) -> str:
    if fields.sent.get("time_kind") == "local" and not fields.sent.get("local_format"):
        fields.say("local_format", "Choose which is the day and which the month.")
        return LOCAL_FORMATS[0]
    if fields.sent.get("time_kind") != "local":
        return LOCAL_FORMATS[0]
    return fields.choice("local_format", LOCAL_FORMATS)


def _options(fields: Fields, columns: int) -> LogOptions:
    date = whole_of(fields.sent.get("date_column", ""))
    base = LogOptions(
        delimiter={"tab": "\t"}.get(fields.sent.get("delimiter", ""), fields.text("delimiter")),
        decimal=fields.choice("decimal", (".", ",")),
        header_rows=fields.whole("header_rows", low=0, high=30),
        time_column=fields.whole("time_column", low=0, high=MOST_COLUMNS),
        value_column=fields.whole("value_column", low=0, high=MOST_COLUMNS),
        time_kind=fields.choice("time_kind", get_args(TimeKind)),  # type: ignore[arg-type]
        local_format=_local_format(fields),
        zone=fields.text("zone"),
        date_column=date,
        unit=fields.text("unit"),
        missing=fields.text("missing"),
        replaces=fields.sent.get("replaces") == "yes",
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
            "date column": "date_column",
            "missing": "missing",
        }.get(exc.where, "time_kind")
        fields.refuse_error(name, exc)
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
    page = f"/h/{access.house.slug}/record/readings/{run_id}"
    only_shown = typed.get("only") == "preview"
    try:
        columns_of = {} if only_shown else _columns(state, opened, run, options, typed)
    except InputError as exc:
        errors = {"columns": exc.sentence}
        return _import_page(request, state, opened, run, errors=errors, typed=typed, status=422)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        change_import(connection, run_id, options)
        if only_shown:
            return RedirectResponse(page, status_code=303)
        if columns_of:
            begin_columns(
                connection, state, access, opened.plan, replace(run, options=options), columns_of,
                _preview(state, run),
            )  # fmt: skip
        for other in siblings_of(connection, run):
            if other.id != run_id and other.state in MAY_CHOOSE:
                change_import(connection, other.id, shared(other.options, options))
            if other.id == run_id or other.state in MAY_CHOOSE:
                _begin_to_check(connection, other.id)
    return RedirectResponse(page, status_code=303)


def _columns(
    state: AppState, opened: OpenHouse, run: ImportRun, options: LogOptions, typed: dict[str, str]
) -> dict[int, str]:
    """The further columns that are chosen, each with its probe; new ones are in the draft then."""
    wanted = chosen_columns(opened.plan, run, typed)
    if wanted and not upload_path(state.uploads, run.id).exists():
        raise InputError("columns", text="The file is no longer stored here. Import it again.")
    heads = heads_of(_preview(state, run), options)
    return with_new_probes(state, opened.access, run, wanted, heads, opened.draft.version)


def _begin_to_check(connection: Connection, run_id: int) -> None:
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


@router.post("/record/readings/{run_id}/store")
def store(state: State, access: BuilderAccess, run_id: RowId) -> Response:
    """Store every column of the file that was checked."""
    with state.database.begin() as connection:
        run = find_import(connection, run_id, access.house.id)
        for each in siblings_of(connection, run):
            if each.id == run_id or each.state == "checked":
                _begin(connection, each.id, "checked", "storing", STORE_LOG)
    return RedirectResponse(f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303)


@router.post("/record/readings/{run_id}/withdraw")
def withdraw(request: Request, state: State, access: BuilderAccess, run_id: RowId) -> Response:
    """Take a stored import back: what it added goes, what it replaced comes again."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        run = find_import(connection, run_id, access.house.id)
        refusal = _cannot_undo(connection, run_id)
        if not refusal:
            _begin(connection, run_id, "stored", "withdrawing", TAKE_BACK_LOG)
            what = f"Undo requested: the import of {run.file_name}."
            add_log_entry(
                connection, access.house.id, account=access.account, at_ms=access.now_ms, what=what
            )
    if refusal:  # the page opens connections of its own: never inside the transaction
        return _import_page(request, state, opened, run, errors={"withdraw": refusal}, status=422)
    return RedirectResponse(f"{opened.base}/record/readings/{run_id}", status_code=303)


def _cannot_undo(connection: Connection, run_id: int) -> str:
    """Why an import cannot be undone; empty where it can."""
    try:
        change_of_import(connection, run_id)
    except NotFoundError as exc:
        return exc.sentence
    return ""


def _begin(connection: Connection, run_id: int, was: RunState, to: RunState, task: str) -> None:
    move_import(
        connection,
        run_id,
        allowed_from=(was,),
        to=to,
        done_share=0.0,
        refusal=None,
        wanted_stop=False,
    )
    defer(connection, task, run_id)


@router.post("/record/readings/{run_id}/stop")
def stop(state: State, access: BuilderAccess, run_id: RowId) -> Response:
    """Stop a running step, or throw the upload away where none runs."""
    with state.database.begin() as connection:
        run = find_import(connection, run_id, access.house.id)
        if run.state in BUSY:
            if lock_run(connection, "import", run_id):  # it waits for its turn: nobody is at it
                forget(connection, "import", run_id)
                back: RunState = "stored" if run.state == "withdrawing" else "stopped"
                move_import(connection, run_id, allowed_from=BUSY, to=back)
            else:
                want_stop(connection, run_id)
            return RedirectResponse(
                f"/h/{access.house.slug}/record/readings/{run_id}", status_code=303
            )
        if run.state in ("stored", "withdrawn"):
            raise NotFoundError("import", got="a stored one", allowed="one that is under way")
        move_import(connection, run_id, allowed_from=MAY_CHOOSE, to="stopped")
    throw_away(state.uploads, run_id)
    return RedirectResponse(f"/h/{access.house.slug}/record", status_code=303)
