"""Importing a log: taken in, looked at, counted, stored; every step refused at its field."""

from dataclasses import replace
from typing import Any, get_args

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from aldea.core.errors import InputError, LogFileError, NotFoundError
from aldea.formats.log_options import (
    DELIMITERS,
    HEAD_BYTES,
    LOCAL_FORMATS,
    LogOptions,
    TimeKind,
    guess_options,
    head_rows,
    usual_columns,
)
from aldea.jobs.queue import CHECK_LOG, STORE_LOG, defer
from aldea.jobs.uploads import parsed_path, upload_path
from aldea.store.imports import (
    MAY_CHOOSE,
    ImportRun,
    begin_import,
    change_import,
    find_import,
    move_import,
    want_stop,
)
from aldea.web.forms import Fields
from aldea.web.pages import (
    Bench,
    open_bench,
    render,
    render_bench,
)
from aldea.web.routes.record import rail_now, record_page
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
TIME_WORDS = {
    "iso": "ISO 8601 with Z or offset",
    "epoch_s": "seconds since 1970",
    "epoch_ms": "milliseconds since 1970",
    "local": "wall-clock time",
}
PREVIEW_ROWS = 8


@router.post("/record/readings")
async def upload(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Take a log in and show its first rows; nothing is stored yet."""
    sent = form.get("log")
    probe_id = str(form.get("probe", ""))

    def take() -> Response:
        with state.database.begin() as connection:
            bench = open_bench(connection, door)
        errors: dict[str, str] = {}
        probe = bench.plan.probe(probe_id)
        if probe is None or probe.stage != "working":
            errors["probe"] = f"Got {probe_id!r}; allowed: a working probe."
        if not isinstance(sent, UploadFile) or not sent.filename:
            errors["log"] = "Got no file; allowed: a CSV log."
        if errors or not isinstance(sent, UploadFile):
            return record_page(request, state, bench, errors=errors, status=422)
        head = sent.file.read(HEAD_BYTES)
        if not head.strip():
            errors["log"] = "Got an empty file; allowed: a CSV log with a time and a value."
            return record_page(request, state, bench, errors=errors, status=422)
        with state.database.begin() as connection:
            run_id = begin_import(
                connection,
                door.house.id,
                by=door.account,
                probe=probe_id,
                file_name=(sent.filename or "log.csv")[-120:],
                size_bytes=sent.size or 0,
                options=guess_options(head, bench.plan.house.time_zone),
                at_ms=door.now_ms,
            )
        sent.file.seek(0)
        state.uploads.mkdir(parents=True, exist_ok=True)
        with upload_path(state.uploads, run_id).open("wb") as target:
            while block := sent.file.read(1 << 20):
                target.write(block)
        return RedirectResponse(f"{bench.base}/record/readings/{run_id}", status_code=303)

    return await run_in_threadpool(take)


def _preview(state: AppState, run: ImportRun) -> list[list[str]]:
    path = upload_path(state.uploads, run.id)
    if not path.exists():
        return []
    with path.open("rb") as source:
        rows = head_rows(source.read(HEAD_BYTES), run.options.delimiter, 40)
    return rows[: run.options.header_rows + PREVIEW_ROWS]


def _as_written(pattern: str) -> str:
    for sign, word in (
        ("%Y", "yyyy"),
        ("%m", "mm"),
        ("%d", "dd"),
        ("%H", "hh"),
        ("%M", "mm"),
        ("%S", "ss"),
    ):
        pattern = pattern.replace(sign, word)
    return pattern


def _import_values(state: AppState, bench: Bench, run: ImportRun) -> dict[str, Any]:
    rows = _preview(state, run)
    columns = max(usual_columns(rows), 1)
    return {
        "run": run,
        "rows": rows,
        "columns": columns,
        "column_options": [(str(i), f"column {i + 1}") for i in range(columns)],
        "format_options": [(f, _as_written(f)) for f in LOCAL_FORMATS],
        "probe": bench.plan.probe(run.probe),
        "time_words": TIME_WORDS,
        "zone": bench.plan.house.time_zone,
        "may_build": bench.door.may_build,
    }


@router.get("/record/readings/{run_id}")
def import_page(request: Request, state: State, door: AnyDoor, run_id: int) -> Response:
    """One import: how it is read, what was counted, how far it is."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        run = find_import(connection, run_id, door.house.id)
    return _import_page(request, state, bench, run)


def _import_page(
    request: Request,
    state: AppState,
    bench: Bench,
    run: ImportRun,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    values = {**_import_values(state, bench, run), "errors": errors or {}, "typed": typed or {}}
    if request.query_params.get("part") == "progress":
        answer = render(
            request,
            "_import_state.html",
            bench=bench,
            form_token=bench.door.visitor.form_token,
            **values,
        )
        if run.state not in ("checking", "storing"):
            answer.headers["HX-Refresh"] = "true"  # the whole page has more to offer now
        return answer
    values.pop("zone")
    values.pop("may_build")
    return render_bench(
        request,
        "import.html",
        bench,
        current="record",
        rail=rail_now(request, state, bench),
        status=status,
        **values,
    )


def _options(fields: Fields, columns: int) -> LogOptions:
    base = LogOptions(
        delimiter={"tab": "\t"}.get(fields.sent.get("delimiter", ""), fields.text("delimiter")),
        decimal=fields.choice("decimal", (".", ",")),
        header_rows=int(fields.number("header_rows", low=0, high=30) or 0)
        if fields.sent.get("header_rows", "").strip().isdigit()
        else 0,
        time_column=int(fields.sent.get("time_column", "0") or 0),
        value_column=int(fields.sent.get("value_column", "1") or 0),
        time_kind=fields.choice("time_kind", get_args(TimeKind)),  # type: ignore[arg-type]
        local_format=fields.choice("local_format", LOCAL_FORMATS),
        zone=fields.text("zone"),
    )
    if not fields.sent.get("header_rows", "").strip().isdigit():
        fields.refuse("header_rows", repr(fields.sent.get("header_rows", "")), "0 to 30")
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
async def check(
    request: Request, state: State, door: BuilderDoor, run_id: int, form: Sent
) -> Response:
    """Read the whole log by the chosen options and count; a change of options counts anew."""
    typed = {k: str(v) for k, v in form.items()}

    def choose() -> Response | None:
        fields = Fields(typed)
        with state.database.begin() as connection:
            bench = open_bench(connection, door)
            run = find_import(connection, run_id, door.house.id)
        delimiter = {"tab": "\t"}.get(typed.get("delimiter", ""), typed.get("delimiter", ","))
        shown = replace(run, options=replace(run.options, delimiter=delimiter or ","))
        if delimiter not in DELIMITERS:
            shown = run
        columns = max(usual_columns(_preview(state, shown)), 1)
        try:
            options = _options(fields, columns)
        except (InputError, ValueError):
            errors = fields.errors or {"time_column": "Got no number; allowed: a column."}
            return _import_page(request, state, bench, run, errors=errors, typed=typed, status=422)
        with state.database.begin() as connection:
            change_import(connection, run_id, options)
            if typed.get("only") == "preview":
                return RedirectResponse(
                    f"/h/{door.house.slug}/record/readings/{run_id}", status_code=303
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
        return None

    answer = await run_in_threadpool(choose)
    if answer is not None:
        return answer
    await defer(state.queue, CHECK_LOG, run_id)
    return RedirectResponse(f"/h/{door.house.slug}/record/readings/{run_id}", status_code=303)


@router.post("/record/readings/{run_id}/store")
async def store(state: State, door: BuilderDoor, run_id: int) -> Response:
    """Store what was checked."""

    def begin() -> None:
        with state.database.begin() as connection:
            find_import(connection, run_id, door.house.id)
            move_import(
                connection,
                run_id,
                allowed_from=("checked",),
                to="storing",
                done_share=0.0,
                refusal=None,
                wanted_stop=False,
            )

    await run_in_threadpool(begin)
    await defer(state.queue, STORE_LOG, run_id)
    return RedirectResponse(f"/h/{door.house.slug}/record/readings/{run_id}", status_code=303)


@router.post("/record/readings/{run_id}/stop")
def stop(state: State, door: BuilderDoor, run_id: int) -> Response:
    """Stop a running step, or throw the upload away where none runs."""
    with state.database.begin() as connection:
        run = find_import(connection, run_id, door.house.id)
        if run.state in ("checking", "storing"):
            want_stop(connection, run_id)
            return RedirectResponse(
                f"/h/{door.house.slug}/record/readings/{run_id}", status_code=303
            )
        if run.state == "stored":
            raise NotFoundError("import", got="a stored one", allowed="one that is under way")
        move_import(connection, run_id, allowed_from=MAY_CHOOSE, to="stopped")
    upload_path(state.uploads, run_id).unlink(missing_ok=True)
    parsed_path(state.uploads, run_id).unlink(missing_ok=True)
    return RedirectResponse(f"/h/{door.house.slug}/record", status_code=303)
