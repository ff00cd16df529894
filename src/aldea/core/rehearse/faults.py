"""What is put into a replay on purpose: probes, contacts, the clock and the power that fail."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, fields

import numpy as np

from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.inputs import Inputs, PowerCut
from aldea.core.plan.document import Range
from aldea.core.plan.reading import own_contacts
from aldea.core.readings.samples import Samples
from aldea.core.readings.trace import Trace

HALF = 0.5  # a contact's reading is 1 or 0
Span = tuple[int, int]
OfProbe = tuple[str, int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Faults:
    """Faults by what fails; spans [from, to) ms.

    A probe is silent, stuck at its last reading, or reads `beyond` its range; a contact stands
    still at a level; the clock is not known; there is no power. `throws` are a load and an instant
    at which its wall switch is thrown.
    """

    silences: tuple[OfProbe, ...] = ()
    stuck: tuple[OfProbe, ...] = ()
    beyond: tuple[OfProbe, ...] = ()
    contacts: tuple[tuple[str, int, int, int], ...] = ()
    clocks: tuple[Span, ...] = ()
    cuts: tuple[Span, ...] = ()
    throws: tuple[tuple[str, int], ...] = ()

    def __bool__(self) -> bool:
        return any(getattr(self, field.name) for field in fields(self))

    def seen_by(self, probes: Sequence[str], loads: Collection[str]) -> "Faults":
        """Those that rules of some loads see, which read some probes; and of clock and power."""
        return Faults(
            silences=tuple(row for row in self.silences if row[0] in probes),
            stuck=tuple(row for row in self.stuck if row[0] in probes),
            beyond=tuple(row for row in self.beyond if row[0] in probes),
            contacts=tuple(row for row in self.contacts if row[0] in probes),
            clocks=self.clocks,
            cuts=self.cuts,
            throws=tuple(row for row in self.throws if row[0] in loads),
        )


def merged_samples(compiled: CompiledPlan, traces: Mapping[str, Trace]) -> Samples:
    """The samples of all probes of a compiled plan in one order of time."""
    parts = [
        (traces[probe], row) for row, probe in enumerate(compiled.probe_ids) if probe in traces
    ]
    if len(parts) == 1 and parts[0][1] == 0:
        return parts[0][0].samples()
    t_ms = np.concatenate([trace.t_ms for trace, _ in parts] or [np.zeros(0, dtype=np.int64)])
    probe = np.concatenate(
        [np.full(len(trace), row, dtype=np.int64) for trace, row in parts]
        or [np.zeros(0, dtype=np.int64)]
    )
    value = np.concatenate([trace.raw for trace, _ in parts] or [np.zeros(0)])
    order = np.argsort(t_ms, kind="stable")
    return Samples(t_ms=t_ms[order], probe=probe[order], value=value[order])


def levels_of(compiled: CompiledPlan, traces: Mapping[str, Trace]) -> list[tuple[int, str, int]]:
    """What is recorded of contacts and motion, as changes of the inputs that rules read.

    What senses a load itself is left out: it tells what the rules of that day did, and would
    contradict any other. In a rehearsal each load does as it is told.
    """
    levels: list[tuple[int, str, int]] = []
    own = own_contacts(compiled.plan.loads)
    for name in compiled.input_ids:
        kind, _, probe = name.partition(":")
        trace = traces.get(probe) if kind == "probe" and probe not in own else None
        if trace is None or not len(trace):
            continue
        level = (trace.raw >= HALF).astype(np.int64)
        changes = np.flatnonzero(np.concatenate(([True], level[1:] != level[:-1])))
        levels += [
            (int(t_ms), name, int(now))
            for t_ms, now in zip(trace.t_ms[changes], level[changes], strict=True)
        ]
    levels.sort(key=lambda row: row[0])
    return levels


def as_sampled(compiled: CompiledPlan, traces: Mapping[str, Trace], faults: Faults) -> Samples:
    """The recorded samples as they would have come with the faults of probes."""
    samples = merged_samples(compiled, traces)
    for probe, from_ms, to_ms in faults.stuck:
        row = _row(compiled, probe)
        before = np.flatnonzero((samples.probe == row) & (samples.t_ms < from_ms))
        if len(before):
            last = float(samples.value[before[-1]])
            samples = _instead(samples, row, from_ms, to_ms, last)
    for probe, from_ms, to_ms in faults.beyond:
        known = compiled.plan.probe(probe)
        value = _out_of(known.range) if known is not None else np.nan
        samples = _instead(samples, _row(compiled, probe), from_ms, to_ms, value)
    for probe, from_ms, to_ms in faults.silences:
        samples = samples.without([(from_ms, to_ms)], _row(compiled, probe))
    return samples


def as_brought(compiled: CompiledPlan, traces: Mapping[str, Trace], faults: Faults) -> Inputs:
    """What else comes in with the faults: contacts as they would stand, clock and power."""
    levels = levels_of(compiled, traces)
    for probe, from_ms, to_ms, level in faults.contacts:
        name = f"probe:{probe}"
        if name not in compiled.input_ids:
            continue
        mine = [row for row in levels if row[1] == name]
        after = [now for t_ms, _, now in mine if t_ms <= to_ms]
        levels = [row for row in levels if row[1] != name or not from_ms <= row[0] <= to_ms]
        levels += [(from_ms, name, level), (to_ms, name, after[-1] if after else level)]
    clock: list[tuple[int, int | None]] = []
    for from_ms, to_ms in faults.clocks:
        clock += [(from_ms, None), (to_ms, to_ms)]
    return Inputs(
        levels=sorted(levels, key=lambda row: row[0]),
        clock=clock,
        cuts=[PowerCut(from_ms=a, to_ms=b) for a, b in faults.cuts],
    )


def _row(compiled: CompiledPlan, probe: str) -> int:
    """Its row; of one that no rule samples, none that any sample has."""
    return compiled.probe_ids.index(probe) if probe in compiled.probe_ids else -1


def _out_of(span: Range) -> float:
    return span.high + max(1.0, (span.high - span.low) / 10)


def _instead(samples: Samples, row: int, from_ms: int, to_ms: int, value: float) -> Samples:
    first, last = np.searchsorted(samples.t_ms, (from_ms, to_ms))
    changed = samples.value.copy()
    mine = np.flatnonzero(samples.probe[first:last] == row) + first
    changed[mine] = value
    return Samples(t_ms=samples.t_ms, probe=samples.probe, value=changed)
