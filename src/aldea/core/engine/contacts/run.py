"""Every change of every contact in a run, or in a part of it; open loop."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import groupby
from operator import itemgetter

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.engine import layout as lay
from aldea.core.engine.contacts.compiled import (
    D_DEAD_MS,
    D_END,
    D_FIRST,
    D_FIRST_ROW,
    D_MODE,
    D_STATES,
    STEADY,
    TOGGLE,
    CompiledContacts,
)
from aldea.core.engine.contacts.scan import (
    W_OPENED_MS,
    W_PULSE_END_MS,
    W_QUIET_UNTIL_MS,
    ContactState,
    step_contacts,
)
from aldea.core.engine.replay import Run


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactEvent:
    """A contact that changed, and whether it conducts from then on."""

    t_ms: int
    line: int
    conducts: bool


def run_contacts(
    lines: CompiledContacts, run: Run, *, since_ms: int | None = None, until_ms: int | None = None
) -> list[ContactEvent]:
    """Every change of every contact in a run, or in a part of it; open loop.

    What is sensed follows: a lamp when its settling time has passed since the relay changed over, a
    drive when its travel has passed since its pulse began. Until then a wish that turned back
    waits. The record knows nothing of a hand at the wall switch. A part begins with the contacts
    settled as the states before it want them, which is right where dead times and travels before it
    have ended.
    """
    walk = _Walk.begun(lines, run, run.start_ms if since_ms is None else since_ms)
    end_ms = run.end_ms if until_ms is None else min(until_ms, run.end_ms)
    if not len(lines.di):
        return walk.found
    for t_ms, together in groupby(walk.changes(end_ms), key=itemgetter(0)):
        walk.let_pass(t_ms)
        switched = False
        for _, kind, load, to in together:
            if kind == lay.EVENT_POWER:
                walk.power(t_ms, on=bool(to))
            else:
                walk.wanted[load] = to
                switched = True
        if switched:
            walk.step(t_ms)
    walk.let_pass(end_ms)
    return walk.found


@dataclass(slots=True)
class _Walk:
    """The last stage on its way through a run."""

    lines: CompiledContacts
    run: Run
    since_ms: int
    wanted: IntArray
    sensed: IntArray
    arriving: dict[int, tuple[int, int]]  # by load: the instant, and the state sensed from then on
    state: ContactState
    shown: IntArray
    powered: bool
    booted_ms: int
    stepped_ms: int
    found: list[ContactEvent]

    @classmethod
    def begun(cls, lines: CompiledContacts, run: Run, since_ms: int) -> "_Walk":
        first = since_ms <= run.start_ms
        walk = cls(
            lines=lines,
            run=run,
            since_ms=since_ms,
            wanted=np.zeros(len(lines.di), dtype=np.int64),
            sensed=np.zeros(len(lines.di), dtype=np.int64),
            arriving={},
            state=ContactState.at_boot(lines, since_ms, first_start=True),
            shown=lines.unpowered.copy(),
            powered=True,
            booted_ms=since_ms,
            stepped_ms=since_ms,
            found=[],
        )
        if not first:
            for _, kind, load, to in walk.changes(since_ms, before=True):
                if kind == lay.EVENT_POWER:
                    walk.powered = bool(to)
                    walk.wanted[:] = 0
                else:
                    walk.wanted[load] = to
            walk.settle()
        if len(lines.di) and walk.powered:
            walk.step(since_ms)
        return walk

    def settle(self) -> None:
        """Contacts as the wanted states want them, every dead time passed."""
        self.sensed[:] = np.minimum(self.wanted, 1)
        if not self.powered:
            self.state.conducts[:] = self.lines.unpowered
            return
        for load, row in enumerate(self.lines.di.tolist()):
            mine = slice(row[D_FIRST], row[D_END])
            wanted = min(int(self.wanted[load]), row[D_STATES] - 1)
            if row[D_MODE] == STEADY:
                self.state.conducts[mine] = self.lines.combos[row[D_FIRST_ROW] + wanted, mine]
            else:
                self.state.conducts[mine] = int(row[D_MODE] == TOGGLE and wanted > 0)

    def changes(self, end_ms: int, *, before: bool = False) -> Iterator[tuple[int, int, int, int]]:
        """Power and load changes from the beginning up to `end_ms`, or those `before` it."""
        names = self.run.compiled.load_ids
        known = {name: row for row, name in enumerate(self.lines.load_ids)}
        table = self.run.rows
        times = table[:, lay.E_T_MS]
        low = 0 if before else int(np.searchsorted(times, self.since_ms))
        part = table[low : int(np.searchsorted(times, end_ms))]
        power = part[:, lay.E_TYPE] == lay.EVENT_POWER
        switched = (part[:, lay.E_TYPE] == lay.EVENT_LOAD) & (
            part[:, lay.E_FROM] != part[:, lay.E_TO]
        )
        for row in part[power | (switched & (part[:, lay.E_CLAIM] != lay.NO_POWER))].tolist():
            if row[lay.E_TYPE] == lay.EVENT_POWER:
                yield row[lay.E_T_MS], lay.EVENT_POWER, 0, row[lay.E_TO]
            elif names[row[lay.E_WHO]] in known:
                yield row[lay.E_T_MS], lay.EVENT_LOAD, known[names[row[lay.E_WHO]]], row[lay.E_TO]

    def step(self, t_ms: int) -> None:
        """One scan of the last stage, and when what it set moving will be sensed."""
        di, conducts = self.lines.di, self.state.conducts
        for load in [load for load, (at_ms, _) in self.arriving.items() if at_ms <= t_ms]:
            self.sensed[load] = self.arriving.pop(load)[1]
        before = conducts.copy()
        step_contacts(
            di,
            self.lines.combos,
            self.lines.exclusive,
            self.wanted,
            self.sensed,
            conducts,
            self.state.timers,
            t_ms,
        )
        for load in np.flatnonzero(di[:, D_MODE] != STEADY).tolist():
            relay = di[load, D_FIRST]
            if conducts[relay] != before[relay] and (di[load, D_MODE] == TOGGLE or conducts[relay]):
                quiet_ms = int(self.state.timers[load, W_QUIET_UNTIL_MS])
                self.arriving[load] = (quiet_ms, min(int(self.wanted[load]), 1))
                self.sensed[load] = -1
        self.stepped_ms = t_ms
        self.tell(t_ms, conducts)

    def power(self, t_ms: int, *, on: bool) -> None:
        """The supply fails or comes back; a drive ends its travel in the dark, a lamp does not."""
        self.powered = on
        self.wanted[:] = 0  # after a cut nobody asks until the scan says so again
        if not on:
            self.state.conducts[:] = self.lines.unpowered
            self.tell(t_ms, self.lines.unpowered)
            return
        self.state = ContactState.at_boot(self.lines, t_ms)
        self.booted_ms, self.stepped_ms = t_ms, t_ms - 1
        for load in np.flatnonzero(self.lines.di[:, D_MODE] == TOGGLE).tolist():
            self.arriving.pop(load, None)
            self.sensed[load] = self.lines.boot[self.lines.di[load, D_FIRST]]
        self.tell(t_ms, self.lines.boot)

    def tick(self, t_ms: int) -> int:
        """The first scan at or after an instant."""
        start_ms, period_ms = self.run.start_ms, self.run.compiled.period_ms
        return start_ms - (start_ms - t_ms) // period_ms * period_ms

    def let_pass(self, t_ms: int) -> None:
        """Step in the scan of every end of a dead time, pulse or travel before an instant."""
        while self.powered:
            timers = self.state.timers
            ends = {self.booted_ms, *timers[:, W_PULSE_END_MS].tolist()}
            ends |= {*(timers[:, W_OPENED_MS] + self.lines.di[:, D_DEAD_MS]).tolist()}
            ends |= {at_ms for at_ms, _ in self.arriving.values()}
            ticks = (self.tick(end) for end in ends)
            due_ms = min((tick for tick in ticks if tick > self.stepped_ms), default=t_ms)
            if due_ms >= t_ms:
                return
            self.step(due_ms)

    def tell(self, t_ms: int, now: IntArray) -> None:
        """Write down what changed."""
        self.found.extend(
            ContactEvent(t_ms=t_ms, line=line, conducts=bool(now[line]))
            for line in np.flatnonzero(now != self.shown).tolist()
        )
        self.shown[:] = now


def conducting_at(
    lines: CompiledContacts, events: list[ContactEvent], t_ms: int
) -> dict[str, bool]:
    """Which relays conduct at an instant, by relay id; at rest before the first event."""
    now = {relay.id: bool(lines.unpowered[i]) for i, relay in enumerate(lines.relays)}
    for event in events:
        if event.t_ms > t_ms:
            break
        now[lines.relays[event.line].id] = event.conducts
    return now
