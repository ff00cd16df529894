"""What people work by hand: remote codes captured, selectors turned through, names kept apart."""

from collections.abc import Callable
from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.core.base.numbers import whole_of
from aldea.core.plan.at_work import with_controls
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import remove_part
from aldea.core.wiring.names import alike_names, spoken_names
from aldea.core.wiring.receiver import presses, stand_in, stand_in_pattern
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.wire.controls.view import (
    cards_by_place,
    chosen_of,
    editor_of,
    place_of,
    rows_of,
)
from aldea.web.benches.wire.controls.wants import (
    DOES,
    ENDS,
    Typed,
    ends_of,
    filled,
    forgotten,
    grouped,
    learnt,
    only_of,
    onlys_of,
    pasted,
    pressed_for,
    target_of,
    targets_of,
    wanted,
)
from aldea.web.benches.wire.pages import keep_and_go, wire_sub_page
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import Change
from aldea.web.shell.forms import typed_of
from aldea.web.shell.page import OpenHouse, open_house_of
from aldea.web.shell.part_form.parts import MEANINGS
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
ACTIONS = {
    "step": "set to a step",
    "up": "one step up",
    "down": "one step down",
    "mode": "set the mode",
    "close": "shut",
    "automatic": "return to automatic",
    "reset": "reset a trip",
}
REMOTE_BUTTONS = 6
SELECTOR_DETENTS = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """What a stand-in sent for a control; `new` is what may be learnt, empty where it is known."""

    control: str
    words: str
    new: str


def controls_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    *,
    capture: Heard | None = None,
    refusal: str = "",
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """The controls as they are drawn, one editor beside them, groups and names."""
    plan = opened.plan
    here = f"{opened.base}/wire/controls"
    query = typed or dict(request.query_params)
    chosen = chosen_of(query)
    names = spoken_names(plan)
    alike = alike_names(names)
    return wire_sub_page(
        request,
        state,
        opened,
        "wire/controls/controls.html",
        "controls",
        status=status,
        here=here,
        verdict_words=_verdict(plan, len(alike)),
        by_place=cards_by_place(plan, here, chosen),
        editor=editor_of(plan, here, chosen),
        all_rows=[(c, row) for c in plan.controls for row in rows_of(plan, c, here, chosen)],
        remote_keys=range(1, REMOTE_BUTTONS + 1),
        detents=range(SELECTOR_DETENTS),
        does_none=[("", "nothing")],
        does_words=[(word, ACTIONS.get(word, word)) for word in DOES],
        meanings=MEANINGS,
        targets=targets_of(plan),
        onlys=onlys_of(plan),
        target_of=target_of,
        only_of=only_of,
        ends_position=ENDS,
        ends_plain=[(value, words) for value, words in ENDS if value != "position"],
        ends_of=ends_of,
        typed=typed or {},
        alike=alike,
        names=names,
        heard=capture,
        refusal=refusal,
    )


def _verdict(plan: Plan, alike: int) -> Verdict:
    codes = sum(len(c.codes) for c in plan.controls if c.kind == "remote")
    positions = sum(len(c.positions) for c in plan.controls if c.kind == "selector")
    return Verdict(
        state="owed" if alike else "holds",
        sentence=f"{codes} codes, {positions} positions; {alike or 'no'} "
        f"name{'' if alike == 1 else 's'} that could be confused.",
        rest="Codes are captured here with a simulated receiver.",
    )


@router.get("/controls")
def controls(request: Request, state: State, access: MemberAccess) -> Response:
    """What people work by hand, and what a stand-in sent."""
    opened = open_house_of(state, access)
    query = request.query_params
    control = opened.plan.control(query.get("control", ""))
    pressed = whole_of(query.get("press", ""))
    presses = _presses_of(control, pressed) if control and pressed is not None else None
    return controls_page(request, state, opened, capture=presses)


def _presses_of(control: Control, number: int) -> Heard | None:
    """What the stand-in sends for a button or a detent, in words."""
    if control.kind == "remote":
        row = presses(stand_in(number, control.id), control.lockout_ms)
        code = row[0].code
        known = next((c.name for c in control.codes if c.code == code), "")
        count = f"{len(row)} press{'' if len(row) == 1 else 'es'}"
        words = f"Heard {code} {row[0].times} times: {count}."
        again = f" It is “{known}” already." if known else ""
        return Heard(control=control.id, words=words + again, new="" if known else code)
    if control.kind == "selector":
        pattern = stand_in_pattern(number, control.contacts)
        known = next((p.name for p in control.positions if p.pattern == pattern), "")
        again = f" That is position “{known}”." if known else ""
        words = f"Detent {number} shows {pattern}.{again}"
        return Heard(control=control.id, words=words, new="" if known else pattern)
    return None


CHANGES: dict[str, tuple[Callable[[Plan, Typed], Plan], str]] = {
    "learn": (learnt, "learnt"),
    "paste": (pasted, "codes pasted"),
    "fill": (filled, "positions filled"),
    "press": (pressed_for, "a press is set"),
    "want": (wanted, "requests something else"),
    "forget": (forgotten, "taken away"),
    "group": (grouped, "grouped"),
}


@router.post("/controls/ungroup")
def ungroup(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a group away; what wanted it wants nothing."""
    typed = typed_of(form)

    def change(plan: Plan) -> Plan:
        return remove_part(plan, "group", typed.get("group", ""))

    return _controls_change(request, state, access, typed, change, "a group removed")


@router.post("/controls/{action}")
def change_controls(
    request: Request, state: State, access: BuilderAccess, action: str, form: Sent
) -> Response:
    """Learn, paste or fill codes and positions; say what each wants; group loads."""
    typed = typed_of(form)
    if action not in CHANGES:
        raise NotFoundError("action", got=repr(action)[:60], allowed="one of " + ", ".join(CHANGES))
    make, what = CHANGES[action]
    name = typed.get("name", "").strip() or typed.get("key", "") or typed.get("control", "")
    return _controls_change(
        request, state, access, typed, lambda plan: with_controls(plan, make(plan, typed)),
        f"{name}: {what}"[:120],
    )  # fmt: skip


def _controls_change(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Change,
    what: str,
) -> Response:
    try:
        return keep_and_go(state, access, typed, change, what, place_of(typed))
    except (InputError, NotFoundError, ConflictError) as exc:
        return controls_page(
            request,
            state,
            open_house_of(state, access),
            refusal=exc.sentence,
            typed=typed,
            status=422,
        )
