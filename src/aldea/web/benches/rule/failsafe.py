"""Failsafe of one load: sensor faults, power cuts, limits, and how an override ends."""

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
from aldea.core.plan.document import Load, OnSensorFault, Plan, PowerReturn, Wanted
from aldea.core.plan.edits import put_part
from aldea.core.plan.house_rules import OverrideEnd
from aldea.core.rehearse.trial import changes_in, trial_at
from aldea.core.words.lost_probe import lost_probe_words
from aldea.core.words.override_ways import ways_of
from aldea.core.words.rules import load_sentences, over_an_override, return_words
from aldea.core.words.trials import trial_sentence
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.rule_form import want_key, wants_of
from aldea.web.benches.rule.trials import failing_of, trial_rows
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.form_fields import Field, Group, Options, choice, number, text
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    draft_timeline,
    open_house,
    render,
    render_bench,
)
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
FAULT_STATES: Options = (("off", "off"), ("on", "on"), ("keep", "keeps its state"))
EACH: Options = (
    ("rule", "only the rules on it; the load when none is left"),
    ("load", "the whole load"),
)
POLICIES: Options = (
    ("off", "stays off until requested anew"),
    ("follow_rules", "follows its rules again"),
    ("last", "returns to its last state"),
)
ENDS: Options = (
    ("time", "after a time"),
    ("agreement", "when the rules request the same state"),
    ("automatic", "when returned to automatic"),
    ("position", "when its dial leaves the position"),
)
FIELD_WORDS = {
    "load": "its state",
    "override": "the manual override, and when it ends",
    "lock_out": "that it is locked out, and by which rules",
    "trip": "that it is tripped",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MemoryView:
    """What of the load outlives the power, how often it is written, how long that lasts."""

    fields: tuple[str, ...]
    writes: str
    years: str
    short: bool


def default_states_of(load: Load) -> Options:
    """What a load may be where no rule applies: its states; a drive may stay as it is."""
    options = tuple((key, words) for key, words in wants_of(load) if key != "pulse")
    stays = (("off", "where it is"),) if load.kind == "pulse_drive" else ()
    known = dict((*stays, *options))
    now = want_key(load.default_state)
    if load.kind == "valve" and now in ("on", "off"):
        return (*((now, {"on": "open", "off": "shut"}[now]),), *options)
    return tuple(known.items()) if now in known else ((now, now), *known.items())


def groups_of_load(load: Load) -> tuple[Group, ...]:
    """The form: faults, return, limits, hands."""
    return (
        Group(
            title="Default state",
            fields=(
                choice(
                    "default_state", "State", want_key(load.default_state), default_states_of(load)
                ),
            ),
        ),
        Group(
            title="On a sensor fault",
            fields=(
                choice("fault_state", "Goes to", load.on_sensor_fault.state, FAULT_STATES),
                number(load.on_sensor_fault, "after_s", "after", "s"),
                choice(
                    "fault_each",
                    "One probe without a reading stops",
                    load.on_sensor_fault.each,
                    EACH,
                ),
            ),
        ),
        Group(
            title="After a power cut",
            fields=(
                choice("policy", "It", load.power_return.policy, POLICIES),
                number(load.power_return, "delay_s", "waits first", "s"),
                number(load, "stagger_place", "Place in the order", "", note="empty: as listed"),
                text("reason", "Reason", load.power_return.reason, "where it is unusual"),
            ),
        ),
        Group(
            title="Limits",
            fields=(
                number(load, "min_on_s", "Minimum on time", "s"),
                number(load, "min_off_s", "Minimum off time", "s"),
                number(load, "max_on_s", "Maximum on time", "s", note="empty: none"),
                number(load, "max_on_rest_s", "then off for", "s"),
                number(load, "starts_per_hour", "Starts an hour", "", note="empty: any"),
            ),
        ),
        Group(
            title="Manual override",
            fields=(
                choice("ends_by", "Ends", load.override.ends_by, ENDS),
                number(
                    load.override,
                    "for_s",
                    "after",
                    "s",
                    note="duration, duration, where a time ends it",
                ),
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
        load_replay = replayed.of(load.id) if replayed else None
    if replayed is None or load_replay is None:
        return None
    run = load_replay.run
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
        timeline=draft_timeline(plan, replayed, window),
        status=status,
        load=load,
        loads=plan.loads,
        groups=groups,
        trials=trial_rows(plan, load),
        memory=_memory(state, opened, load),
        endurance=ASSUMED_ENDURANCE,
        facts=LOAD_CLASSES[load.load_class],
        own=f"{return_words(load)} On a sensor fault: {lost_probe_words(plan, load)}.",
        # Who may override stands beside it in a list of its own.
        sentences=[row for row in load_sentences(plan, load) if row[1] not in told_ways],
        ways=ways_of(plan, load),
        over=over_an_override(plan, load),
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
    fields_by_name = {field.name: field for group in groups_of_load(load) for field in group.fields}
    after_s, for_s = (
        _figure(fields, fields_by_name["after_s"]),
        _figure(fields, fields_by_name["for_s"]),
    )
    facts: dict[str, Any] = {
        key: _figure(fields, fields_by_name[key])
        for key in (
            "min_on_s",
            "min_off_s",
            "max_on_s",
            "max_on_rest_s",
            "starts_per_hour",
            "stagger_place",
        )
    }
    delay_s = _figure(fields, fields_by_name["delay_s"])
    state = fields.choice("fault_state", dict(FAULT_STATES))
    each = fields.choice("fault_each", dict(EACH))
    state, _, level = fields.choice("default_state", dict(default_states_of(load))).partition(":")
    policy = fields.choice("policy", dict(POLICIES))
    ends_by = fields.choice("ends_by", dict(ENDS))
    reason = fields.text("reason", most=400)
    fields.check()
    for whole in ("starts_per_hour", "stagger_place"):
        if facts[whole] is not None:
            facts[whole] = round(facts[whole])
    try:
        facts["default_state"] = Wanted.model_validate(
            {"want": state, "level": int(level) if level else None}
        )
        facts["on_sensor_fault"] = OnSensorFault.model_validate(
            {"after_s": after_s, "state": state, "each": each}
        )
        facts["power_return"] = PowerReturn.model_validate(
            {"policy": policy, "delay_s": delay_s, "reason": reason}
        )
        facts["override"] = OverrideEnd.model_validate({"ends_by": ends_by, "for_s": for_s})
        return Load.model_validate({**load.model_dump(), **facts})
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        raise InputError(first.field, got=first.got, allowed=first.allowed) from exc


KEPT = (
    "default_state",
    "min_on_s",
    "min_off_s",
    "max_on_s",
    "max_on_rest_s",
    "starts_per_hour",
    "stagger_place",
    "on_sensor_fault",
    "power_return",
    "override",
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
        changed = _read(fields, load)

        def change(plan: Plan) -> Plan:
            there = plan.load(load_id)
            if there is None:
                raise NotFoundError("load", got="gone meanwhile", allowed="a load of this house")
            update = {key: getattr(changed, key) for key in KEPT}
            return put_part(plan, "load", there.model_copy(update=update))

        edit_draft(state, access, version_of(typed), change, f"{load.name}: failsafe edited")
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
        stretches = replayed.stretches(load_id) if replayed else []
        if replayed is None or not stretches:
            return render(
                request, "rule/trial.html", text="There are no recorded days to try it on."
            )
        trial = trial_at(stretches, *tried, at_ms=now_ms, end_ms=replayed.end_ms)
        done = state.replays.trial(
            connection, house, plan, load_id, replayed=replayed, faults=trial.faults
        )
    rows = changes_in(done.stretches[load_id], trial) if done else []
    return render(request, "rule/trial.html", text=trial_sentence(plan, load, trial, rows))
