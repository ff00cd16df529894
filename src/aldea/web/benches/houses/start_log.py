"""A house started from a log: its first rows shown, then its probe, place, load and rules made."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from aldea.core.base.errors import AldeaError
from aldea.core.base.figures import thousands
from aldea.core.base.instants import span
from aldea.core.base.numbers import whole_of
from aldea.core.base.quantities import QUANTITIES, Quantity, unit_of
from aldea.core.plan.conditions import Band
from aldea.core.plan.defaults import empty_house, new_load, new_place, new_probe
from aldea.core.plan.document import Plan, Probe, Rule
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.wiring.beginnings import StartingProblem, begun_from, starting_problem
from aldea.core.words.rules import rule_sentence
from aldea.formats.log_options import (
    HEAD_BYTES,
    MOST_BYTES,
    LogOptions,
    column_values,
    head_rows,
    number_columns,
)
from aldea.formats.log_units import conversion_of, options_for, units_of
from aldea.jobs.uploads import upload_path, written
from aldea.store.imports import begin_import
from aldea.web.benches.houses.routes import BANDED, FIRST, LOG_PROBLEMS, WAYS, houses_page
from aldea.web.benches.houses.starting import house_facts, house_started, zone_of
from aldea.web.shell.access import Sent, SignedIn, State
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import render

ROOM_FOR_A_FORM = 100_000
MOST_LOOKED_AT = 3000  # rows of the log's beginning
SILENT_AFTER = 3  # usual intervals
MOST_ROWS, MOST_COLUMNS = 4, 6  # of the preview
router = APIRouter(include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class LogStart:
    """What is entered with a log: its quantity, the place, the load, when, the rules, the zone."""

    quantity: Quantity
    place: str
    load: str
    way: str
    problem: StartingProblem | None
    zone: str


@router.post("/houses/log", max_body_size=MOST_BYTES + ROOM_FOR_A_FORM)
async def begin_log(request: Request, state: State, visitor: SignedIn, form: Sent) -> Response:
    """A house around a log: its probe, its place, a load with a first band; then the log."""
    sent = form.get("log")
    typed = typed_of(form)

    def take() -> Response:
        fields = Fields(typed)
        start = _log_asked(fields)
        if not isinstance(sent, UploadFile) or not sent.filename:
            fields.refuse("log", "no file", "a CSV log")
        head = b""
        if isinstance(sent, UploadFile) and sent.filename:
            head = sent.file.read(HEAD_BYTES)
            if not head.strip():
                fields.refuse("log", "an empty file", "a CSV log with a time and a value")
        if fields.errors or not isinstance(sent, UploadFile):
            return houses_page(
                request, state, visitor, errors=fields.errors, typed=typed, status=422
            )
        plan, probe, options = _around(start, head)
        now_ms = state.clock()
        what = f"House created from the log {(sent.filename or '')[-120:]}."
        house = house_started(state, visitor, plan, what, now_ms)
        with state.database.begin() as connection:
            run_id = begin_import(
                connection, house.id, by=visitor.account, probe=probe.id,
                file_name=(sent.filename or "log.csv")[-120:], size_bytes=sent.size or 0,
                options=options, at_ms=now_ms,
            )  # fmt: skip
        sent.file.seek(0)
        with written(upload_path(state.uploads, run_id)) as target:
            while block := sent.file.read(1 << 20):
                target.write(block)
        return RedirectResponse(f"/h/{house.slug}/record/readings/{run_id}", status_code=303)

    return await run_in_threadpool(take)


@router.post("/houses/log/preview", max_body_size=HEAD_BYTES + ROOM_FOR_A_FORM)
def preview_log(request: Request, visitor: SignedIn, form: Sent) -> Response:
    """The first rows of a chosen log, and what a start with it creates; nothing is stored."""
    typed = typed_of(form)
    sent = form.get("log")
    shown: dict[str, Any] = {"name": "", "size": "", "every": "", "refusal": ""}
    if not isinstance(sent, UploadFile) or not sent.filename:
        shown["refusal"] = "Choose a CSV file."
        return render(request, "houses/log_preview.html", **shown)
    head = sent.file.read(HEAD_BYTES)
    size = whole_of(typed.get("size", "")) or len(head)
    shown |= {"name": sent.filename[-120:], "size": f"{thousands(max(1, size // 1024))} kB"}
    start = _log_asked(Fields({**FIRST, "log_place": "Place", "log_load": "Load", **typed}))
    try:
        plan, probe, options = _around(start, head)
        rows = head_rows(head, options.delimiter, MOST_LOOKED_AT)
        numbers = len(number_columns(rows, options)) if column_values(rows, options) else 0
    except AldeaError as exc:
        shown["refusal"] = exc.at_field
        return render(request, "houses/log_preview.html", **shown)
    if not numbers:
        shown["refusal"] = (
            "No column of numbers was recognised in the first rows. Choose another file, or start "
            "and set the columns at the next step."
        )
        return render(request, "houses/log_preview.html", **shown)
    every_s = _interval_s(rows, options)
    heading = options.header_rows > 0
    names = rows[options.header_rows - 1] if heading else []
    column = options.value_column
    own = [rule for rule in plan.rules if rule.id == "band"] or list(plan.rules)
    return render(
        request,
        "houses/log_preview.html",
        **{**shown, "every": span(every_s) if every_s else ""},
        rows=[row[:MOST_COLUMNS] for row in rows[max(0, options.header_rows - 1) :][:MOST_ROWS]],
        heading=heading,
        column=column,
        column_name=names[column].strip()[:40] if column < len(names) else "",
        expanded=probe.calibration.expanded_uncertainty,
        unit=unit_of(probe.quantity),
        written_in=dict(units_of(plan, probe))[options.unit] if options.unit else "",
        day_order_known=options.day_order_known,
        sentence=rule_sentence(plan, own[0]) if own else "none",
        times=TIME_WORDS[options.time_kind].format(zone=start.zone),
        others=numbers - 1,
    )


TIME_WORDS = {
    "iso": "with their offset",
    "local": "wall clock of {zone}",
    "epoch_s": "seconds since 1970",
    "epoch_ms": "milliseconds since 1970",
    "serial": "spreadsheet day numbers, wall clock of {zone}",
}


def _log_asked(fields: Fields) -> LogStart:
    """What stands in the form of a log; with a chosen problem place and load may be left empty."""
    quantity = fields.choice("log_quantity", BANDED)
    way = fields.choice("log_way", tuple(WAYS))
    place, load = fields.text("log_place", most=80), fields.text("log_load", most=80)
    key = str(fields.sent.get("log_problem", ""))
    problem = starting_problem(key) if key else None
    if key and quantity not in LOG_PROBLEMS.get(key, ()):
        fields.say(
            "log_problem", "This problem has no probe of that quantity. Choose another one of both."
        )
    if not place and problem is None:
        fields.refuse("log_place", "nothing", "where the probe is, such as Cellar")
    if not load and problem is None:
        fields.refuse("log_load", "nothing", "the load to switch, such as Fan")
    return LogStart(
        quantity=quantity if quantity in BANDED else "relative_humidity",
        place=place if problem else place or "Place", load=load if problem else load or "Load",
        way=way, problem=problem, zone=zone_of(dict(fields.sent)),
    )  # fmt: skip


def _around(start: LogStart, head: bytes) -> tuple[Plan, Probe, LogOptions]:
    """The house around a log, the probe that the log belongs to, and how the log is read."""
    if start.problem is None:
        plan, probe = _with_own_probe(start)
    else:
        plan, probe = _with_problem(start, start.problem)
    options = options_for(head, plan.house.time_zone, probe)
    rows = head_rows(head, options.delimiter, MOST_LOOKED_AT)
    every_s = _interval_s(rows, options)
    if every_s:
        # Else it would be stale between two rows of its own log.
        often = {"reading_interval_s": every_s, "stale_after_s": max(60.0, SILENT_AFTER * every_s)}
        probe = probe.model_copy(update=often)
        plan = put_part(plan, "probe", probe)
    if start.problem is None:
        plan = plan.model_copy(update={"rules": (_first_band(start, plan, probe, rows, options),)})
    return plan, probe, options


def _with_problem(start: LogStart, problem: StartingProblem) -> tuple[Plan, Probe]:
    """The plan of a problem; its first probe of the log's quantity takes the log."""
    plan = begun_from(problem, house_facts(start.place or problem.name, start.zone))
    probe = next(one for one in plan.probes if one.quantity == start.quantity)
    if start.place:
        places = tuple(
            place.model_copy(update={"name": start.place}) if place.id == probe.place else place
            for place in plan.places
        )
        plan = plan.model_copy(update={"places": places})
    if start.load:
        load = plan.loads[0].model_copy(update={"name": start.load})
        plan = put_part(plan, "load", load)
    return plan, probe


def _with_own_probe(start: LogStart) -> tuple[Plan, Probe]:
    """A place with the log's probe and the load that it switches."""
    plan = Plan.model_validate(empty_house(house_facts(start.place, start.zone)))
    place = new_place((), id=fresh_id(start.place, set()), name=start.place, kind="room", level=0)
    plan = put_part(plan, "place", place)
    name = f"{start.place} {QUANTITIES[start.quantity].name}"[:80]
    probe = new_probe(
        probe_id=fresh_id(name, set()), name=name, place=place.id, quantity=start.quantity
    ).model_copy(update={"stage": "working"})
    plan = put_part(plan, "probe", probe)
    load = new_load(
        load_id=fresh_id(start.load, set()), name=start.load, place=place.id, kind="relay"
    )
    return put_part(plan, "load", load.model_copy(update={"stage": "working"})), probe


def _first_band(
    start: LogStart, plan: Plan, probe: Probe, rows: list[list[str]], options: LogOptions
) -> Rule:
    """A band whose thresholds come from the first rows of the log, 2 U apart or more."""
    facts = QUANTITIES[start.quantity]
    written = np.array(column_values(rows, options), dtype=float)
    values = conversion_of(plan, probe, options.unit)(written)
    if not len(values):
        values = np.array([(facts.low + facts.high) / 2])
    width = 2 * facts.uncertainty
    rising = start.way == "rising"
    off = float(np.quantile(values, 0.4 if rising else 0.6))
    on = float(np.quantile(values, 0.75 if rising else 0.25))
    off = min(max(off, facts.low + width), facts.high - width)
    on = max(on, off + width) if rising else min(on, off - width)
    on, off = round(min(max(on, facts.low), facts.high), 1), round(off, 1)
    band = Band(probe=probe.id, direction=start.way, on_threshold=on, off_threshold=off)  # type: ignore[arg-type]
    return Rule(
        id="band", load=plan.loads[0].id, priority="demand", want="on", condition=band,
        basis="estimated", note="starting thresholds, from the first rows of the log",
    )  # fmt: skip


def _interval_s(rows: list[list[str]], options: LogOptions) -> float:
    from aldea.formats.log_times import interval_s  # noqa: PLC0415  what reads logs is large

    return interval_s(rows, options)
