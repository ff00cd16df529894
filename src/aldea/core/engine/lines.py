"""The last stage of a scan: from wanted states to relay contacts, as the wiring has it.

Polarity, contact kind, combination tables, exclusive relays, break before make, the level while
the board starts: all compiled from the plan's own wiring, so that there is no second truth.
"Conducts" is whether the relay lets its load's circuit through; the coil follows from the contact
kind, the pin's level from the coil and the module's polarity.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.jit import kernel
from aldea.core.engine.layout import NEVER, IntArray
from aldea.core.engine.replay import Run
from aldea.core.errors import PlanError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.memo import per_plan
from aldea.core.plan.wiring import Assignment, RelayLine

STEADY, TOGGLE, PULSE = range(3)
# columns of the load table
D_MODE, D_FIRST_LINE, D_END_LINE, D_FIRST_ROW, D_STATES, D_DEAD_MS, D_PULSE_MS = range(7)
D_INTS = 7
# columns of a load's line state
W_OPENED_MS, W_PULSE_END_MS, W_QUIET_UNTIL_MS = range(3)
W_INTS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class LineProgram:
    """Compiled wiring: one row a load, one column a relay line.

    `combos` has a row for each state of each load: 1 where the line conducts. `boot` is what
    conducts before the program runs. `exclusive` holds pairs that never conduct together.
    """

    load_ids: tuple[str, ...]
    relays: tuple[RelayLine, ...]
    di: IntArray
    combos: IntArray
    exclusive: IntArray
    boot: IntArray
    unpowered: IntArray

    def coil(self, line: int, conducts: int) -> bool:
        """Whether the relay's coil is energised while its contact conducts or not."""
        return bool(conducts) != (self.relays[line].contact == "nc")

    def level(self, line: int, conducts: int) -> bool:
        """Whether the pin is high then."""
        return self.coil(line, conducts) != (self.relays[line].active == "low")


def states_of(load: Load) -> tuple[tuple[str, ...], ...]:
    """The roles that conduct in each state, state 0 (off) first; unreachable steps are left out."""
    if load.kind == "stepped" and load.stepped is not None:
        fan = load.stepped
        return ((), *(step.closed for step in fan.steps if fan.reachable(step)))
    if load.kind == "valve" and load.valve is not None and load.valve.in_series == 2:
        return ((), ("on", "series"))
    return ((), ("on",))


@per_plan
def assignment_of(plan: Plan) -> dict[str, Assignment]:
    """Which pin each signal sits on."""
    return {row.signal: row for row in plan.assignments}


def boot_coil(relay: RelayLine, plan: Plan) -> bool | None:
    """Whether the coil is energised while the board starts; None where the pin floats undecided.

    A pull resistor fitted at the pin keeps it idle. A module pulls its own input to idle.
    """
    row = assignment_of(plan).get(f"relay:{relay.id}.coil")
    board = plan.board(row.board) if row else None
    kind = board_types(plan).get(board.board_type) if board else None
    pin = kind.pin(row.pin) if kind and row else None
    if pin is None or relay.pull_ohm is not None:
        return False
    if pin.at_boot == "pulses":
        return True
    if pin.at_boot != "floating":
        return (pin.at_boot == "high") == (relay.active == "high")
    if pin.boot_pull != "none":
        return (pin.boot_pull == "up") == (relay.active == "high")
    return None if relay.driver == "transistor" else False


@per_plan
def compile_lines(plan: Plan) -> LineProgram:
    """Compile the relays of a plan.

    Raises `PlanError` where a load lacks a relay that one of its states needs, and where two
    exclusive relays would conduct before the program runs.
    """
    loads = [load for load in plan.loads if plan.relays_of(load.id)]
    relays: list[RelayLine] = []
    rows: list[list[int]] = []
    combos: list[tuple[set[int], int]] = []
    pairs: list[tuple[int, int]] = []
    for load in loads:
        own = plan.relays_of(load.id)
        first = len(relays)
        at = {relay.role: first + i for i, relay in enumerate(own)}
        states = states_of(load)
        missing = {role for state in states for role in state} - set(at)
        if missing:
            raise PlanError(
                f"relays of {load.id}",
                got="no relay for " + ", ".join(sorted(missing)),
                allowed="a relay for every role",
                mend="Propose its relays at Wire.",
            )
        fan = load.stepped if load.kind == "stepped" else None
        row = [0] * D_INTS
        row[D_MODE] = {"two_way": TOGGLE, "pulse_drive": PULSE}.get(load.kind, STEADY)
        row[D_FIRST_LINE], row[D_END_LINE] = first, first + len(own)
        row[D_FIRST_ROW], row[D_STATES] = len(combos), len(states)
        if fan is not None:
            row[D_DEAD_MS] = round(fan.dead_time_s * 1000)
            pairs += [(at[a], at[b]) for a, b in fan.never_together if a in at and b in at]
        elif load.drive is not None:
            row[D_DEAD_MS] = round(load.drive.travel_s * 1000)
            row[D_PULSE_MS] = round(load.drive.pulse_s * 1000)
        elif load.two_way is not None:
            row[D_DEAD_MS] = round(load.two_way.settle_s * 1000)
        rows.append(row)
        combos.extend(({at[role] for role in state}, len(combos)) for state in states)
        relays.extend(own)
    table = np.zeros((len(combos), len(relays)), dtype=np.int64)
    for index, (closed, _) in enumerate(combos):
        table[index, sorted(closed)] = 1
    made = LineProgram(
        load_ids=tuple(load.id for load in loads),
        relays=tuple(relays),
        di=np.array(rows, dtype=np.int64).reshape(len(rows), D_INTS),
        combos=table,
        exclusive=np.array(pairs, dtype=np.int64).reshape(len(pairs), 2),
        boot=np.array(
            [int(bool(boot_coil(r, plan)) != (r.contact == "nc")) for r in relays], dtype=np.int64
        ),
        unpowered=np.array([int(r.contact == "nc") for r in relays], dtype=np.int64),
    )
    for first, second in pairs:
        if (made.boot[first] and made.boot[second]) or (
            made.unpowered[first] and made.unpowered[second]
        ):
            raise PlanError(
                f"relays {relays[first].id} and {relays[second].id}",
                got="two exclusive contacts that conduct before the program runs",
                allowed="at most one",
                mend="Use normally open contacts, and pins that stay quiet while the board starts.",
            )
    return made


@kernel
def step_lines(
    di: IntArray,
    combos: IntArray,
    exclusive: IntArray,
    wanted: IntArray,
    sensed: IntArray,
    conducts: IntArray,
    timers: IntArray,
    t_ms: int,
) -> int:
    """One scan of the last stage: opens at once, closes after the dead time; returns changes.

    `wanted` and `sensed` are states by load (sensed −1 where nobody knows). `conducts` is changed
    in place. Relays that are not in the new combination open first; the new ones close when the
    dead time since the last opening has passed and no exclusive one conducts.
    """
    changes = 0
    for load in range(di.shape[0]):
        first = di[load, D_FIRST_LINE]
        end = di[load, D_END_LINE]
        if di[load, D_MODE] == STEADY:
            row = di[load, D_FIRST_ROW] + min(max(wanted[load], 0), di[load, D_STATES] - 1)
            for line in range(first, end):
                if conducts[line] == 1 and combos[row, line] == 0:
                    conducts[line] = 0
                    timers[load, W_OPENED_MS] = t_ms
                    changes += 1
        elif di[load, D_MODE] == TOGGLE:
            if (
                sensed[load] >= 0
                and min(wanted[load], 1) != sensed[load]
                and t_ms >= timers[load, W_QUIET_UNTIL_MS]
            ):
                conducts[first] = 1 - conducts[first]
                timers[load, W_QUIET_UNTIL_MS] = t_ms + di[load, D_DEAD_MS]
                changes += 1
        elif conducts[first] == 1:
            if t_ms >= timers[load, W_PULSE_END_MS]:
                conducts[first] = 0
                timers[load, W_QUIET_UNTIL_MS] = t_ms + di[load, D_DEAD_MS]
                changes += 1
        elif (
            sensed[load] >= 0
            and min(wanted[load], 1) != sensed[load]
            and t_ms >= timers[load, W_QUIET_UNTIL_MS]
        ):
            conducts[first] = 1
            timers[load, W_PULSE_END_MS] = t_ms + di[load, D_PULSE_MS]
            changes += 1
    for load in range(di.shape[0]):
        if di[load, D_MODE] != STEADY or t_ms - timers[load, W_OPENED_MS] < di[load, D_DEAD_MS]:
            continue
        row = di[load, D_FIRST_ROW] + min(max(wanted[load], 0), di[load, D_STATES] - 1)
        for line in range(di[load, D_FIRST_LINE], di[load, D_END_LINE]):
            if conducts[line] == 0 and combos[row, line] == 1:
                barred = False
                for pair in range(exclusive.shape[0]):
                    a = exclusive[pair, 0]
                    b = exclusive[pair, 1]
                    if (a == line and conducts[b] == 1) or (b == line and conducts[a] == 1):
                        barred = True
                if not barred:
                    conducts[line] = 1
                    changes += 1
    return changes


@dataclass(slots=True)
class LineState:
    """What conducts now, with its timers."""

    conducts: IntArray
    timers: IntArray

    @classmethod
    def at_boot(cls, lines: LineProgram, t_ms: int, *, first_start: bool = False) -> "LineState":
        """As the pins stand before the program's first scan.

        What conducted in the dark or during boot opens in the first scan, and dead times count from
        there. After a cut nothing closes before the dead time: a charge or a coasting motor may
        still be there.
        """
        timers = np.zeros((len(lines.di), W_INTS), dtype=np.int64)
        timers[:, W_OPENED_MS] = NEVER if first_start else t_ms
        timers[:, W_QUIET_UNTIL_MS] = NEVER
        return cls(conducts=lines.boot.copy(), timers=timers)


@dataclass(frozen=True, slots=True, kw_only=True)
class LineEvent:
    """A contact that changed, and whether it conducts from then on."""

    t_ms: int
    line: int
    conducts: bool


def run_lines(
    lines: LineProgram, run: Run, *, since_ms: int | None = None, until_ms: int | None = None
) -> list[LineEvent]:
    """Every change of every contact in a run, or in a part of it; open loop.

    A sensed output follows its relay, a drive arrives: the record knows nothing of a hand at the
    wall switch. A part begins with the contacts settled as the states before it want them, which
    is right where dead times and travels before it have ended.
    """
    walk = _Walk.begun(lines, run, run.start_ms if since_ms is None else since_ms)
    end_ms = run.end_ms if until_ms is None else min(until_ms, run.end_ms)
    if not len(lines.di):
        return walk.found
    for t_ms, kind, load, to in walk.changes(end_ms):
        walk.let_pass(t_ms)
        if kind == lay.KIND_POWER:
            walk.power(t_ms, on=bool(to))
        else:
            walk.wanted[load] = to
            walk.step(t_ms)
    walk.let_pass(end_ms)
    return walk.found


@dataclass(slots=True)
class _Walk:
    """The last stage on its way through a run."""

    lines: LineProgram
    run: Run
    since_ms: int
    wanted: IntArray
    sensed: IntArray
    state: LineState
    shown: IntArray
    powered: bool
    found: list[LineEvent]

    @classmethod
    def begun(cls, lines: LineProgram, run: Run, since_ms: int) -> "_Walk":
        first = since_ms <= run.start_ms
        walk = cls(
            lines=lines,
            run=run,
            since_ms=since_ms,
            wanted=np.zeros(len(lines.di), dtype=np.int64),
            sensed=np.zeros(len(lines.di), dtype=np.int64),
            state=LineState.at_boot(lines, since_ms, first_start=True),
            shown=lines.unpowered.copy(),
            powered=True,
            found=[],
        )
        if not first:
            for _, kind, load, to in walk.changes(since_ms, before=True):
                if kind == lay.KIND_POWER:
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
            mine = slice(row[D_FIRST_LINE], row[D_END_LINE])
            wanted = min(int(self.wanted[load]), row[D_STATES] - 1)
            if row[D_MODE] == STEADY:
                self.state.conducts[mine] = self.lines.combos[row[D_FIRST_ROW] + wanted, mine]
            else:
                self.state.conducts[mine] = int(row[D_MODE] == TOGGLE and wanted > 0)

    def changes(self, end_ms: int, *, before: bool = False) -> Iterator[tuple[int, int, int, int]]:
        """Power and load changes from the beginning up to `end_ms`, or those `before` it."""
        names = self.run.program.load_ids
        known = {name: row for row, name in enumerate(self.lines.load_ids)}
        table = self.run.rows
        times = table[:, lay.E_T_MS]
        low = 0 if before else int(np.searchsorted(times, self.since_ms))
        part = table[low : int(np.searchsorted(times, end_ms))]
        power = part[:, lay.E_KIND] == lay.KIND_POWER
        switched = (part[:, lay.E_KIND] == lay.KIND_LOAD) & (
            part[:, lay.E_FROM] != part[:, lay.E_TO]
        )
        for row in part[power | (switched & (part[:, lay.E_CLAIM] != lay.NO_POWER))].tolist():
            if row[lay.E_KIND] == lay.KIND_POWER:
                yield row[lay.E_T_MS], lay.KIND_POWER, 0, row[lay.E_TO]
            elif names[row[lay.E_WHO]] in known:
                yield row[lay.E_T_MS], lay.KIND_LOAD, known[names[row[lay.E_WHO]]], row[lay.E_TO]

    def step(self, t_ms: int) -> None:
        """One scan of the last stage; what was toggled or pulsed is sensed as wanted after it."""
        lines = self.lines
        step_lines(
            lines.di,
            lines.combos,
            lines.exclusive,
            self.wanted,
            self.sensed,
            self.state.conducts,
            self.state.timers,
            t_ms,
        )
        moving = lines.di[:, D_MODE] != STEADY
        self.sensed[moving] = np.minimum(self.wanted[moving], 1)
        self.tell(t_ms, self.state.conducts)

    def power(self, t_ms: int, *, on: bool) -> None:
        """The supply fails or comes back."""
        self.powered = on
        self.wanted[:] = 0  # after a cut nobody asks until the scan says so again
        if not on:
            self.state.conducts[:] = self.lines.unpowered
            self.tell(t_ms, self.lines.unpowered)
            return
        self.state = LineState.at_boot(self.lines, t_ms)
        self.tell(t_ms, self.lines.boot)
        self.step(t_ms)

    def let_pass(self, t_ms: int) -> None:
        """Step at every end of a dead time or pulse before an instant."""
        if not self.powered:
            return
        timers = self.state.timers
        ends = set((timers[:, W_OPENED_MS] + self.lines.di[:, D_DEAD_MS]).tolist())
        ends |= set(timers[:, W_PULSE_END_MS].tolist())
        for due in sorted(t for t in ends if self.since_ms < t < t_ms):
            self.step(due)

    def tell(self, t_ms: int, now: IntArray) -> None:
        """Write down what changed."""
        self.found.extend(
            LineEvent(t_ms=t_ms, line=line, conducts=bool(now[line]))
            for line in np.flatnonzero(now != self.shown).tolist()
        )
        self.shown[:] = now


def conducting_at(lines: LineProgram, events: list[LineEvent], t_ms: int) -> dict[str, bool]:
    """Which relays conduct at an instant, by relay id; at rest before the first event."""
    now = {relay.id: bool(lines.unpowered[i]) for i, relay in enumerate(lines.relays)}
    for event in events:
        if event.t_ms > t_ms:
            break
        now[lines.relays[event.line].id] = event.conducts
    return now
