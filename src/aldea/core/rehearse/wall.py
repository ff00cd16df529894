"""A wall switch thrown in a replay: the lamp burns as its relay and the switch both stand.

A two-way circuit changes over whenever its relay or its wall switch does. What is sensed hangs on
what the rules do next, so the run goes on piece by piece: where a relay changes over within a
piece, the piece is begun anew and the lamp follows its relay when it has settled.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from aldea.core.base.errors import InputError
from aldea.core.base.instants import MS_PER_HOUR
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.inputs import Inputs
from aldea.core.engine.layout import KIND_TWO_WAY, NO_LEVEL
from aldea.core.engine.replay import Run
from aldea.core.engine.scans import Scans
from aldea.core.engine.session import Session
from aldea.core.readings.samples import Samples

PIECE_MS = 2 * MS_PER_HOUR
MOST_CHANGES = 100_000  # of what is sensed, in one run
Throw = tuple[str, int]


@dataclass(slots=True)
class _Lamp:
    """A lamp whose wall switch is thrown: its input, its relay line, how long that settles.

    `drawn` says whether its coil is; the line draws it at high, or at low.
    """

    name: str
    line: int
    settle_ms: int
    low: bool
    drawn: bool


def run_with_throws(
    compiled: CompiledPlan,
    samples: Samples,
    inputs: Inputs,
    throws: Iterable[Throw],
    *,
    start_ms: int,
    end_ms: int,
    boots: bool = False,
    scans: Scans | None = None,
) -> Run:
    """A replay in which wall switches are thrown: (load, instant) each.

    Raises `InputError` for a load that is not in a two-way circuit with a sensed output, where the
    board cannot know of its wall switch.
    """
    wanted = sorted(throws, key=lambda throw: throw[1])
    lamps = {load: _lamp(compiled, load) for load, _ in wanted}
    ahead = list(inputs.levels)
    flips = [(t_ms, lamps[load].name) for load, t_ms in wanted]
    level = {lamp.name: 0 for lamp in lamps.values()}
    session = Session(
        compiled,
        start_ms=start_ms,
        end_ms=end_ms,
        samples=0,
        levels=len(ahead) + MOST_CHANGES,
        known=samples,
        sensed=level,
        inputs=replace(inputs, levels=()),
        boots=boots,
        scans=scans,
    )
    while session.now_ms < end_ms:
        moment = session.moment()
        lines_before = len(session.lines())
        to_ms = min(session.now_ms + PIECE_MS, end_ms)
        _feed(session, ahead, flips, dict(level), to_ms)
        session.advance(to_ms)
        moved = _moved(session.lines()[lines_before:].tolist(), lamps)
        if moved:
            first_ms = moved[0][0]
            to_ms = min(first_ms + compiled.period_ms, end_ms)
            session.back_to(moment)
            _feed(session, ahead, flips, dict(level), to_ms)
            session.advance(to_ms)
        level = _levels_at(flips, level, to_ms)
        ahead = [row for row in ahead if row[0] >= to_ms]
        flips = [flip for flip in flips if flip[0] >= to_ms]
        for t_ms, lamp in moved:
            if t_ms < to_ms:
                lamp.drawn = not lamp.drawn
                flips.append((max(t_ms + lamp.settle_ms, to_ms), lamp.name))
        flips.sort()
    return session.run()


def _lamp(compiled: CompiledPlan, load: str) -> _Lamp:
    tables = compiled.tables
    row = tables.loads[compiled.load_ids.index(load)] if load in compiled.load_ids else None
    if row is None or row.kind != KIND_TWO_WAY or row.sense < 0:
        raise InputError(
            "wall switch",
            got=repr(load)[:80],
            allowed="a working load in a two-way circuit whose output is sensed",
            fix="Say at Lay out which probe senses it.",
        )
    line = tables.lines[row.line]
    return _Lamp(
        name=compiled.input_ids[row.sense],
        line=row.line,
        settle_ms=row.dead_ms,
        low=line.low == 1,
        drawn=line.nc == 1,
    )


def _moved(rows: list[list[int]], lamps: Mapping[str, _Lamp]) -> list[tuple[int, _Lamp]]:
    """When a relay of a lamp changed over; one without power has dropped out."""
    by_line = {lamp.line: lamp for lamp in lamps.values()}
    drawn = {line: lamp.drawn for line, lamp in by_line.items()}
    moves = []
    for t_ms, line, level in rows:
        if line not in by_line:
            continue
        now = level != NO_LEVEL and (level == 1) != by_line[line].low
        if now != drawn[line]:
            drawn[line] = now
            moves.append((t_ms, by_line[line]))
    return moves


def _levels_at(flips: list[tuple[int, str]], level: dict[str, int], to_ms: int) -> dict[str, int]:
    """What each lamp has come to by an instant."""
    levels = dict(level)
    for t_ms, name in flips:
        if t_ms < to_ms:
            levels[name] = 1 - levels[name]
    return levels


def _feed(
    session: Session,
    ahead: list[tuple[int, str, int]],
    flips: list[tuple[int, str]],
    level: dict[str, int],
    to_ms: int,
) -> None:
    """Everything that changes before an instant, in order of time."""
    rows = [row for row in ahead if row[0] < to_ms]
    for t_ms, name in flips:
        if t_ms < to_ms:
            level[name] = 1 - level[name]
            rows.append((t_ms, name, level[name]))
    for row in sorted(rows, key=lambda row: row[0]):
        session.level(*row)
