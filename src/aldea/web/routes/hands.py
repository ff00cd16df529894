"""What hands work: remote codes captured, selectors turned through, names kept apart."""

import re
from typing import Any

from fastapi import APIRouter, Request, Response

from aldea.core.errors import ConflictError, InputError, NotFoundError
from aldea.core.plan.build import part_of, put_part
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import RemoteCode, SelectorPosition
from aldea.core.wire.names import alike_names, spoken_names
from aldea.core.wire.receiver import presses, stand_in, stand_in_pattern
from aldea.web.editing import Change
from aldea.web.forms import typed_of
from aldea.web.pages import Bench
from aldea.web.routes.wire_pages import keep_and_go, opened, wire_sub_page
from aldea.web.security import AnyDoor, BuilderDoor, Door, Sent, State
from aldea.web.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
REMOTE_BUTTONS = 6
SELECTOR_DETENTS = 8


def hands_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    heard: dict[str, Any] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """Remote codes, selector positions, names."""
    plan = bench.plan
    loads = [("", "nothing yet"), *((load.id, load.name) for load in plan.loads)]
    return wire_sub_page(
        request,
        state,
        bench,
        "hands.html",
        "hands",
        status=status,
        remotes=[c for c in plan.controls if c.kind == "remote"],
        selectors=[c for c in plan.controls if c.kind == "selector"],
        buttons=range(1, REMOTE_BUTTONS + 1),
        detents=range(SELECTOR_DETENTS),
        loads=loads,
        alike=alike_names(spoken_names(plan)),
        names=spoken_names(plan),
        heard=heard,
        refusal=refusal,
    )


@router.get("/hands")
def hands(request: Request, state: State, door: AnyDoor) -> Response:
    """What hands work."""
    bench = opened(state, door)
    query = request.query_params
    heard = None
    control = bench.plan.control(query.get("control", ""))
    pressed = query.get("press", "")
    if control is not None and control.kind == "remote" and pressed.isdigit():
        row = presses(stand_in(int(pressed), control.id), control.lockout_ms)
        known = next((c for c in control.codes if c.code == row[0].code), None)
        heard = {"control": control, "presses": row, "known": known, "button": pressed}
    elif control is not None and control.kind == "selector" and pressed.isdigit():
        pattern = stand_in_pattern(int(pressed), control.contacts)
        match = next((p for p in control.positions if p.pattern == pattern), None)
        heard = {"control": control, "pattern": pattern, "known": match, "button": pressed}
    return hands_page(request, state, bench, heard=heard)


@router.post("/hands/learn")
def learn(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
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

    return _hands_change(request, state, door, typed, change, f"{name} learnt")


def _checked_code(typed: dict[str, str], name: str) -> RemoteCode:
    code, does = typed.get("code", ""), typed.get("does", "toggle")
    if not re.fullmatch(r"[0-9a-f]{2,32}", code):
        raise InputError("code", got=repr(code), allowed="2 to 32 digits 0–9, a–f")
    if does not in ("on", "off", "toggle", "up", "down"):
        raise InputError("does", got=repr(does), allowed="on, off, toggle, up or down")
    return RemoteCode.model_validate(
        {"name": name, "code": code, "load": typed.get("load") or None, "does": does}
    )


@router.post("/hands/forget")
def forget(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
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

    return _hands_change(request, state, door, typed, change, f"{name} taken away")


def _hands_change(
    request: Request, state: AppState, door: Door, typed: dict[str, str], change: Change, what: str
) -> Response:
    try:
        return keep_and_go(state, door, typed, change, what, "hands")
    except (InputError, NotFoundError, ConflictError) as exc:
        return hands_page(request, state, opened(state, door), refusal=exc.sentence, status=422)
