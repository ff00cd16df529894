"""Conditions as a table: each once, its members before it."""

import math
from dataclasses import dataclass, field
from typing import Any

from aldea.core.base.errors import PlanError
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.leak_tape.device import tape_divider
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.states import leak_states
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.engine.compiling.names import Rows, ms
from aldea.core.engine.compiling.signals import SignalTable
from aldea.core.engine.layout import MOVING, OFF, ON, OPEN, QUALITY_NAMES, SHUT, UNKNOWN
from aldea.core.engine.tables import conditions as con
from aldea.core.plan import conditions as doc
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.reading import expanded, named_conditions

WITHOUT = {"keep": con.KEEP, "true": con.STATED_TRUE, "false": con.STATED_FALSE}
POSITIONS = {"open": OPEN, "shut": SHUT, "moving": MOVING, "unknown": UNKNOWN}


@dataclass(slots=True)
class ConditionTable:
    """Conditions as they are asked for."""

    plan: Plan
    signals: SignalTable
    inputs: Rows
    loads: Rows
    probes: Rows
    modes: Rows
    doorways: Rows
    schedules: Rows
    rows: list[con.ConditionSpec] = field(default_factory=list)
    members: list[int] = field(default_factory=list)
    named: dict[str, int] = field(default_factory=dict)
    bands: dict[str, int] = field(default_factory=dict)
    sun: bool = False

    def name(self, condition_id: str) -> int:
        """The row of a named condition."""
        if condition_id not in self.named:
            condition = named_conditions(self.plan)[condition_id]
            list(expanded(self.plan, condition, (condition_id,)))  # refuses a circle
            row = self.add(condition, owner=condition_id)
            # A row of its own, that its changes can be told by.
            if self.rows[row].named:
                row = self._node(con.NODE_ALL, [row])
            self.rows[row].named = 1
            self.named[condition_id] = row
        return self.named[condition_id]

    def add(self, condition: Any, owner: str = "") -> int:
        """The row of a condition; `owner` is the condition or rule that a band's state goes by."""
        if isinstance(condition, doc.Named):
            return self.name(condition.condition)
        if isinstance(condition, doc.Lasting):
            return self._lasting(self.add(condition.of), condition.on_s, condition.off_s)
        if isinstance(condition, doc.Edge):
            return self._node(con.NODE_PULSE, [self.add(condition.of)], on_ms=ms(condition.for_s))
        if isinstance(condition, doc.Every | doc.Some):
            kind = con.NODE_ALL if isinstance(condition, doc.Every) else con.NODE_ANY
            return self._node(kind, [self.add(member) for member in condition.of])
        if isinstance(condition, doc.Unless):
            return self._node(con.NODE_NOT, [self.add(condition.of)])
        if isinstance(condition, doc.Band):
            return self._band(condition, owner)
        first = len(self.rows)
        on_value = self._on_value(condition)
        if on_value is None:
            return self._other(condition)
        self._without(condition, first)
        return on_value

    def _without(self, condition: doc.OnValue, first: int) -> None:
        """What the rows of a condition, from `first` on, count as without a reading."""
        for row in self.rows[first:]:
            if row.kind <= con.NODE_WITHIN:
                row.without = WITHOUT[condition.without_reading]
                row.keep_ms = ms(condition.unchanged_for_s)

    def _band(self, band: doc.Band, owner: str) -> int:
        row = self._value(
            self.signals.row(band.probe),
            band.on_threshold,
            band.off_threshold,
            rising=band.direction == "rising",
        )
        self._without(band, row)
        if owner:
            self.bands[owner] = row
        if band.delay_on_s or band.delay_off_s:
            return self._lasting(row, band.delay_on_s, band.delay_off_s)
        return row

    def _on_value(self, condition: Any) -> int | None:
        signals = self.signals
        if isinstance(condition, doc.Beyond):
            above = condition.kind == "above"
            off = (
                condition.value - condition.hysteresis
                if above
                else condition.value + condition.hysteresis
            )
            return self._value(signals.row(condition.probe), condition.value, off, rising=above)
        if isinstance(condition, doc.Difference):
            row = signals.difference(condition.probe, condition.less)
            rising = condition.on_threshold >= condition.off_threshold
            return self._value(row, condition.on_threshold, condition.off_threshold, rising=rising)
        if isinstance(condition, doc.Rate):
            row = signals.rate(condition.probe, condition.over_s)
            rising = condition.on_threshold >= condition.off_threshold
            return self._value(row, condition.on_threshold, condition.off_threshold, rising=rising)
        if isinstance(condition, doc.Within):
            return self._within(signals.row(condition.probe), condition.low, condition.high)
        if isinstance(condition, doc.Tape):
            return self._tape(condition)
        if isinstance(condition, doc.Dark):
            return self._dark(condition)
        if isinstance(condition, doc.Gas):
            return self._gas(condition)
        return None

    def _tape(self, condition: doc.Tape) -> int:
        probe = self._probe(condition.probe)
        tape = probe.sensor
        divider = tape_divider(probe, tape, self.plan) if isinstance(tape, LeakTape) else None
        if not isinstance(tape, LeakTape) or divider is None:
            return self._node(con.NODE_ANY, [])  # what nobody can tell yet never holds
        spans = {state.name: state for state in leak_states(tape, divider)}
        rows = []
        for name in condition.states:
            if name not in spans:
                continue  # without a resistor across the far end there is no open state
            low, high = spans[name].low_ohm / 1000, spans[name].high_ohm / 1000
            # An edge belongs to the side of the alarm: to the lower resistance.
            above = -math.inf if low == 0 else math.nextafter(low, math.inf)
            under = math.inf if high == math.inf else math.nextafter(high, math.inf)
            rows.append(self._within(self.signals.row(probe.id), above, under))
        node = rows[0] if len(rows) == 1 else self._node(con.NODE_ANY, rows)
        wait_s = (tape.in_a_row - 1) * tape.interval_s
        return self._lasting(node, wait_s, 0.0) if wait_s else node

    def _dark(self, condition: doc.Dark) -> int:
        probe = self._probe(condition.probe)
        own = probe.sensor.own_lamp_lux if isinstance(probe.sensor, LightResistor) else 0.0
        share = own if condition.lamp_lx is None else condition.lamp_lx
        row = self.signals.row(probe.id)
        if condition.lamp is not None and share:
            row = self.signals.less_lamp(probe.id, self.loads.find(condition.lamp), share)
        return self._value(
            row, condition.value, condition.value + condition.hysteresis, rising=False
        )

    def _gas(self, condition: doc.Gas) -> int:
        probe = self._probe(condition.probe)
        sensor = probe.sensor
        if not isinstance(sensor, GasSensor) or sensor.clean_air_v is None:
            return self._node(con.NODE_ANY, [])
        ratio = condition.ratio or sensor.alarm_ratio_1
        row = self.signals.ratio(probe.id, sensor.clean_air_v)
        return self._value(row, ratio, 1 + (ratio - 1) * 0.8, rising=True)

    def _probe(self, probe_id: str) -> Probe:
        self.signals.row(probe_id)  # refuses what is not there
        probe = self.plan.probe(probe_id)
        if probe is None:
            raise PlanError(f"probe {probe_id}", got="a derived signal", allowed="a probe")
        return probe

    def _other(self, condition: Any) -> int:
        if isinstance(condition, doc.Contact):
            row = self.inputs.give(f"probe:{condition.probe}")
            return self._row(con.NODE_INPUT, a=row, b=int(condition.closed))
        if isinstance(condition, doc.Presence):
            probe = self.plan.probe(condition.probe)
            own = probe.sensor.hold_s if probe and isinstance(probe.sensor, MotionSensor) else 0.0
            row = self.inputs.give(f"probe:{condition.probe}")
            seen = self._row(con.NODE_INPUT, a=row, b=1)
            return self._lasting(seen, 0.0, own if condition.hold_s is None else condition.hold_s)
        if isinstance(condition, doc.InMode):
            row, value = self._mode(condition)
            return self._row(con.NODE_MODE, a=row, b=value)
        if isinstance(condition, doc.LoadState | doc.Position):
            return self._load(condition)
        if isinstance(condition, doc.CountAbove):
            row = self.doorways.find(condition.doorway)
            return self._row(con.NODE_COUNT, a=row, b=condition.value)
        if isinstance(condition, doc.QualityIs):
            mask = sum(1 << QUALITY_NAMES.index(name) for name in set(condition.among))
            row = self.probes.find(condition.probe)
            return self._row(con.NODE_QUALITY, a=row, b=mask)
        if isinstance(condition, doc.InWindow):
            row = self.schedules.find(condition.schedule)
            return self._row(con.NODE_SCHEDULE, a=row)
        if isinstance(condition, doc.Sun):
            self.sun = True
            return self._row(
                con.NODE_SUN,
                b=int(condition.state == "up"),
                on_ms=ms(condition.offset_min * 60),
                off_ms=int(condition.when_clock_unknown),
            )
        return self._row(
            con.NODE_CLOCK if isinstance(condition, doc.ClockKnown) else con.NODE_ALWAYS
        )

    def _mode(self, condition: doc.InMode) -> tuple[int, int]:
        mode = next((mode for mode in self.plan.modes if mode.id == condition.mode), None)
        if mode is None or condition.value not in mode.values:
            raise PlanError(
                f"mode {condition.mode}",
                got=repr(condition.value),
                allowed="one of " + ", ".join(mode.values)
                if mode
                else "the id of a mode of this plan",
            )
        return self.modes.find(mode.id), mode.values.index(condition.value)

    def _load(self, condition: doc.LoadState | doc.Position) -> int:
        load = self.plan.load(condition.load)
        if load is not None and load.stage != "working":
            return self._node(con.NODE_ANY, [])  # what is only planned is never on
        row = self.loads.find(condition.load)
        if isinstance(condition, doc.Position):
            wanted = POSITIONS[condition.state]
        elif condition.level is not None:
            pattern = load is not None and load.kind in ("indicator", "sounder")
            wanted = condition.level + (1 if pattern else 0)
        else:
            words = {"off": OFF, "on": ON, "any_on": con.LOAD_ANY_ON, "missed": con.LOAD_MISSED}
            wanted = words[condition.state]
        return self._row(con.NODE_LOAD, a=row, b=wanted)

    def _value(self, signal: int, on: float, off: float, *, rising: bool) -> int:
        return self._row(con.NODE_BAND, signal=signal, rising=int(rising), on=on, off=off)

    def _within(self, signal: int, low: float | None, high: float | None) -> int:
        low = -math.inf if low is None else low
        high = math.inf if high is None else high
        return self._row(con.NODE_WITHIN, signal=signal, on=low, off=high)

    def _lasting(self, row: int, on_s: float, off_s: float) -> int:
        return self._node(con.NODE_FOR, [row], on_ms=ms(on_s), off_ms=ms(off_s))

    def _node(self, kind: int, of: list[int], *, on_ms: int = 0, off_ms: int = 0) -> int:
        first = len(self.members)
        self.members += of
        return self._row(kind, first=first, end=len(self.members), on_ms=on_ms, off_ms=off_ms)

    def _row(self, kind: int, *, signal: int = -1, **given: float) -> int:
        self.rows.append(con.ConditionSpec(kind=kind, signal=signal, **given))
        return len(self.rows) - 1

    def signal_of(self, row: int) -> int:
        """The first signal that a condition, or a member of it, looks at; −1 where none."""
        spec = self.rows[row]
        if spec.kind <= con.NODE_WITHIN:
            return spec.signal
        below = (self.signal_of(member) for member in self.members[spec.first : spec.end])
        return next((signal for signal in below if signal >= 0), -1)
