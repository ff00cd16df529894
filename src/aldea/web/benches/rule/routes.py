"""The Rule bench: the stack of say of one load, its rules put in and changed."""

from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from aldea.core.base.errors import AldeaError, InputError, NotFoundError, PlanError
from aldea.core.base.numbers import whole_of
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.at_work import set_to_work
from aldea.core.plan.changes import PlanChange
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.rule_edits import (
    put_rule,
    rule_of,
)
from aldea.core.plan.starting_points import starting_points
from aldea.core.rules.findings import offered_for
from aldea.core.words.rules import rule_sentence
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.answer import RuleAnswer, reading_of, rule_answer
from aldea.web.benches.rule.condition_form import offered_kinds
from aldea.web.benches.rule.earth import placed
from aldea.web.benches.rule.rule_form import (
    RuleForm,
    new_rule,
    read_rule,
    rule_form,
)
from aldea.web.benches.rule.view import make_rule_view
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import REMOVED, as_begun, begun_at, edit_draft, rows_over, version_of
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Editing:
    """The rule that stands open in the stack, and its form."""

    rule: Rule
    form: RuleForm
    begun: str


def load_asked(plan: Plan, load_id: str) -> Load | None:
    """The load of an address; without one the first; None in a house without loads."""
    if load_id:
        load = plan.load(load_id)
        if load is None:
            raise NotFoundError("load", got=repr(load_id)[:80], allowed="a load of this house")
        return load
    return next(iter(plan.loads), None)


def _editing(
    plan: Plan, load: Load, rule_id: str, begun_kind: str, typed: dict[str, str], priority: str = ""
) -> Editing | None:
    if rule_id:
        rule = rule_of(plan, rule_id)
        return Editing(rule=rule, form=rule_form(plan, load, rule, typed), begun="")
    if begun_kind:
        rule = new_rule(load, begun_kind, priority)
        form = rule_form(plan, load, rule, typed, begun_kind)
        return Editing(rule=rule, form=form, begun=begun_kind)
    return None


def rule_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    load_id: str,
    *,
    rule_id: str = "",
    begun_kind: str = "",
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    refusal: str = "",
    moved: DraftMovedError | None = None,
    moved_rows: tuple[PlanChange, ...] = (),
    status: int = 200,
) -> Response:
    """The bench with one load, and perhaps one of its rules open."""
    plan = opened.plan
    load = load_asked(plan, load_id)
    here = f"{opened.base}/rule"
    with state.database.begin() as connection:
        house, now_ms = opened.access.house.id, opened.access.now_ms
        replayed = state.replays.replay(connection, house, plan, now_ms=now_ms)
        window = asked_window(request, now_ms, replayed)
        now = None
        if replayed is not None and load is not None:
            now = state.replays.standing(
                connection, house, plan, load.id, at_ms=window.at_ms, replayed=replayed
            )
        priority = request.query_params.get("priority", "")
        editing = _editing(plan, load, rule_id, begun_kind, typed or {}, priority) if load else None
        answer = None
        if editing is not None and editing.rule.id and load is not None:
            answer = _answer(state, connection, opened, plan, load, editing.rule)
    timeline = draft_timeline(plan, replayed, window)
    if load is None:
        return render_bench(request, "rule/none.html", opened, current="rule", timeline=timeline)
    form = editing.form if editing else None
    view = make_rule_view(
        plan,
        load,
        replayed=replayed,
        now=now,
        window=window,
        findings=offered_for(plan, load.id),
    )
    values: dict[str, Any] = {
        "view": view,
        "load": load,
        "editing": editing,
        "here": here,
        "version": opened.draft.version,
        "kinds": (*offered_kinds(plan), ("probe", "a sensor fault")),
        "copyable": copyable_rules(plan),
        "points": starting_points(load),
        "answer": answer,
    }
    if request.query_params.get("part") == "bench" and editing is None:
        return render(
            request,
            "rule/stack.html",
            opened=opened,
            may_build=opened.access.may_build,
            form_token=opened.access.visitor.form_token,
            **values,
        )
    return render_bench(
        request,
        "rule/rule.html",
        opened,
        current="rule",
        timeline=timeline,
        status=status,
        loads=plan.loads,
        form=form,
        typed={**(form.values if form else {}), **(typed or {})},
        errors=errors or {},
        refusal=refusal,
        moved=moved,
        moved_rows=moved_rows,
        undo_back=f"{here}?load={load.id}",
        **values,
    )


def _answer(
    state: AppState,
    connection: Connection,
    opened: OpenHouse,
    changed: Plan,
    load: Load,
    rule: Rule,
) -> RuleAnswer:
    house, now_ms = opened.access.house.id, opened.access.now_ms
    before = state.replays.replay(connection, house, opened.plan, now_ms=now_ms)
    after = state.replays.replay(connection, house, changed, now_ms=now_ms)
    reading = reading_of(rule)
    trace = None
    if reading and changed.probe(reading) is not None:
        trace = state.replays.trace(connection, house, reading, now_ms)
    return rule_answer(
        changed,
        load,
        rule,
        before=before.of(load.id) if before else None,
        after=after.of(load.id) if after else None,
        trace=trace,
        end_ms=after.end_ms if after else now_ms,
    )


@router.get("/rule")
def rule(request: Request, state: State, access: MemberAccess) -> Response:
    """The stack of a load of the draft."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    query = request.query_params
    load_id, rule_id = query.get("load", ""), query.get("rule", "")
    known = {rule.id: rule.load for rule in opened.plan.rules}
    if rule_id and known.get(rule_id, "") != load_id:
        rule_id = ""  # taken out in between: the stack without it
    return rule_page(
        request, state, opened, load_id, rule_id=rule_id, begun_kind=query.get("add", "")[:20]
    )


LONGEST_CHOICE = 90


def copyable_rules(plan: Plan) -> list[tuple[str, str]]:
    """Every rule of the house as a choice: its load and its sentence, cut where it is long."""
    names = {load.id: load.name for load in plan.loads}
    rows = []
    for rule in plan.rules:
        words = f"{names.get(rule.load, rule.load)}: {rule_sentence(plan, rule)}"
        cut = words if len(words) <= LONGEST_CHOICE else f"{words[: LONGEST_CHOICE - 1]}…"
        rows.append((rule.id, cut))
    return rows


def runnable(plan: Plan) -> Plan:
    """A plan that fits together and can be run; the refusal otherwise."""
    check_plan(plan)
    compile_plan(plan)
    return plan


def _with(plan: Plan, load: Load, rule: Rule) -> Plan:
    return runnable(set_to_work(put_rule(plan, rule), (load.id,)))


@router.post("/rule/form")
def form_anew(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """The fields of the rule that is being typed, made anew for what was chosen."""
    typed = typed_of(form)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    load = load_asked(opened.plan, typed.get("load", ""))
    if load is None:
        raise NotFoundError("load", got="none", allowed="a load of this house")
    if typed.get("press") == "row":
        typed["rows"] = str((whole_of(typed.get("rows", "")) or 0) + 1)
    editing = _editing(opened.plan, load, typed.get("rule", ""), typed.get("begun", ""), typed)
    if editing is None:
        raise NotFoundError("rule", got="none", allowed="a rule of this load")
    shown = {name: typed.get(name, value) for name, value in editing.form.values.items()}
    return render(
        request,
        "rule/rule_fields.html",
        form=editing.form,
        typed=shown,
        errors={},
        here=f"{opened.base}/rule",
        may_build=access.may_build,
    )


@router.post("/rule/answer")
def answer(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """What the rule in the form would have done; stores nothing, so that everybody may try."""
    typed = typed_of(form)
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        load = load_asked(opened.plan, typed.get("load", ""))
        if load is None:
            raise NotFoundError("load", got="none", allowed="a load of this house")
        try:
            rule = _read(fields, opened.plan, load, typed)
            changed = _with(opened.plan, load, rule)
            view = _answer(state, connection, opened, changed, load, rule)
        except AldeaError as exc:
            refusal = "" if fields.errors else _at_its_field(fields, exc)
            refusal_words = next(iter(fields.errors.values()), refusal)
            return render(request, "rule/answer.html", answer=None, waiting=refusal_words)
    return render(request, "rule/answer.html", answer=view, waiting="")


def _at_its_field(fields: Fields, exc: AldeaError) -> str:
    """A refusal of the plan put at the field that it is about; else what to say above the form."""
    key = exc.where.rsplit("/", 1)[-1]
    for name in (f"c_{key}", key):
        if exc.where.startswith("/rules/") and name in fields.sent:
            fields.refuse_error(name, exc)
            return ""
    if exc.where.startswith("/"):  # a path of the document is no word of a person
        return exc.at_field
    return exc.sentence


def _read(fields: Fields, plan: Plan, load: Load, typed: dict[str, str]) -> Rule:
    rule_id = typed.get("rule", "")
    old = rule_of(plan, rule_id) if rule_id else new_rule(load, typed.get("begun", ""))
    return read_rule(fields, plan, load, old)


def back_to(access: HouseAccess, load_id: str, rule_id: str = "") -> Response:
    """To the stack of a load."""
    more = f"&rule={rule_id}" if rule_id else ""
    return RedirectResponse(f"/h/{access.house.slug}/rule?load={load_id}{more}", status_code=303)


def _with_removed(
    state: AppState, opened: OpenHouse, rule_id: str, typed: dict[str, str]
) -> tuple[OpenHouse, bool]:
    """The house with a rule put back that somebody removed while its form was open."""
    if not rule_id or any(rule.id == rule_id for rule in opened.plan.rules):
        return opened, False
    before = as_begun(state, opened, typed)
    old = next((c for c in before.rules if c.id == rule_id), None) if before else None
    if old is None or opened.plan.load(old.load) is None:
        return opened, False
    plan = put_rule(opened.plan, old)
    return replace(opened, draft=replace(opened.draft, plan=plan)), True


@router.post("/rule/rule")
def keep_rule(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep the form of a rule: a new one, or one that is there."""
    typed = typed_of(form)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    load = load_asked(opened.plan, typed.get("load", ""))
    if load is None:
        raise NotFoundError("load", got="none", allowed="a load of this house")
    rule_id, begun_kind = typed.get("rule", ""), typed.get("begun", "")
    fields = Fields(typed)
    opened, removed = _with_removed(state, opened, rule_id, typed)

    def again(**more: Any) -> Response:
        return rule_page(
            request, state, more.pop("opened", opened), load.id, rule_id=rule_id,
            begun_kind=begun_kind, typed=typed, **more,
        )  # fmt: skip

    if removed and begun_at(typed) is None:
        typed["begun_at"] = typed.get("version", "")
        return again(refusal=REMOVED, status=409)
    try:
        rule = _read(fields, opened.plan, load, typed)
        _with(placed(opened.plan, fields), load, rule)
    except (InputError, PlanError) as exc:
        refusal = "" if fields.errors else _at_its_field(fields, exc)
        return again(errors=fields.errors, refusal=refusal, status=422)
    try:
        verb = "changed" if rule_id else "put in"
        edit_draft(
            state, access, version_of(typed),
            lambda plan: _with(placed(plan, Fields(typed)), load, rule),
            f"{load.name}: {rule.name or rule.priority} {verb}", begun_at(typed),
        )  # fmt: skip
    except DraftMovedError as exc:
        current = replace(opened, draft=exc.current)
        rows = rows_over(state, access, exc, lambda plan: _with(plan, load, rule))
        return again(opened=current, moved=exc, moved_rows=rows, status=409)
    except AldeaError as exc:
        return again(refusal=exc.sentence, status=422)
    return back_to(access, load.id)
