"""Loads and their relays as tables: times, what the plan's wiring makes of each state."""

from dataclasses import dataclass, field

from aldea.core.devices.loads.device import LoadDevice
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.compiling.names import Rows, ms
from aldea.core.engine.compiling.rules import RuleSpan, RuleTable
from aldea.core.engine.compiling.signals import SignalTable
from aldea.core.engine.layout import (
    ENDS_BY_CODES,
    KIND_DRIVE,
    KIND_STEADY,
    KIND_TWO_WAY,
    NONE,
    OPEN,
    POLICY_CODES,
    UNKNOWN,
)
from aldea.core.engine.tables import loads as tab
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.reading import position_probes
from aldea.core.plan.seats import boot_coil

KINDS = {"steady": KIND_STEADY, "toggle": KIND_TWO_WAY, "pulse": KIND_DRIVE}


@dataclass(frozen=True, slots=True, kw_only=True)
class LineName:
    """What a line of the relays table means; `relay` is None where Wire has none yet."""

    load: str
    role: str
    relay: str | None


@dataclass(slots=True)
class LoadTable:
    """Loads with their relays, a load after the other."""

    plan: Plan
    rules: RuleTable
    signals: SignalTable
    inputs: Rows
    rows: list[tab.LoadSpec] = field(default_factory=list)
    lines: list[tab.LineSpec] = field(default_factory=list)
    line_names: list[LineName] = field(default_factory=list)
    combos: list[int] = field(default_factory=list)
    patterns: list[tab.PatternSpec] = field(default_factory=list)
    parts_ms: list[int] = field(default_factory=list)
    starts: int = 0

    def add(self, index: int, load: Load) -> None:
        """One load."""
        span = self.rules.load(index, load)
        device = load_device(load)
        states = device.states(load)
        row = self._times(index, load, span)
        row.combo, row.line = len(self.combos), len(self.lines)
        self._relays(load, states)
        row.line_end = len(self.lines)
        row.states, row.steps, row.lowest = len(states), len(states) - 1, 1
        row.valve = int(load.valve is not None)
        at_rest_open = load.valve is not None and load.valve.at_rest == "open"
        row.unpowered = OPEN if at_rest_open else 0
        row.pattern = len(self.patterns)
        if load.pattern is not None:
            self._patterns(load.pattern.all_parts_s)
            row.patterns = len(load.pattern.all_parts_s)
        row.breaks = int(load.stepped is not None)
        self._kind(row, load, device)
        self.rows.append(row)

    def _times(self, index: int, load: Load, span: RuleSpan) -> tab.LoadSpec:
        boot, back = self.plan.boot, load.power_return
        place = index if load.stagger_place is None else load.stagger_place
        ring = self.starts
        self.starts += load.starts_per_hour or 0
        return tab.LoadSpec(
            first=span.first,
            override=span.override,
            rest=span.rest,
            last=span.last,
            min_on_ms=ms(load.min_on_s),
            min_off_ms=ms(load.min_off_s),
            max_on_ms=NONE if load.max_on_s is None else ms(load.max_on_s),
            rest_ms=ms(load.max_on_rest_s),
            starts=load.starts_per_hour or NONE,
            ring=ring,
            policy=POLICY_CODES[back.policy],
            boot_ms=ms(boot.delay_s + place * boot.stagger_s + back.delay_s),
            ends_by=ENDS_BY_CODES[load.override.ends_by],
            override_ms=ms(load.override.for_s),
            open_input=NONE,
            shut_input=NONE,
            position=NONE,
            sense=NONE,
        )

    def _relays(self, load: Load, states: tuple[tuple[str, ...], ...]) -> None:
        own = {relay.role: relay for relay in self.plan.relays_of(load.id)}
        roles = list(dict.fromkeys([*own, *(role for state in states for role in state)]))
        for role in roles:
            relay = own.get(role)
            self.lines.append(tab.LineSpec() if relay is None else self._line(relay))
            name = LineName(load=load.id, role=role, relay=relay.id if relay else None)
            self.line_names.append(name)
        for state in states:
            self.combos += [int(role in state) for role in roles]

    def _line(self, relay: RelayOutput) -> tab.LineSpec:
        coil = bool(boot_coil(relay, self.plan))
        low = relay.active == "low"
        return tab.LineSpec(nc=int(relay.contact == "nc"), low=int(low), boot=int(coil != low))

    def _patterns(self, parts_s: tuple[tuple[float, ...], ...]) -> None:
        for parts in parts_s:
            first = len(self.parts_ms)
            self.parts_ms += [ms(part) for part in parts]
            self.patterns.append(tab.PatternSpec(first=first, end=len(self.parts_ms)))

    def _kind(self, row: tab.LoadSpec, load: Load, device: LoadDevice) -> None:
        how = device.contacts(load)
        row.kind = KINDS[how.drive]
        row.dead_ms = ms(how.dead_s)
        if load.two_way is not None:
            row.travel_ms = ms(load.two_way.follow_s)
            row.dead_ms = min(ms(load.two_way.settle_s), row.travel_ms)
            if load.two_way.sense is not None:
                row.sense = self.inputs.give(f"probe:{load.two_way.sense}")
        if load.drive is not None:
            drive = load.drive
            row.unpowered = UNKNOWN
            row.pulse_ms = ms(drive.pulse_s)
            row.travel_ms = ms(drive.travel_s)
            row.tries = drive.tries or 0
            by_distance = position_probes(load)
            if by_distance and drive.open_at_m is not None and drive.shut_at_m is not None:
                row.position = self.signals.row(by_distance[0])
                row.open_at, row.shut_at = drive.open_at_m, drive.shut_at_m
            elif drive.open_contact is not None and drive.shut_contact is not None:
                row.open_input = self.inputs.give(f"probe:{drive.open_contact}")
                row.shut_input = self.inputs.give(f"probe:{drive.shut_contact}")
