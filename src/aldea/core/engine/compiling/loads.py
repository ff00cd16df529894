"""Loads and their relays as tables: times, what the plan's wiring makes of each state."""

from dataclasses import dataclass, field

import numpy as np

from aldea.core.devices.loads.device import LoadDevice
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.compiling.claims import ClaimSpan, ClaimTable
from aldea.core.engine.compiling.names import Rows, ms
from aldea.core.engine.compiling.signals import SignalTable
from aldea.core.engine.layout import (
    KIND_DRIVE,
    KIND_STEADY,
    KIND_TWO_WAY,
    NONE,
    OPEN,
    POLICY_CODES,
    SCHOOL_CODES,
    UNKNOWN,
)
from aldea.core.engine.tables import loads as tab
from aldea.core.engine.tables.making import floats, ints, row_of
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
    claims: ClaimTable
    signals: SignalTable
    inputs: Rows
    rows: list[list[int]] = field(default_factory=list)
    ends: list[list[float]] = field(default_factory=list)
    lines: list[list[int]] = field(default_factory=list)
    line_names: list[LineName] = field(default_factory=list)
    combos: list[list[int]] = field(default_factory=list)
    patterns: list[list[int]] = field(default_factory=list)
    parts_ms: list[int] = field(default_factory=list)
    starts: int = 0

    def add(self, index: int, load: Load) -> None:
        """One load."""
        span = self.claims.load(index, load)
        device = load_device(load)
        states = device.states(load)
        line = len(self.lines)
        row = row_of(tab.L_INTS, self._times(index, load, span), empty=NONE)
        row[tab.L_COMBO] = len(self.combos)
        row[tab.L_LINE] = line
        self._relays(load, states)
        row[tab.L_LINE_END] = len(self.lines)
        row[tab.L_STATES] = len(states)
        row[tab.L_STEPS] = len(states) - 1
        row[tab.L_LOWEST] = 1
        row[tab.L_VALVE] = int(load.valve is not None)
        at_rest_open = load.valve is not None and load.valve.at_rest == "open"
        row[tab.L_UNPOWERED] = OPEN if at_rest_open else 0
        row[tab.L_PATTERN], row[tab.L_PATTERNS] = len(self.patterns), 0
        if load.pattern is not None:
            self._patterns(load.pattern.all_parts_s)
            row[tab.L_PATTERNS] = len(load.pattern.all_parts_s)
        row[tab.L_BREAKS] = int(load.stepped is not None)
        self.ends.append([0.0, 0.0])
        self._kind(row, load, device)
        self.rows.append(row)

    def table(self, exclusive: list[list[int]], members: list[int]) -> tab.LoadPlan:
        """All of it as arrays."""
        width = max((row[tab.L_LINE_END] - row[tab.L_LINE] for row in self.rows), default=0)
        combos = np.zeros((len(self.combos), width), dtype=np.int64)
        for index, closed in enumerate(self.combos):
            combos[index, closed] = 1
        return tab.LoadPlan(
            ints=ints(self.rows, tab.L_INTS),
            floats=floats(self.ends, 2),
            claims=ints(self.claims.rows, tab.K_INTS),
            lines=ints(self.lines, tab.R_INTS),
            combos=combos,
            patterns=ints(self.patterns, 2),
            parts_ms=ints([self.parts_ms], len(self.parts_ms))[0],
            exclusive=ints(exclusive, 3),
            exclusive_lines=ints([members], len(members))[0],
        )

    def _times(self, index: int, load: Load, span: ClaimSpan) -> dict[int, int]:
        boot, back = self.plan.boot, load.power_return
        place = index if load.stagger_place is None else load.stagger_place
        ring = self.starts
        self.starts += load.starts_per_hour or 0
        return {
            tab.L_FIRST: span.first,
            tab.L_HAND: span.hand,
            tab.L_REST: span.rest,
            tab.L_LAST: span.last,
            tab.L_MIN_ON_MS: ms(load.min_on_s),
            tab.L_MIN_OFF_MS: ms(load.min_off_s),
            tab.L_MAX_ON_MS: NONE if load.max_on_s is None else ms(load.max_on_s),
            tab.L_REST_MS: ms(load.max_on_rest_s),
            tab.L_STARTS: load.starts_per_hour or NONE,
            tab.L_RING: ring,
            tab.L_POLICY: POLICY_CODES[back.policy],
            tab.L_BOOT_MS: ms(boot.delay_s + place * boot.stagger_s + back.delay_s),
            tab.L_SCHOOL: SCHOOL_CODES[load.hand.school],
            tab.L_HAND_MS: ms(load.hand.for_s),
            tab.L_DEAD_MS: 0,
            tab.L_PULSE_MS: 0,
            tab.L_TRAVEL_MS: 0,
        }

    def _relays(self, load: Load, states: tuple[tuple[str, ...], ...]) -> None:
        own = {relay.role: relay for relay in self.plan.relays_of(load.id)}
        roles = list(dict.fromkeys([*own, *(role for state in states for role in state)]))
        for role in roles:
            relay = own.get(role)
            self.lines.append([0, 0, 0] if relay is None else self._line(relay))
            name = LineName(load=load.id, role=role, relay=relay.id if relay else None)
            self.line_names.append(name)
        self.combos += [[roles.index(role) for role in state] for state in states]

    def _line(self, relay: RelayOutput) -> list[int]:
        coil = bool(boot_coil(relay, self.plan))
        return row_of(
            tab.R_INTS,
            {
                tab.R_NC: int(relay.contact == "nc"),
                tab.R_LOW: int(relay.active == "low"),
                tab.R_BOOT: int(coil != (relay.active == "low")),
            },
        )

    def _patterns(self, parts_s: tuple[tuple[float, ...], ...]) -> None:
        for parts in parts_s:
            first = len(self.parts_ms)
            self.parts_ms += [ms(part) for part in parts]
            self.patterns.append([first, len(self.parts_ms)])

    def _kind(self, row: list[int], load: Load, device: LoadDevice) -> None:
        how = device.contacts(load)
        row[tab.L_KIND] = KINDS[how.drive]
        row[tab.L_DEAD_MS] = ms(how.dead_s)
        if load.two_way is not None:
            row[tab.L_TRAVEL_MS] = ms(load.two_way.follow_s)
            row[tab.L_DEAD_MS] = min(ms(load.two_way.settle_s), row[tab.L_TRAVEL_MS])
            if load.two_way.sense is not None:
                row[tab.L_SENSE] = self.inputs.give(f"probe:{load.two_way.sense}")
        if load.drive is not None:
            drive = load.drive
            row[tab.L_UNPOWERED] = UNKNOWN
            row[tab.L_PULSE_MS] = ms(drive.pulse_s)
            row[tab.L_TRAVEL_MS] = ms(drive.travel_s)
            by_distance = position_probes(load)
            if by_distance and drive.open_at_m is not None and drive.shut_at_m is not None:
                row[tab.L_POSITION] = self.signals.row(by_distance[0])
                self.ends[-1] = [drive.open_at_m, drive.shut_at_m]
            elif drive.open_contact is not None and drive.shut_contact is not None:
                row[tab.L_OPEN_INPUT] = self.inputs.give(f"probe:{drive.open_contact}")
                row[tab.L_SHUT_INPUT] = self.inputs.give(f"probe:{drive.shut_contact}")
