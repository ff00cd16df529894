"""Remote codes as they arrive: repeats of one press are one press; and a stand-in to try with.

A real receiver hears each press several times. What comes within the lock-out of the last hearing
of the same code belongs to the same press.
"""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

REPEAT_MS = 90
REPEATS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """One code at an instant."""

    t_ms: int
    code: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Press:
    """One press with how often it was heard."""

    t_ms: int
    code: str
    times: int


def presses(pulses: Sequence[Heard], lockout_ms: float) -> list[Press]:
    """Presses out of what was heard, in time order; the lock-out counts from the last hearing."""
    press: list[Press] = []
    last: dict[str, tuple[int, int]] = {}
    for row in pulses:
        if row.code in last and row.t_ms - last[row.code][0] <= lockout_ms:
            index = last[row.code][1]
            old = press[index]
            press[index] = Press(t_ms=old.t_ms, code=old.code, times=old.times + 1)
        else:
            index = len(press)
            press.append(Press(t_ms=row.t_ms, code=row.code, times=1))
        last[row.code] = (row.t_ms, index)
    return press


def stand_in(button: int, name: str) -> list[Heard]:
    """What a made-up remote sends for a button: its code, with the repeats of a real one."""
    code = hashlib.sha256(f"{name}:{button}".encode()).hexdigest()[:6]
    return [Heard(t_ms=i * REPEAT_MS, code=code) for i in range(REPEATS)]


def stand_in_pattern(detent: int, contacts: int) -> str:
    """What a made-up selector's contacts show at a detent: binary, first contact first."""
    return "".join("1" if detent >> bit & 1 else "0" for bit in range(contacts))
