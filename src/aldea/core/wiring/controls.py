"""Hands: what a way of working a load can reach, positions by a usual code, codes as pasted."""

import re
from dataclasses import dataclass
from typing import Literal, cast, get_args

from aldea.core.base.errors import InputError
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.controls import Control, ControlAction, Does, RemoteCode
from aldea.core.plan.document import Load, Plan

Scheme = Literal["one_of_n", "binary"]
STEPPING = ("up", "down")


@dataclass(frozen=True, slots=True, kw_only=True)
class OutOfReach:
    """Steps of a load that a control works and cannot reach."""

    load: str
    steps: tuple[int, ...]


def steps_of(load: Load) -> int:
    """How many steps a load has beside off."""
    return len(load_device(load).states(load)) - 1


def out_of_reach(plan: Plan, control: Control) -> tuple[OutOfReach, ...]:
    """Steps that a control cannot reach, by load; up and down reach all of them.

    A way that only switches a load on and off is not asked for its steps.
    """
    rows: list[OutOfReach] = []
    for load in plan.loads:
        wants = [want for want in control.wants if want.load == load.id]
        count = steps_of(load)
        levels = {want.step for want in wants if want.does == "step"}
        if count < 2 or not levels or any(want.does in STEPPING for want in wants):
            continue
        left = tuple(step for step in range(1, count + 1) if step not in levels)
        if left:
            rows.append(OutOfReach(load=load.name, steps=left))
    return tuple(rows)


def beyond_steps(plan: Plan, want: ControlAction) -> int | None:
    """The step that a hand wants and its load does not have; None where it has it."""
    load = plan.load(want.load or "")
    if load is None or want.step is None or want.step <= steps_of(load):
        return None
    return want.step


def patterns(scheme: Scheme, count: int, contacts: int) -> tuple[str, ...]:
    """The contacts' patterns of `count` positions, first contact first.

    One of n closes the contact of each position, and none at the first; binary counts from 0.
    Raises `InputError` where so few contacts cannot tell so many apart.
    """
    most = contacts + 1 if scheme == "one_of_n" else 2**contacts
    if not 1 <= count <= most:
        raise InputError(
            "positions",
            got=str(count),
            allowed=f"1 to {most} with {contacts} contact{'' if contacts == 1 else 's'}",
            fix="Add contacts, or use another code.",
        )
    if scheme == "binary":
        return tuple(
            "".join("1" if n >> bit & 1 else "0" for bit in range(contacts)) for n in range(count)
        )
    return tuple(
        "".join("1" if bit == n - 1 else "0" for bit in range(contacts)) for n in range(count)
    )


def read_codes(text: str) -> tuple[RemoteCode, ...]:
    """Codes as pasted, one a line: code, name and, where it is known, what it does.

    `a3f1c0 faster up`; blanks, commas, semicolons or tabs between. Raises `InputError` with the
    line that cannot be read.
    """
    codes: list[RemoteCode] = []
    for number, line in enumerate(text.splitlines(), 1):
        words = [word for word in re.split(r"[\s,;]+", line.strip()) if word]
        if not words:
            continue
        code = words[0].lower().removeprefix("0x")
        does = words[-1].lower() if len(words) > 2 else ""
        known = does in get_args(Does) and does != "step"
        name = " ".join(words[1:-1] if known else words[1:])[:80]
        if not re.fullmatch(r"[0-9a-f]{2,32}", code) or not name:
            raise InputError(
                f"line {number}",
                got=repr(line)[:60],
                allowed="a code of 2 to 32 digits 0–9, a–f, then what is printed on the button",
            )
        if any(code == other.code for other in codes):
            raise InputError(f"line {number}", got=f"{code} again", allowed="each code once")
        action = cast(Does, does) if known else "toggle"
        codes.append(RemoteCode(name=name, code=code, does=action))
    return tuple(codes)
