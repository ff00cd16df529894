"""A leak tape's states without holes and overlaps: what it reads wet, damp, dry, open and short.

One place for all who ask: Circuits, the tape's bench, the plan. An edge belongs to the side of the
alarm.
"""

from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.physics.divider import Divider, source_ohm

State = Literal["open", "dry", "damp", "wet", "short"]
DRY_UNDER_1 = 0.65
SHORT_OHM = 500.0
DRY_TAPE_OHM = 5e6
OPEN_SHARE_1 = 0.5  # half way from the baseline to what an open tape reads


@dataclass(frozen=True, slots=True, kw_only=True)
class Edges:
    """Where each state begins, in counts; `rises` where water raises the reading.

    `open_at` is None where an unplugged tape cannot be told from a dry one. Equality belongs to
    the side of the alarm.
    """

    rises: bool
    open_at: float | None
    damp_at: float
    wet_at: float
    short_at: float

    def state_of(self, counts: float) -> State:
        """The state that a reading means; every reading means exactly one."""
        sign = 1.0 if self.rises else -1.0
        for state, edge in (
            ("short", self.short_at),
            ("wet", self.wet_at),
            ("damp", self.damp_at),
        ):
            if sign * counts >= sign * edge:
                return state  # type: ignore[return-value]
        if self.open_at is not None and sign * counts <= sign * self.open_at:
            return "open"
        return "dry"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeakState:
    """A state and the span of resistance that means it, in Ω, with the counts at its edges."""

    name: str
    low_ohm: float
    high_ohm: float
    low_counts: float
    high_counts: float


def edges_of(
    divider: Divider, baseline_counts: float, *, damp_pct: float, wet_pct: float, has_end: bool
) -> Edges:
    """States from a baseline and how far, in % of it, a reading must move to be damp and wet.

    Raises `CalibrationError` where the states would overlap or leave the converter's range.
    """
    rises = divider.side == "sensor_high"
    sign = 1.0 if rises else -1.0
    damp_at = baseline_counts * (1 + sign * damp_pct / 100)
    wet_at = baseline_counts * (1 + sign * wet_pct / 100)
    short_at = divider.counts(SHORT_OHM)
    if not 0 < damp_pct < wet_pct:
        raise CalibrationError(
            "thresholds",
            got=f"damp {short(damp_pct)} %, wet {short(wet_pct)} %",
            allowed="damp above 0, wet beyond damp",
        )
    if sign * wet_at >= sign * short_at:
        most = sign * (short_at / baseline_counts - 1) * 100
        raise CalibrationError(
            "thresholds",
            got=f"wet at {short(wet_pct)} %",
            allowed=f"under {figure(most, 0)} %, where the tape is short",
            fix="A smaller step, or a larger resistor across the far end.",
        )
    return Edges(
        rises=rises,
        open_at=_open_at(divider, baseline_counts) if has_end else None,
        damp_at=damp_at,
        wet_at=wet_at,
        short_at=short_at,
    )


def unplugged_counts(divider: Divider) -> float:
    """What an unplugged tape reads, counts: all or nothing, by where the tape stands."""
    return 0.0 if divider.side == "sensor_high" else float(divider.full_scale_counts)


def _open_at(divider: Divider, baseline_counts: float) -> float:
    return baseline_counts + OPEN_SHARE_1 * (unplugged_counts(divider) - baseline_counts)


def tape_edges(tape: LeakTape, divider: Divider) -> Edges:
    """The edges of a tape as its plan says: by percent of its stored baseline, or by ohms.

    Without a stored baseline the dry tape is taken to be what its far-end resistor makes of it.
    Edges that would cross are pushed apart, the strongest alarm first.
    """
    has_end = tape.end_of_line_ohm is not None
    dry_ohm = source_ohm(tape.end_of_line_ohm, DRY_TAPE_OHM) if has_end else DRY_TAPE_OHM  # type: ignore[arg-type]
    baseline = tape.baseline_counts or divider.counts(dry_ohm)
    if tape.thresholds == "percent" and tape.baseline_counts is not None:
        return edges_of(
            divider,
            baseline,
            damp_pct=tape.damp_pct,
            wet_pct=tape.wet_pct,
            has_end=has_end,
        )
    rises = divider.side == "sensor_high"
    worst = max if rises else min
    mildest = min if rises else max
    short_at = divider.counts(SHORT_OHM)
    wet_at = mildest(divider.counts(tape.wet_ohm), short_at)
    damp_at = mildest(divider.counts(tape.damp_ohm or DRY_UNDER_1 * dry_ohm), wet_at)
    open_at = mildest(_open_at(divider, baseline), damp_at) if has_end else None
    return Edges(
        rises=rises,
        open_at=open_at,
        damp_at=worst(damp_at, open_at) if open_at is not None else damp_at,
        wet_at=wet_at,
        short_at=short_at,
    )


def leak_states(tape: LeakTape, divider: Divider) -> tuple[LeakState, ...]:
    """Short, wet, damp, dry, open: each begins where the one before ends.

    Without an end-of-line resistor there is no open state: an unplugged tape reads dry.
    """
    edges = tape_edges(tape, divider)
    counts = [edges.short_at, edges.wet_at, edges.damp_at]
    names = ["short", "wet", "damp", "dry"]
    if edges.open_at is not None:
        counts.append(edges.open_at)
        names.append("open")
    ohm = [0.0, *(_ohm(divider, at) for at in counts), float("inf")]
    ends = [divider.counts(0.0), *counts, 0.0 if edges.rises else float(divider.full_scale_counts)]
    return tuple(
        LeakState(
            name=name,
            low_ohm=ohm[i],
            high_ohm=ohm[i + 1],
            low_counts=ends[i],
            high_counts=ends[i + 1],
        )
        for i, name in enumerate(names)
    )


def _ohm(divider: Divider, counts: float) -> float:
    ohm = divider.sensor_ohm(counts)
    return float("inf") if ohm is None else ohm


def expected_dry_ohm(tape: LeakTape) -> tuple[float, float]:
    """What an ohmmeter should show across a dry tape, Ω: 5 % resistor, tape of 1 MΩ or more."""
    if tape.end_of_line_ohm is None:
        return 1e6, float("inf")
    return source_ohm(0.95 * tape.end_of_line_ohm, 2e6), 1.05 * tape.end_of_line_ohm


def check_dry(tape: LeakTape, divider: Divider, mean_counts: float) -> None:
    """Raise `CalibrationError` where a baseline is none that the tape's far end allows.

    What the counts say hangs on the fixed resistor too, whose 5 % widen the window.
    """
    low_ohm, high_ohm = (
        edge * (1 + way) for edge, way in zip(expected_dry_ohm(tape), (-0.05, 0.05), strict=True)
    )
    dry_ohm = divider.sensor_ohm(mean_counts)
    if dry_ohm is not None and low_ohm <= dry_ohm <= high_ohm:
        return
    endless = high_ohm == float("inf")
    top = "or more" if endless else f"to {figure(high_ohm / 1000, 0)} kΩ"
    if dry_ohm is None or dry_ohm > high_ohm:
        why = "Unplugged, or another resistor across the far end?"
    else:
        why = "Half wet, or another resistor across the far end? Dry it for an hour."
    raise CalibrationError(
        "readings",
        got=f"{figure(mean_counts, 0)} counts, "
        + ("open" if dry_ohm is None else f"{figure(dry_ohm / 1000, 0)} kΩ"),
        allowed=f"{figure(low_ohm / 1000, 0)} kΩ {top}, a dry tape with this far end",
        fix=why,
    )


def settling_s(tape: LeakTape) -> float:
    """How long its input takes to settle to a hundredth after a change, s: 4.6 R C.

    R is the fixed resistor beside the dry far end.
    """
    dry_ohm = tape.end_of_line_ohm or DRY_TAPE_OHM
    return 4.605 * source_ohm(tape.fixed_ohm, dry_ohm) * tape.input_nf * 1e-9
