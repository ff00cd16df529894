"""What people work by hand: remote codes captured, selectors turned through, names kept apart."""

import re
from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of, put_part
from aldea.core.plan.panel import Control, RemoteCode, SelectorPosition
from aldea.core.wiring.names import alike_names, spoken_names
from aldea.core.wiring.receiver import presses, stand_in, stand_in_pattern
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.wire.pages import keep_and_go, wire_sub_page
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import Change
from aldea.web.shell.forms import typed_of, whole_of
from aldea.web.shell.page import OpenHouse, open_house_of
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
REMOTE_BUTTONS = 6
SELECTOR_DETENTS = 8
DOES = ("toggle", "on", "off", "up", "down")


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
    heard: Heard | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """Remote codes, selector positions, names."""
    plan = opened.plan
    names = spoken_names(plan)
    alike = alike_names(names)
    return wire_sub_page(
        request,
        state,
        opened,
        "wire/controls/controls.html",
        "controls",
        status=status,
        here=f"{opened.base}/wire/controls",
        verdict_words=_verdict(plan, len(alike)),
        remotes=[c for c in plan.controls if c.kind == "remote"],
        selectors=[c for c in plan.controls if c.kind == "selector"],
        buttons=range(1, REMOTE_BUTTONS + 1),
        detents=range(SELECTOR_DETENTS),
        does=DOES,
        loads=[("", "nothing yet"), *((load.id, load.name) for load in plan.loads)],
        alike=alike,
        names=names,
        heard=heard,
        refusal=refusal,
    )


def _verdict(plan: Plan, alike: int) -> Verdict:
    codes = sum(len(c.codes) for c in plan.controls if c.kind == "remote")
    positions = sum(len(c.positions) for c in plan.controls if c.kind == "selector")
    return Verdict(
        mark="owed" if alike else "holds",
        sentence=f"{codes} codes, {positions} positions; {alike or 'no'} "
        f"name{'' if alike == 1 else 's'} that could be confused.",
        rest="Captured here with a stand-in for the receiver; live boards come later.",
    )


@router.get("/controls")
def controls(request: Request, state: State, access: MemberAccess) -> Response:
    """What people work by hand, and what a stand-in sent."""
    opened = open_house_of(state, access)
    query = request.query_params
    control = opened.plan.control(query.get("control", ""))
    pressed = whole_of(query.get("press", ""))
    heard = _heard(control, pressed) if control and pressed is not None else None
    return controls_page(request, state, opened, heard=heard)


def _heard(control: Control, number: int) -> Heard | None:
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


@router.post("/controls/learn")
def learn(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Write a captured code, or a selector's position, down under a name."""
    typed = typed_of(form)
    name = typed.get("name", "").strip()

    def change(plan: Plan) -> Plan:
        control = part_of(plan, "control", typed.get("control", ""))
        if not name:
            raise InputError("name", got="nothing", allowed="what is printed on it")
        if control.kind == "remote":
            code = _checked_code(typed, name)
            if any(c.code == code.code for c in control.codes):
                raise InputError(
                    "code", got=f"{code.code} again", allowed="a code that is not there",
                    mend="Take the old one away, or press another button.",
                )  # fmt: skip
            made = control.model_copy(update={"codes": (*control.codes, code)})
        else:
            pattern = typed.get("pattern", "")
            if not re.fullmatch(r"[01]{1,8}", pattern):
                raise InputError("pattern", got=repr(pattern), allowed="0s and 1s")
            if any(p.pattern == pattern for p in control.positions):
                raise InputError(
                    "position", got=f"{pattern} again", allowed="a pattern that is not there",
                    mend="Two positions with one pattern cannot be told apart.",
                )  # fmt: skip
            position = SelectorPosition(name=name, pattern=pattern)
            made = control.model_copy(update={"positions": (*control.positions, position)})
        return put_part(plan, "control", made)

    return _controls_change(request, state, access, typed, change, f"{name} learnt")


def _checked_code(typed: dict[str, str], name: str) -> RemoteCode:
    code, does = typed.get("code", ""), typed.get("does", "toggle")
    if not re.fullmatch(r"[0-9a-f]{2,32}", code):
        raise InputError("code", got=repr(code), allowed="2 to 32 digits 0–9, a–f")
    if does not in DOES:
        raise InputError("does", got=repr(does), allowed="on, off, toggle, up or down")
    return RemoteCode.model_validate(
        {"name": name, "code": code, "load": typed.get("load") or None, "does": does}
    )


@router.post("/controls/forget")
def forget(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a code or a position away."""
    typed = typed_of(form)
    name = typed.get("name", "")

    def change(plan: Plan) -> Plan:
        control = part_of(plan, "control", typed.get("control", ""))
        made = control.model_copy(
            update={
                "codes": tuple(c for c in control.codes if c.name != name),
                "positions": tuple(p for p in control.positions if p.name != name),
            }
        )
        return put_part(plan, "control", made)

    return _controls_change(request, state, access, typed, change, f"{name} taken away")


def _controls_change(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Change,
    what: str,
) -> Response:
    try:
        return keep_and_go(state, access, typed, change, what, "controls")
    except (InputError, NotFoundError, ConflictError) as exc:
        return controls_page(
            request, state, open_house_of(state, access), refusal=exc.sentence, status=422
        )
