"""What comes into a run beside samples: levels, people, the clock, the power."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from aldea.core.base.errors import InputError
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.compiling.names import Rows
from aldea.core.engine.compiling.people import ActionTable
from aldea.core.engine.layout import NONE
from aldea.core.engine.tables.coming import ClockRow, CutRow, Level, MessageRow
from aldea.core.engine.tables.people import ActionSpec
from aldea.core.engine.tables.rows import Table, over, table_of, table_over
from aldea.core.engine.tables.run import InputTables
from aldea.core.plan.controls import ControlAction
from aldea.core.readings.samples import Samples


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerCut:
    """No power from `from_ms` up to `to_ms`; the program runs `boot_ms` later.

    Without `clock_kept` the clock is unknown after it. Of the last write before it only
    `torn_after` bytes were written, where that is given.
    """

    from_ms: int
    to_ms: int
    boot_ms: int = 0
    clock_kept: bool = True
    torn_after: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Message:
    """A person on a page: what is wanted, all at once; until an instant of the clock, if given."""

    t_ms: int
    author: str
    wants: tuple[ControlAction, ...]
    until_ms: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Code:
    """A code of a remote, by the remote's id and the code's name."""

    t_ms: int
    remote: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Inputs:
    """All that comes into a run beside samples.

    `levels` are changes of digital inputs: instant, name (`probe:door`, `control:key`), level.
    `clock` says when the clock is set, and to what; None makes it unknown. `people` are known
    before they speak, as a memory may hold what one of them wanted.
    """

    levels: Sequence[tuple[int, str, int]] = ()
    messages: Sequence[Message | Code] = ()
    clock: Sequence[tuple[int, int | None]] = ()
    cuts: Sequence[PowerCut] = ()
    people: Sequence[str] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledInputs:
    """Inputs as tables, with the actions and authors that they bring."""

    tables: InputTables
    actions: Table[ActionSpec]
    authors: tuple[str, ...]
    sensed: frozenset[str] = field(default_factory=frozenset)


def compile_inputs(
    compiled: CompiledPlan, samples: Samples, inputs: Inputs, start_ms: int
) -> CompiledInputs:
    """Inputs of a run that begins at `start_ms`; what no rule of the plan looks at is left out.

    Raises `InputError` where power cuts overlap or end before they begin, and `PlanError` where a
    person wants what a load cannot do.
    """
    known = {name: row for row, name in enumerate(compiled.input_ids)}
    levels = [(t, known[name], level) for t, name, level in inputs.levels if name in known]
    levels.sort(key=lambda row: row[:2])
    # Of two changes of an input at one instant the last one is the change.
    levels = [
        row
        for place, row in enumerate(levels, start=1)
        if place == len(levels) or levels[place][:2] != row[:2]
    ]
    authors = Rows.of("author", (*compiled.authors, *inputs.people))
    actions = ActionTable(
        compiled.plan,
        Rows.of("load", compiled.load_ids),
        Rows.of("mode", compiled.mode_ids),
        compiled.rule_rows,
        [row.copied() for row in compiled.tables.actions],
    )
    codes = {name: row for row, name in enumerate(compiled.codes)}
    messages: list[MessageRow] = []
    for message in sorted(inputs.messages, key=lambda one: one.t_ms):
        if message.t_ms < start_ms:
            continue
        if isinstance(message, Code):
            code = codes.get(f"{message.remote}:{message.name}")
            if code is not None:
                messages.append(MessageRow(t_ms=message.t_ms, code=code))
            continue
        first, end = actions.add(message.wants, message.until_ms)
        author = authors.give(message.author)
        messages.append(
            MessageRow(t_ms=message.t_ms, code=NONE, first=first, end=end, author=author)
        )
    first_sample = int(np.searchsorted(samples.t_ms, start_ms))
    t_ms, rows, levels_now = zip(*levels, strict=True) if levels else ((), (), ())
    return CompiledInputs(
        tables=InputTables(
            sample_ms=over(np.ascontiguousarray(samples.t_ms[first_sample:], dtype=np.int64)),
            sample_probe=over(np.ascontiguousarray(samples.probe[first_sample:], dtype=np.int64)),
            sample_value=over(np.ascontiguousarray(samples.value[first_sample:], np.float64)),
            levels=table_over(Level, {"t_ms": t_ms, "input": rows, "level": levels_now}),
            messages=table_of(MessageRow, messages),
            clock=table_of(
                ClockRow,
                [
                    ClockRow(t_ms=t, says_ms=0 if now is None else now, known=int(now is not None))
                    for t, now in sorted(inputs.clock, key=lambda row: row[0])
                    if t >= start_ms
                ],
            ),
            cuts=_cuts(inputs.cuts, start_ms),
        ),
        actions=table_of(ActionSpec, actions.rows),
        authors=authors.names,
        sensed=frozenset(compiled.input_ids[row] for row in rows),
    )


def _cuts(cuts: Sequence[PowerCut], start_ms: int) -> Table[CutRow]:
    rows = sorted(cuts, key=lambda cut: cut.from_ms)
    apart = all(a.to_ms <= b.from_ms for a, b in pairwise(rows))
    if not apart or any(cut.from_ms >= cut.to_ms for cut in rows):
        raise InputError(
            "power cuts", got="cuts that overlap or end before they start", allowed="cuts apart"
        )
    return table_of(
        CutRow,
        [
            CutRow(
                from_ms=cut.from_ms,
                to_ms=cut.to_ms,
                boot_ms=cut.boot_ms,
                kept=int(cut.clock_kept),
                torn=NONE if cut.torn_after is None else cut.torn_after,
            )
            for cut in rows
            if cut.to_ms + cut.boot_ms > start_ms  # one that was over is none of this run
        ],
    )
