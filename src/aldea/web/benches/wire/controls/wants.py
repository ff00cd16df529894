"""What is typed at Controls, as changes of the plan: wants of presses, codes, positions; groups."""

import re
from collections.abc import Mapping
from typing import Any, cast, get_args

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.numbers import whole_of
from aldea.core.physics.steps import step_of_percent
from aldea.core.plan.controls import (
    ButtonPress,
    Control,
    ControlAction,
    Does,
    LoadGroup,
    OnlyIn,
    RemoteCode,
    SelectorPosition,
)
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import fresh_id, ids_of, part_of, put_part
from aldea.core.wiring.controls import Scheme, patterns, read_codes, steps_of

Typed = Mapping[str, str]
DOES = get_args(Does)
NO_WANT: dict[str, Any] = {
    **dict.fromkeys(("load", "group", "does", "step", "mode", "value", "trip", "only", "ends_by")),
    "for_s": None,
    "ends_with_mode": False,
}
# How an override that a press, a code or a position makes ends; else as its load says.
ENDS = (
    ("", "ends as set at its load"),
    ("time", "ends after"),
    ("agreement", "ends when the rules request the same state"),
    ("automatic", "ends when it is returned to automatic"),
    ("mode", "ends with that mode"),
    ("position", "ends when the dial leaves the position"),
)
LONGEST_S = 604_800
PRESSES = ("short", "long", "double")
MOST_PRESSES, MOST_BESIDES = 6, 5  # as the plan's document has them
KEYS = {"presses": "press", "positions": "pattern", "codes": "code"}


def want_of(plan: Plan, typed: Typed, *, nothing: bool = False) -> dict[str, Any]:
    """Load, group or mode, what is done to it, and the step, as a form sends them.

    A step may be typed as percent of the highest: `50 %` of four is step 2. A mode is set to a
    value (`mode:house=away`) or goes to its next one. `only` is the mode and value in which alone
    it is heard.
    """
    kind, _, part_id = typed.get("target", "").partition(":")
    does = typed.get("does", "" if nothing else "toggle")
    if nothing and not does:
        return {**NO_WANT, "does": None}
    if (does == "mode") != (kind == "mode"):
        raise InputError(
            "does",
            text="“mode” goes with a mode, anything else with a load or a group. Choose again.",
        )
    trip = next((c for c in plan.rules if c.id == part_id), None) if kind == "trip" else None
    if (kind == "trip") and (trip is None or does != "reset"):
        raise InputError(
            "does", text="A trip can only be reset. Choose “reset”, or another load or group."
        )
    if does not in DOES:
        raise InputError("does", got=repr(does)[:60], allowed="one of " + ", ".join(DOES))
    step = None
    if does == "step":
        load = plan.load(part_id) if kind == "load" else None
        step = _step(typed.get("step", "").strip(), load)
    mode, _, value = part_id.partition("=") if kind == "mode" else ("", "", "")
    return {
        **NO_WANT,
        "load": part_id if kind == "load" else trip.load if trip else None,
        "trip": trip.id if trip else None,
        "group": part_id if kind == "group" else None,
        "mode": mode or None,
        "value": value or None,
        "does": does,
        "step": step,
        "only": _only(plan, typed.get("only", "")),
        **_ends(typed),
    }


def _ends(typed: Typed) -> dict[str, Any]:
    """How the override ends, and after how many seconds."""
    ends = typed.get("ends", "")
    if ends not in dict(ENDS):
        raise InputError("ends", got=repr(ends)[:40], allowed="one of the list")
    if ends == "mode":
        if not typed.get("only"):
            raise InputError(
                "ends",
                got="an override that ends with a mode, in a control that acts in any mode",
                allowed="one that acts in one mode only",
                fix="Choose the mode in which it acts, or another end.",
            )
        return {"ends_by": "automatic", "ends_with_mode": True}
    if ends != "time":
        return {"ends_by": ends or None}
    text = typed.get("for_s", "").replace(",", ".").strip()
    for_s = float(text) if re.fullmatch(r"\d{1,6}(\.\d{1,3})?", text) else 0.0
    if not 0 < for_s <= LONGEST_S:
        raise InputError("for_s", got=repr(text)[:20] or "nothing", allowed=f"1 to {LONGEST_S} s")
    return {"ends_by": "time", "for_s": for_s}


def ends_of(want: ControlAction | None) -> str:
    """How the override of a want ends, as its form sends it."""
    if want is None:
        return ""
    if want.ends_with_mode and want.only is not None:
        return "mode"
    return want.ends_by or ("time" if want.for_s is not None else "")


def _only(plan: Plan, text: str) -> OnlyIn | None:
    if not text:
        return None
    mode_id, _, value = text.partition("=")
    mode = next((mode for mode in plan.modes if mode.id == mode_id), None)
    if mode is None or value not in mode.values:
        raise InputError("only", got=repr(text)[:60], allowed="a mode of this house and its value")
    return OnlyIn(mode=mode_id, value=value)


def targets_of(plan: Plan) -> list[tuple[str, str]]:
    """What a hand may want something of: every load, every group, every mode and its values."""
    return [
        *((f"load:{load.id}", load.name) for load in plan.loads),
        *((f"group:{group.id}", f"{group.name} (group)") for group in plan.groups),
        *(
            (
                f"trip:{rule.id}",
                f"{load.name}: the trip {rule.name or rule.id}, to reset it alone",
            )
            for rule in plan.rules
            if rule.priority == "trip" and (load := plan.load(rule.load)) is not None
        ),
        *((f"mode:{mode.id}", f"{mode.name} (mode): the next") for mode in plan.modes),
        *(
            (f"mode:{mode.id}={value}", f"{mode.name} (mode): {value}")
            for mode in plan.modes
            for value in mode.values
        ),
    ]


def onlys_of(plan: Plan) -> list[tuple[str, str]]:
    """The modes in which alone a hand may be heard."""
    return [
        (f"{mode.id}={value}", f"only while {mode.name} is {value}")
        for mode in plan.modes
        for value in mode.values
    ]


def target_of(want: ControlAction | None) -> str:
    """The target that a want has, as its form sends it; empty where it has none."""
    if want is None:
        return ""
    if want.mode:
        return f"mode:{want.mode}={want.value}" if want.value else f"mode:{want.mode}"
    if want.group:
        return f"group:{want.group}"
    if want.trip:
        return f"trip:{want.trip}"
    return f"load:{want.load}" if want.load else ""


def only_of(want: ControlAction | None) -> str:
    """The mode in which alone a want is heard, as its form sends it."""
    return f"{want.only.mode}={want.only.value}" if want is not None and want.only else ""


def _step(text: str, load: Load | None) -> int:
    step = whole_of(text.removesuffix("%").strip())
    if step is not None and text.endswith("%") and load is not None and step <= 100:
        return step_of_percent(step, steps_of(load))
    if step is None or step > 15:
        raise InputError(
            "step", got=repr(text)[:20] or "nothing", allowed="0 to 15, or percent of a load"
        )
    return step


def _control(plan: Plan, typed: Typed) -> Control:
    return cast(Control, part_of(plan, "control", typed.get("control", "")))


def _named(typed: Typed) -> str:
    name = typed.get("name", "").strip()
    if not name:
        raise InputError("name", got="nothing", allowed="what is printed on it")
    return name


def learnt(plan: Plan, typed: Typed) -> Plan:
    """A code that was captured or typed, or a selector's position, under its name."""
    control, name = _control(plan, typed), _named(typed)
    if control.kind == "remote":
        code = typed.get("code", "").strip().lower().removeprefix("0x")
        if not re.fullmatch(r"[0-9a-f]{2,32}", code):
            raise InputError("code", got=repr(code)[:60], allowed="2 to 32 digits 0–9, a–f")
        remote_code = RemoteCode.model_validate(
            {"name": name, "code": code, **want_of(plan, typed)}
        )
        return put_part(plan, "control", _with_codes(control, (remote_code,)))
    pattern = typed.get("pattern", "").strip()
    if not re.fullmatch(r"[01]{1,8}", pattern) or len(pattern) != control.contacts:
        raise InputError("pattern", got=repr(pattern)[:20], allowed=f"{control.contacts} 0s and 1s")
    if any(p.pattern == pattern for p in control.positions):
        raise InputError(
            "position",
            got=f"{pattern} again",
            allowed="a pattern that is not there",
            fix="Two positions with one pattern cannot be told apart.",
        )
    position = SelectorPosition.model_validate(
        {"name": name, "pattern": pattern, **want_of(plan, typed, nothing=True)}
    )
    made_control = control.model_copy(update={"positions": (*control.positions, position)})
    return put_part(plan, "control", made_control)


def _with_codes(control: Control, codes: tuple[RemoteCode, ...]) -> Control:
    for code in codes:
        if any(code.code == other.code for other in control.codes):
            raise InputError(
                "code",
                got=f"{code.code} again",
                allowed="a code that is not there",
                fix="Remove the old one, or press another button.",
            )
    return control.model_copy(update={"codes": (*control.codes, *codes)})


def pasted(plan: Plan, typed: Typed) -> Plan:
    """Codes as pasted, one a line, all for one load or group."""
    control = _control(plan, typed)
    target = want_of(plan, {"target": typed.get("target", ""), "does": "toggle"})
    codes = read_codes(typed.get("codes", ""))
    if not codes:
        raise InputError("codes", got="nothing", allowed="a code and its name on each line")
    to = {key: target[key] for key in ("load", "group")}
    aimed = tuple(code.model_copy(update=to) for code in codes)
    return put_part(plan, "control", _with_codes(control, aimed))


def filled(plan: Plan, typed: Typed) -> Plan:
    """A selector's positions by a usual code; what they wanted by name stays."""
    control = _control(plan, typed)
    names = [name.strip() for name in typed.get("names", "").split(",") if name.strip()]
    scheme = typed.get("scheme", "")
    if scheme not in get_args(Scheme):
        raise InputError("scheme", got=repr(scheme)[:40], allowed="one of n, or binary")
    codes = patterns(cast(Scheme, scheme), len(names), control.contacts)
    before = {position.name: position for position in control.positions}
    positions = tuple(
        before[name].model_copy(update={"pattern": pattern})
        if name in before
        else SelectorPosition(name=name, pattern=pattern)
        for name, pattern in zip(names, codes, strict=True)
    )
    return put_part(plan, "control", control.model_copy(update={"positions": positions}))


def pressed_for(plan: Plan, typed: Typed) -> Plan:
    """What a short, long or double press wants, in place of what it wanted, or after it."""
    control, press = _control(plan, typed), typed.get("press", "")
    if press not in PRESSES:
        raise InputError("press", got=repr(press)[:40], allowed="one of " + ", ".join(PRESSES))
    press_row = ButtonPress.model_validate({"press": press, **want_of(plan, typed)})
    kept = tuple(p for p in control.presses if p.press != press or typed.get("then"))
    if len(kept) >= MOST_PRESSES:
        raise InputError("presses", got="one more", allowed=f"{MOST_PRESSES} actions of one button")
    order = sorted((*kept, press_row), key=lambda p: PRESSES.index(p.press))
    return put_part(plan, "control", control.model_copy(update={"presses": tuple(order)}))


def wanted(plan: Plan, typed: Typed) -> Plan:
    """Another want for a position or a code that is there; or one besides, after those it has."""
    control, field, key = _addressed(plan, typed)
    then = bool(typed.get("then")) and field != "presses"
    update = want_of(plan, typed, nothing=field == "positions" and not then)

    def changed(row: Any) -> Any:
        if getattr(row, KEYS[field]) != key:
            return row
        if not then:
            return row.model_copy(update=update)
        if len(row.also) >= MOST_BESIDES:
            raise InputError("wants", got="one more", allowed=f"{1 + MOST_BESIDES} in all")
        return row.model_copy(update={"also": (*row.also, ControlAction.model_validate(update))})

    rows = getattr(control, field)
    if not any(getattr(row, KEYS[field]) == key for row in rows):
        raise NotFoundError(field, got=repr(key)[:60], allowed="one that is there")
    rows_after = tuple(changed(row) for row in rows)
    return put_part(plan, "control", control.model_copy(update={field: rows_after}))


def forgotten(plan: Plan, typed: Typed) -> Plan:
    """Without a code, a position or a press; with `nth`, without one of several wants of it."""
    control, field, key = _addressed(plan, typed)
    nth = whole_of(typed.get("nth", ""))
    if "nth" in typed and nth is None:  # never the whole row for a number that cannot be read
        raise InputError("nth", got=repr(typed["nth"])[:40], allowed="the number of an action")
    rows = getattr(control, field)
    mine = [row for row in rows if getattr(row, KEYS[field]) == key]
    if nth is None:
        left = tuple(row for row in rows if row not in mine)
    elif field == "presses":
        gone = mine[nth : nth + 1]
        left = tuple(row for row in rows if not any(row is one for one in gone))
    else:
        left = tuple(
            row.model_copy(update={"also": row.also[:nth] + row.also[nth + 1 :]})
            if row in mine
            else row
            for row in rows
        )
    return put_part(plan, "control", control.model_copy(update={field: left}))


def _addressed(plan: Plan, typed: Typed) -> tuple[Control, str, str]:
    """The control, which list of it, and which row."""
    field = typed.get("field", "")
    if field not in KEYS:
        raise InputError("field", got=repr(field)[:40], allowed="one of " + ", ".join(KEYS))
    return _control(plan, typed), field, typed.get("key", "")


def grouped(plan: Plan, typed: Typed) -> Plan:
    """A group of loads in the plan's order, or as `order` says, each so much after the last."""
    group_id, name = typed.get("group", ""), _named(typed)
    chosen = [load.id for load in plan.loads if typed.get(f"member-{load.id}")]
    first = [part.strip() for part in typed.get("order", "").split(",") if part.strip()]
    chosen.sort(key=lambda member: first.index(member) if member in first else len(first))
    text = typed.get("stagger_s", "0.5").replace(",", ".").strip()
    stagger = float(text) if re.fullmatch(r"\d{1,6}(\.\d{1,3})?", text) else -1.0
    if not 0 <= stagger <= 3600:
        raise InputError("stagger", got=repr(text)[:20], allowed="0 to 3600 s")
    if not chosen:
        raise InputError("members", got="none", allowed="at least one load")
    group = LoadGroup(
        id=group_id or fresh_id(name, ids_of(plan, "group")),
        name=name,
        members=tuple(chosen),
        stagger_s=stagger,
    )
    if group_id:
        part_of(plan, "group", group_id)
    return put_part(plan, "group", group)
