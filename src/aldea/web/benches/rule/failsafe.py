"""Failsafe of one load: what it falls back to, what it comes back as, its limits and its hands."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import ValidationError

from aldea.core.base.errors import AldeaError, InputError, NotFoundError
from aldea.core.base.figures import figure, years
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.base.unfit import unfit
from aldea.core.devices.loads.classes import LOAD_CLASSES
from aldea.core.physics.memory_life import (
    ASSUMED_ENDURANCE,
    SLOTS,
    WANTED_YEARS,
    memory_years,
)
from aldea.core.plan.document import Load, Plan, PowerReturn, Silent, Wanted
from aldea.core.plan.edits import put_part
from aldea.core.plan.house_rules import HandRule
from aldea.core.rehearse.trial import changes_in, trial_at
from aldea.core.words.claims import load_sentences, over_a_hand
from aldea.core.words.hands import ways_of
from aldea.core.words.trials import trial_sentence
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.claim_form import want_key, wants_of
from aldea.web.benches.rule.trials import failing_of, trial_rows
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.form_fields import Field, Group, Options, choice, number, text
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    draft_rail,
    open_house,
    render,
    render_bench,
)
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
SILENT: Options = (("off", "off"), ("on", "on"), ("keep", "nothing of its own"))
EACH: Options = (
    ("rule", "only the rules on it; the load when none is left"),
    ("load", "the whole load"),
)
POLICIES: Options = (
    ("off", "waits for a new ask"),
    ("decide", "decides again"),
    ("last", "is as before"),
)
SCHOOLS: Options = (
    ("time", "after a time"),
    ("agreement", "when the rules want the same"),
    ("given_back", "when it is given back"),
    ("position", "when its dial leaves the position"),
)
FIELD_WORDS = {
    "load": "its state",
    "hand": "what a hand asked for, and until when",
    "lock_out": "that it is locked out, and by which claims",
    "trip": "that it is tripped",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MemoryView:
    """What of the load outlives the power, how often it is written, how long that lasts."""

    fields: tuple[str, ...]
    writes: str
    years: str
    short: bool


def idle_of(load: Load) -> Options:
    """What a load may be when nobody asks: its states, and for a drive to stay where it is."""
    options = tuple((key, words) for key, words in wants_of(load) if key != "pulse")
    stays = (("off", "where it is"),) if load.kind == "pulse_drive" else ()
    known = dict((*stays, *options))
    now = want_key(load.idle)
    if load.kind == "valve" and now in ("on", "off"):
        return (*((now, {"on": "open", "off": "shut"}[now]),), *options)
    return tuple(known.items()) if now in known else ((now, now), *known.items())


def groups_of_load(load: Load) -> tuple[Group, ...]:
    """The form: faults, return, limits, hands."""
    return (
        Group(
            title="Default state",
            fields=(choice("idle", "It is", want_key(load.idle), idle_of(load)),),
        ),
        Group(
            title="When a probe is lost",
            fields=(
                choice("silent_state", "It is then", load.silent.state, SILENT),
                number(load.silent, "after_s", "after", "s"),
                choice("silent_each", "One lost probe stops", load.silent.each, EACH),
            ),
        ),
        Group(
            title="When the power comes back",
            fields=(
                choice("policy", "It", load.power_return.policy, POLICIES),
                number(load.power_return, "delay_s", "no sooner than", "s"),
                number(load, "stagger_place", "Its turn at the start", "", note="empty: its place"),
                text("reason", "because", load.power_return.reason, "where it is unusual"),
            ),
        ),
        Group(
            title="Limits",
            fields=(
                number(load, "min_on_s", "Shortest run", "s"),
                number(load, "min_off_s", "Shortest idle", "s"),
                number(load, "max_on_s", "Longest run", "s", note="empty: none"),
                number(load, "max_on_rest_s", "then idle for", "s"),
                number(load, "starts_per_hour", "Starts an hour", "", note="empty: any"),
            ),
        ),
        Group(
            title="By hand",
            fields=(
                choice("school", "A hand ends", load.hand.school, SCHOOLS),
                number(load.hand, "for_s", "after", "s", note="where a time ends it"),
            ),
        ),
    )


def _memory(state: AppState, opened: OpenHouse, load: Load) -> MemoryView | None:
    """What is retained of the load, and the board's writes; None where nothing was rehearsed.

    Each part counts its own writes; those of one instant are one. Quiet times run over the whole
    board, so that it writes at most so often.
    """
    house, now_ms = opened.access.house.id, opened.access.now_ms
    with state.database.begin() as connection:
        replayed = state.replays.replay(connection, house, opened.plan, now_ms=now_ms)
        found = replayed.of(load.id) if replayed else None
    if replayed is None or found is None:
        return None
    run = found.run
    days = max((run.end_ms - run.start_ms) / MS_PER_DAY, 1e-6)
    times = [kept.rehearsal.run.writes[:, 0] for kept in replayed.loads.values()]
    writes = len(np.unique(np.concatenate(times))) / days
    life = memory_years(SLOTS, ASSUMED_ENDURANCE, writes)
    kinds = (name.partition(":") for name in run.compiled.field_names)
    fields = tuple(FIELD_WORDS.get(kind, kind) for kind, _, key in kinds if key == load.id)
    return MemoryView(
        fields=fields,
        writes=figure(writes),
        years=years(life),
        short=life < WANTED_YEARS,
    )


def failsafe_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    load_id: str,
    *,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """What one load falls back to."""
    plan = opened.plan
    load = plan.load(load_id)
    if load is None:
        raise NotFoundError("load", got=repr(load_id)[:80], allowed="a load of this house")
    with state.database.begin() as connection:
        house, now_ms = opened.access.house.id, opened.access.now_ms
        replayed = state.replays.replay(connection, house, plan, now_ms=now_ms)
    window = asked_window(request, opened.access.now_ms, replayed)
    groups = groups_of_load(load)
    fields = [field for group in groups for field in group.fields]
    told_ways = frozenset(ways_of(plan, load))
    return render_bench(
        request,
        "rule/failsafe.html",
        opened,
        current="rule",
        rail=draft_rail(plan, replayed, window),
        status=status,
        load=load,
        loads=plan.loads,
        groups=groups,
        trials=trial_rows(plan, load),
        memory=_memory(state, opened, load),
        endurance=ASSUMED_ENDURANCE,
        facts=LOAD_CLASSES[load.load_class],
        # Who may ask by hand stands beside it in a list of its own.
        sentences=[row for row in load_sentences(plan, load) if row[1] not in told_ways],
        ways=ways_of(plan, load),
        over=over_a_hand(plan, load),
        typed={**{field.name: field.value for field in fields}, **(typed or {})},
        errors=errors or {},
        refusal=refusal,
        here=f"{opened.base}/rule",
        at_ms=window.at_ms,
        undo_back=f"{opened.base}/rule/failsafe?load={load.id}",
        version=opened.draft.version,
    )


@router.get("/rule/failsafe")
def failsafe(request: Request, state: State, access: MemberAccess) -> Response:
    """The page of one load."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    load_id = request.query_params.get("load", "")
    if not load_id and opened.plan.loads:
        load_id = opened.plan.loads[0].id
    if not opened.plan.loads:
        return RedirectResponse(f"{opened.base}/rule", status_code=303)
    return failsafe_page(request, state, opened, load_id)


def _figure(fields: Fields, field: Field) -> float | None:
    if field.optional and not fields.sent.get(field.name, "").strip():
        return None
    return fields.number(field.name, low=field.low, high=field.high, unit=field.unit)


def _read(fields: Fields, load: Load) -> Load:
    """The load with what the form says; refused at the field that is wrong."""
    asked = {field.name: field for group in groups_of_load(load) for field in group.fields}
    after_s, for_s = _figure(fields, asked["after_s"]), _figure(fields, asked["for_s"])
    made: dict[str, Any] = {
        key: _figure(fields, asked[key])
        for key in (
            "min_on_s",
            "min_off_s",
            "max_on_s",
            "max_on_rest_s",
            "starts_per_hour",
            "stagger_place",
        )
    }
    delay_s = _figure(fields, asked["delay_s"])
    state = fields.choice("silent_state", dict(SILENT))
    each = fields.choice("silent_each", dict(EACH))
    idle, _, level = fields.choice("idle", dict(idle_of(load))).partition(":")
    policy = fields.choice("policy", dict(POLICIES))
    school = fields.choice("school", dict(SCHOOLS))
    reason = fields.text("reason", most=400)
    fields.check()
    for whole in ("starts_per_hour", "stagger_place"):
        if made[whole] is not None:
            made[whole] = round(made[whole])
    try:
        made["idle"] = Wanted.model_validate({"want": idle, "level": int(level) if level else None})
        made["silent"] = Silent.model_validate({"after_s": after_s, "state": state, "each": each})
        made["power_return"] = PowerReturn.model_validate(
            {"policy": policy, "delay_s": delay_s, "reason": reason}
        )
        made["hand"] = HandRule.model_validate({"school": school, "for_s": for_s})
        return Load.model_validate({**load.model_dump(), **made})
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        raise InputError(first.field, got=first.got, allowed=first.allowed) from exc


KEPT = (
    "idle",
    "min_on_s",
    "min_off_s",
    "max_on_s",
    "max_on_rest_s",
    "starts_per_hour",
    "stagger_place",
    "silent",
    "power_return",
    "hand",
)


@router.post("/rule/failsafe")
def keep(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep what the form says of one load."""
    typed = typed_of(form)
    load_id = typed.get("load", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    load = opened.plan.load(load_id)
    if load is None:
        raise NotFoundError("load", got=repr(load_id)[:80], allowed="a load of this house")
    fields = Fields(typed)
    try:
        made = _read(fields, load)

        def change(plan: Plan) -> Plan:
            there = plan.load(load_id)
            if there is None:
                raise NotFoundError("load", got="gone meanwhile", allowed="a load of this house")
            update = {key: getattr(made, key) for key in KEPT}
            return put_part(plan, "load", there.model_copy(update=update))

        edit_draft(state, access, version_of(typed), change, f"{load.name}: failsafe changed")
    except DraftMovedError as exc:
        current = replace(opened, draft=exc.current)
        return failsafe_page(
            request, state, current, load_id, typed=typed, refusal=exc.sentence, status=409
        )
    except AldeaError as exc:
        if exc.where in typed and not fields.errors:
            fields.refuse_error(exc.where, exc)
        refusal = "" if fields.errors else exc.sentence
        return failsafe_page(
            request, state, opened, load_id, typed=typed, errors=fields.errors, refusal=refusal,
            status=422,
        )  # fmt: skip
    return RedirectResponse(f"{opened.base}/rule/failsafe?load={load_id}", status_code=303)


@router.post("/rule/trial")
def rehearse_fault(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """One fault rehearsed by itself on the record, as a sentence; stores nothing."""
    typed = typed_of(form)
    load_id, fault = typed.get("load", ""), typed.get("fault", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        plan, house, now_ms = opened.plan, access.house.id, access.now_ms
        load = plan.load(load_id)
        tried = failing_of(plan, load, fault) if load else None
        if load is None or tried is None:
            raise NotFoundError("fault", got=repr(fault)[:80], allowed="one of this load’s")
        replayed = state.replays.replay(connection, house, plan, now_ms=now_ms)
        timeline = replayed.timeline(load_id) if replayed else []
        if replayed is None or not timeline:
            return render(request, "rule/trial.html", said="Nothing is recorded to rehearse on.")
        trial = trial_at(timeline, *tried, at_ms=now_ms, end_ms=replayed.end_ms)
        done = state.replays.trial(
            connection, house, plan, load_id, replayed=replayed, faults=trial.faults
        )
    rows = changes_in(done.timelines[load_id], trial) if done else []
    return render(request, "rule/trial.html", said=trial_sentence(plan, load, trial, rows))
