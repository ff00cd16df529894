"""A leak tape's states without holes and overlaps: what it reads wet, damp, dry, open and short."""

from dataclasses import dataclass

from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.physics.divider import Divider, source_ohm

OPEN_OVER_DRY_1 = 1.6
DRY_UNDER_1 = 0.65
SHORT_OHM = 500.0
DRY_TAPE_OHM = 5e6


@dataclass(frozen=True, slots=True, kw_only=True)
class LeakState:
    """A state and the span of resistance that means it, in Ω, with the counts at its edges."""

    name: str
    low_ohm: float
    high_ohm: float
    low_counts: float
    high_counts: float


def leak_states(tape: LeakTape, divider: Divider) -> tuple[LeakState, ...]:
    """Short, wet, damp, dry, open: each begins where the one before ends.

    Without an end-of-line resistor there is no open state: an unplugged tape reads dry.
    """
    dry = source_ohm(tape.end_of_line_ohm, DRY_TAPE_OHM) if tape.end_of_line_ohm else DRY_TAPE_OHM
    damp = tape.damp_ohm or DRY_UNDER_1 * dry
    edges = [0.0, SHORT_OHM, tape.wet_ohm, max(tape.wet_ohm, damp)]
    names = ["short", "wet", "damp", "dry"]
    if tape.end_of_line_ohm:
        edges.append(max(edges[-1], OPEN_OVER_DRY_1 * dry))
        names.append("open")
    edges.append(float("inf"))
    return tuple(
        LeakState(
            name=name,
            low_ohm=low,
            high_ohm=high,
            low_counts=divider.counts(low) if low != float("inf") else 0.0,
            high_counts=divider.counts(high) if high != float("inf") else 0.0,
        )
        for name, low, high in zip(names, edges, edges[1:], strict=False)
    )


def expected_dry_ohm(tape: LeakTape) -> tuple[float, float]:
    """What an ohmmeter should show across a dry tape, Ω: 5 % resistor, tape of 1 MΩ or more."""
    if tape.end_of_line_ohm is None:
        return 1e6, float("inf")
    return source_ohm(0.95 * tape.end_of_line_ohm, 2e6), 1.05 * tape.end_of_line_ohm
