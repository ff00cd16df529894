"""A leak tape in a plan: sense and excitation, its states, what an ohmmeter shows of it."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import Supplied
from aldea.core.devices.finding import Finding, put_changed
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import FIXED, converter_of, divider_on
from aldea.core.devices.sensors.leak_tape.model import LEAK_TAPE, LeakTape
from aldea.core.devices.sensors.leak_tape.states import (
    check_dry,
    expected_dry_ohm,
    leak_states,
    tape_edges,
    unplugged_counts,
)
from aldea.core.devices.sensors.leak_tape.wiring import FIXED_END, NODE_WORDS, tape_wiring
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.physics.divider import Divider
from aldea.core.plan.document import Plan, Probe, Range
from aldea.core.plan.seats import assignment_of

USUAL_END_OF_LINE_OHM = 470_000.0
LEAST_FROM_OPEN_1 = 0.05  # of full scale between dry and unplugged: resistors of 5 %, noise


def tapes_told_apart(plan: Plan) -> Iterator[Finding]:
    """A tape without its far-end resistor, or with states that overlap."""
    for probe in plan.probes:
        if isinstance(probe.sensor, LeakTape):
            yield from _tape(probe, probe.sensor, plan)


def _tape(probe: Probe, tape: LeakTape, plan: Plan) -> Iterator[Finding]:
    row = assignment_of(plan).get(f"probe:{probe.id}.sense")
    pins = ((row.board, row.pin),) if row else ()
    if tape.end_of_line_ohm is None:
        fixed = tape.model_copy(update={"end_of_line_ohm": USUAL_END_OF_LINE_OHM})
        yield Finding(
            key=f"far-end-{probe.id}",
            weight="severe",
            head=f"{probe.name}: unplugged reads dry.",
            why="Without a resistor across the far end an open wire looks like a dry tape.",
            fix="Solder 470 kΩ across the far end, then record one reading dry and one wet.",
            at=f"probe:{probe.id}",
            pins=pins,
            press="Mark as soldered",
            apply=put_changed("probe", probe.model_copy(update={"sensor": fixed})),
        )
        return
    yield from _far_end(probe, tape, plan, pins)
    if tape.thresholds == "percent":
        yield from _by_percent(probe, tape, plan, pins)
    elif tape.wet_ohm >= (tape.damp_ohm or 0.5 * tape.end_of_line_ohm):
        yield Finding(
            key=f"overlap-{probe.id}",
            weight="severe",
            head=f"{probe.name}: wet and dry overlap.",
            why=f"Wet at {short(tape.wet_ohm)} Ω lies too near the dry tape with its far-end "
            f"resistor of {short(tape.end_of_line_ohm)} Ω.",
            fix="Set the wet resistance below half of the far-end resistor, or take both "
            "edges from its dry baseline at Calibrate.",
            at=f"probe:{probe.id}",
            pins=pins,
        )


def _far_end(
    probe: Probe, tape: LeakTape, plan: Plan, pins: tuple[tuple[str, str], ...]
) -> Iterator[Finding]:
    """A far-end resistor that this board reads as unplugged, or that the baseline contradicts."""
    divider, end_ohm = tape_divider(probe, tape, plan), tape.end_of_line_ohm
    if end_ohm is not None and not probe.range.low <= end_ohm / 1000 <= probe.range.high:
        wider = Range(low=0.0, high=float(round(2 * end_ohm / 1000)))
        yield Finding(
            key=f"out-of-range-{probe.id}",
            weight="severe",
            head=f"{probe.name} reads out of its range while it is dry.",
            why=f"{ohms(end_ohm)} across the far end; its range is {short(probe.range.low)} to "
            f"{short(probe.range.high)} kΩ. No reading of a dry tape would count as good.",
            fix=f"Set its range up to {short(wider.high)} kΩ, or use a smaller resistor.",
            at=f"probe:{probe.id}",
            field="range",
            pins=pins,
            press=f"Set range to {short(wider.high)} kΩ",
            apply=put_changed("probe", probe.model_copy(update={"range": wider})),
        )
        return
    if divider is None or end_ohm is None:
        return
    dry, when_open = divider.counts(end_ohm), unplugged_counts(divider)
    if abs(dry - when_open) < LEAST_FROM_OPEN_1 * divider.full_scale_counts:
        fits = tape.model_copy(update={"end_of_line_ohm": tape.fixed_ohm, "baseline_counts": None})
        yield Finding(
            key=f"far-end-range-{probe.id}",
            weight="severe",
            head=f"{probe.name}: dry and unplugged read nearly the same.",
            why=f"{ohms(end_ohm)} across the far end against {ohms(tape.fixed_ohm)} at the board "
            f"read {figure(dry, 0)} counts, unplugged {figure(when_open, 0)}.",
            fix=f"Solder {ohms(tape.fixed_ohm)} across the far end: it then reads half way.",
            at=f"probe:{probe.id}",
            pins=pins,
            press=f"Mark {ohms(tape.fixed_ohm)} as soldered",
            apply=put_changed("probe", probe.model_copy(update={"sensor": fits})),
        )
    elif tape.baseline_counts is not None:
        try:
            check_dry(tape, divider, tape.baseline_counts)
        except CalibrationError as exc:
            yield Finding(
                key=f"not-dry-{probe.id}",
                weight="severe",
                head=f"{probe.name}: its dry baseline contradicts its far-end resistor.",
                why=f"{exc.got}; {exc.allowed}. {exc.fix}",
                fix="Record its dry baseline again at Calibrate, or enter the far-end resistor "
                "that is fitted.",
                at=f"probe:{probe.id}",
                pins=pins,
            )


def _by_percent(
    probe: Probe, tape: LeakTape, plan: Plan, pins: tuple[tuple[str, str], ...]
) -> Iterator[Finding]:
    """Thresholds in percent of a baseline that nobody stored, or that cross on this board."""
    divider = tape_divider(probe, tape, plan)
    why = ""
    if tape.baseline_counts is None:
        why = "They are percent of a dry baseline, and no baseline is recorded."
    elif divider is not None:
        try:
            tape_edges(tape, divider)
        except CalibrationError as exc:
            why = f"{exc.got}; allowed is {exc.allowed}."
    if why:
        yield Finding(
            key=f"baseline-{probe.id}",
            weight="severe",
            head=f"{probe.name}: wet and damp are not known.",
            why=why,
            fix="Record its dry baseline at Calibrate, or enter the wet limit in ohms.",
            at=f"probe:{probe.id}",
            pins=pins,
        )


class LeakTapeDevice(SensorDevice[LeakTape]):
    """Its second wire is the excitation, unless it is fed all the time."""

    facts = LEAK_TAPE
    checks = (tapes_told_apart,)
    resistors = ("fixed_ohm", "end_of_line_ohm")
    asks: ClassVar[Asks] = {
        "end_of_line_ohm": Asked(label="Far-end resistor", unit="Ω"),
        "fixed_ohm": FIXED,
        "side": Asked(
            label="When wet it reads",
            options=(
                ("sensor_high", "high: tape between pin and +"),
                ("sensor_low", "low: tape between pin and 0 V"),
            ),
        ),
        "input_nf": Asked(label="Capacitor at the input", unit="nF"),
        "thresholds": Asked(
            label="Wet and damp are",
            options=(("ohms", "ohms, as entered"), ("percent", "percent of its dry baseline")),
        ),
        "wet_ohm": Asked(label="Wet at or under", unit="Ω"),
        "damp_ohm": Asked(label="Damp at or under", unit="Ω"),
        "wet_pct": Asked(label="Wet from the baseline by", unit="%"),
        "damp_pct": Asked(label="Damp from the baseline by", unit="%"),
        "samples": Asked(label="Averaged", unit="samples"),
        "in_a_row": Asked(label="Alarm after", unit="in a row"),
        "interval_s": Asked(label="Read every", unit="s"),
        "excitation": Asked(
            label="Excitation",
            options=(
                ("pulsed", "pulsed"),
                ("alternating", "alternating"),
                ("constant", "constant"),
            ),
        ),
    }

    def signals(self, probe: Probe, sensor: LeakTape) -> Iterator[Signal]:
        """One analog line, and one that drives it where it is not fed all the time."""
        yield probe_signal(probe, "sense", "analog_in")
        if sensor.excitation != "constant":
            yield probe_signal(probe, "excite", "digital_out", drives=True)

    def end(self, sensor: LeakTape, line: str) -> str:
        """An excitation ends on the tape, or on the fixed resistor where the tape goes to 0 V."""
        if line == "excite" and tape_wiring(sensor).fixed_to == "excite":
            return FIXED_END
        return line

    def supplied(self, sensor: LeakTape) -> tuple[Supplied, ...]:
        """The tape's second wire, unless a pin excites it."""
        wiring = tape_wiring(sensor)
        if wiring.tape_to == "excite":
            return ()
        return (Supplied(terminal=wiring.tape_to, end=wiring.tape_end),)

    def note(self, sensor: LeakTape, line: str, pin: str) -> str:
        """Where the fixed resistor stands, and what is across the far end."""
        to = tape_wiring(sensor).fixed_to
        if line != "sense":
            return f"to the {ohms(sensor.fixed_ohm)} at the board" if to == "excite" else ""
        end = sensor.end_of_line_ohm
        far = f"{ohms(end)} across the far end" if end else "no far-end resistor"
        more = f"; {short(sensor.input_nf)} nF from {pin} to 0 V" if sensor.input_nf else ""
        return f"{ohms(sensor.fixed_ohm)} from {pin} to {NODE_WORDS[to]}, at the board; {far}{more}"

    def expected(self, sensor: LeakTape, line: str) -> str:
        """Its far-end resistor."""
        if line != "sense":
            return ""
        far = sensor.end_of_line_ohm
        return f"{short(far / 1000)} kΩ dry" if far else "open: cannot be told"

    def source_ohm(self, sensor: LeakTape) -> float:
        """About half its fixed resistor."""
        return sensor.fixed_ohm / 2

    def trips_at(self, sensor: LeakTape) -> float | None:
        """Where it is wet, kΩ."""
        return sensor.wet_ohm / 1000

    def circuits(self, probe: Probe, sensor: LeakTape, plan: Plan) -> Iterator[Circuit]:
        """Its states in ohms and counts, and what an ohmmeter shows of it dry."""
        low, high = expected_dry_ohm(sensor)
        end = sensor.end_of_line_ohm
        divider = tape_divider(probe, sensor, plan)
        known = sensor.thresholds == "ohms" or sensor.baseline_counts is not None
        rows = _state_rows(sensor, divider) if divider is not None and known else ()
        corrodes = ", it corrodes" if sensor.excitation == "constant" else ""
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: leak tape",
            draws="leak",
            facts=(
                ("Across the far end", ohms(end) if end else "nothing"),
                (
                    "An ohmmeter shows, dry",
                    f"{figure(low / 1000, 0)} to {figure(high / 1000, 0)} kΩ"
                    if end
                    else "over 1 MΩ, the same as unplugged",
                ),
                ("Excitation", sensor.excitation + corrodes),
            ),
            head=("State", "Resistance", "Counts") if rows else (),
            rows=rows,
            values={
                "end": ohms(end) if end else "open",
                "fixed": ohms(sensor.fixed_ohm),
                "tape_to": tape_wiring(sensor).tape_to,
                "fixed_to": tape_wiring(sensor).fixed_to,
            },
        )


def tape_divider(probe: Probe, tape: LeakTape, plan: Plan) -> Divider | None:
    """The divider that a tape makes on its board; None while it has no pin."""
    return divider_on(converter_of(plan, probe), tape.side, tape.fixed_ohm)


def _state_rows(tape: LeakTape, divider: Divider) -> tuple[tuple[str, ...], ...]:
    rows = []
    for state in leak_states(tape, divider):
        low, endless = ohms(round(state.low_ohm)), state.high_ohm == float("inf")
        span = f"{low} and above" if endless else f"{low} to {ohms(round(state.high_ohm))}"
        ends = sorted((state.low_counts, state.high_counts))
        counts = f"{figure(ends[0], 0)} to {figure(min(ends[1], divider.full_scale_counts), 0)}"
        rows.append((state.name, span, counts))
    return tuple(rows)


DEVICE = LeakTapeDevice()
