"""Rehearsals for the pages: load by load, each kept by all that it depends on, within bounds."""

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from typing import Any, TypeVar, cast
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, RootTransaction

from aldea.core.base.bounded import BoundedCache
from aldea.core.base.instants import MS_PER_DAY, MS_PER_MINUTE
from aldea.core.engine.replay import Run
from aldea.core.plan.document import Plan, Rule
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.beyond import Beyond
from aldea.core.rehearse.by_load import run_of_all
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.foresight import Standing, standing
from aldea.core.rehearse.load_parts import LoadPart, load_parts
from aldea.core.rehearse.rehearsal import Rehearsal, beyond_limit, rehearse
from aldea.core.rehearse.stretches import Stretch
from aldea.store.reading_cache import ReadingCache, Series, first_since, series_of

LONGEST_REPLAY_DAYS = 31
MOST_REPLAY_BYTES = 48_000_000
MOST_MADE_BYTES = 32_000_000
MOST_SENTENCES = 40
BYTES_A_STANDING = 60_000  # with the compiled plan that it names its rows by
BYTES_A_STRETCH = 700  # with the words that the timeline says of it
Made = TypeVar("Made")
# Remembers a drawing of a probe's log, by what it depends on beside the readings.
Picture = Callable[[str, tuple[object, ...], Callable[[], str]], str]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LoadReplay:
    """What loads that hang together do, and what was drawn and said of them in the last windows."""

    rehearsal: Rehearsal
    sentences: dict[object, Any] = field(default_factory=dict)

    def remembered(self, key: object, make: Callable[[], Any]) -> Any:
        """What was made of it for a key before, or made now."""
        words = self.sentences.get(key)
        if words is None:
            if len(self.sentences) >= MOST_SENTENCES:
                self.sentences.clear()
            words = self.sentences[key] = make()
        return words

    @property
    def size_bytes(self) -> int:
        """What keeping it costs, about."""
        run = self.rehearsal.run
        stretches = sum(len(stretches) for stretches in self.rehearsal.stretches.values())
        return run.rows.nbytes + run.values.nbytes + BYTES_A_STRETCH * stretches + 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class Replayed:
    """A plan rehearsed load by load; `with_readings` are the probes that had any.

    It ends at the instant that was asked for, `asked_ms`; or where an old log does.
    """

    plan: Plan
    loads: dict[str, LoadReplay]
    with_readings: frozenset[str]
    start_ms: int
    end_ms: int
    asked_ms: int

    def of(self, load_id: str) -> Rehearsal | None:
        """The rehearsal of a load; None where nothing switches it yet."""
        known = self.loads.get(load_id)
        return known.rehearsal if known else None

    def stretches(self, load_id: str) -> list[Stretch]:
        """Its stretches, end to end; empty where nothing switches it yet."""
        load_replay = self.loads.get(load_id)
        return load_replay.rehearsal.stretches[load_id] if load_replay else []

    def run(self) -> Run | None:
        """All loads in one run, made from their parts."""
        parts = {load: replay.rehearsal for load, replay in self.loads.items()}
        return run_of_all(self.plan, parts)


class ReplayCache:
    """Where rehearsals are asked for; results are kept by everything that they depend on."""

    def __init__(self, readings: ReadingCache) -> None:
        self._readings = readings
        self._kept: BoundedCache[LoadReplay] = BoundedCache(MOST_REPLAY_BYTES)
        self._made: BoundedCache[object] = BoundedCache(MOST_MADE_BYTES)
        self._series: WeakKeyDictionary[RootTransaction, dict[str, Series]] = WeakKeyDictionary()

    @property
    def bytes_held(self) -> int:
        """Bytes of all that is kept, readings and replays and drawings."""
        return self._readings.bytes_held + self._kept.bytes_held + self._made.bytes_held

    def series(self, connection: Connection, house_id: int) -> dict[str, Series]:
        """Every series of a house by its probe; read once in a transaction."""
        transaction = connection.get_transaction()
        if transaction is not None and transaction in self._series:
            return self._series[transaction]
        by_probe = series_of(connection, house_id)
        if transaction is not None:
            self._series[transaction] = by_probe
        return by_probe

    def until(
        self, connection: Connection, house_id: int, probes: Iterable[str], now_ms: int
    ) -> int:
        """Where a replay of some probes ends: now; of an old log, just after its last reading."""
        series = self.series(connection, house_id)
        ends = [series[p].last_ms for p in probes if p in series and series[p].count]
        recent = now_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
        return now_ms if not ends or max(ends) >= recent else max(ends) + MS_PER_MINUTE

    def trace(self, connection: Connection, house_id: int, probe: str, end_ms: int) -> Trace:
        """The readings of a probe that a replay up to `end_ms` looks at."""
        end_ms = self.until(connection, house_id, [probe], end_ms)
        start_ms = end_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
        series = self.series(connection, house_id).get(probe)
        return self._readings.trace(connection, series, start_ms, end_ms + 1)

    def latest(
        self,
        connection: Connection,
        house_id: int,
        probes: Iterable[str],
        start_ms: int,
        end_ms: int,
    ) -> dict[str, Trace]:
        """The readings of some probes in a span, and the last one before it; in one query."""
        series = self.series(connection, house_id)
        rows = [series[probe] for probe in probes if probe in series]
        return self._readings.latest(connection, rows, start_ms, end_ms + 1)

    def replay(
        self,
        connection: Connection,
        house_id: int,
        plan: Plan,
        *,
        now_ms: int,
        faults: Faults = Faults(),  # noqa: B008  frozen
        of: Collection[str] = (),
    ) -> Replayed | None:
        """A plan replayed on what is recorded up to now, or up to the end of an old log.

        `of` are the probes whose log decides that; without a word, all that it reads. None where
        nothing is recorded.
        """
        asked_ms = now_ms
        parts = load_parts(plan)
        series = self.series(connection, house_id)
        wanted = {p: series[p] for part in parts.values() for p in part.reads if p in series}
        now_ms = self.until(connection, house_id, of or wanted, now_ms)
        # By the minute, or every moment would begin a replay of its own.
        now_ms -= now_ms % MS_PER_MINUTE
        earliest_ms = now_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
        first_ms = self._first_since(connection, wanted, earliest_ms, now_ms)
        if not first_ms:
            return None
        start_ms = min(first_ms.values())
        start_ms -= start_ms % plan.scan_period_ms
        end_ms = max(now_ms, start_ms + plan.scan_period_ms)
        done: dict[str, LoadReplay] = {}
        missing: dict[LoadPart, tuple[Faults, object]] = {}
        for load_id, part in parts.items():
            seen = faults.seen_by(part.reads, part.loads)
            versions = tuple((wanted[p].id, wanted[p].version) for p in part.reads if p in first_ms)
            key = (house_id, part, versions, start_ms, end_ms // MS_PER_MINUTE, seen)
            kept = self._kept.get(key)
            if kept is None:
                missing.setdefault(part, (seen, key))
            else:
                done[load_id] = kept
        if missing:
            probes = {p for part in missing for p in part.reads if p in first_ms}
            rows = [wanted[probe] for probe in sorted(probes)]
            traces = self._readings.traces(connection, rows, earliest_ms, now_ms + 1)
            for part, (seen, kept_by) in missing.items():
                own = {p: traces[p] for p in part.reads if p in traces}
                rehearsal = rehearse(
                    part.plan,
                    own,
                    start_ms=start_ms,
                    end_ms=end_ms,
                    faults=seen,
                    compiled=part.compiled,
                )
                load_replay = LoadReplay(rehearsal=rehearsal)
                self._kept.put(kept_by, load_replay, load_replay.size_bytes)
                done.update({load.id: load_replay for load in part.plan.loads})
        loads = {load_id: done[load_id] for load_id in parts}
        return Replayed(
            plan=plan,
            loads=loads,
            with_readings=frozenset(first_ms),
            start_ms=start_ms,
            end_ms=end_ms,
            asked_ms=asked_ms,
        )

    def standing(
        self,
        connection: Connection,
        house_id: int,
        plan: Plan,
        load_id: str,
        *,
        at_ms: int,
        replayed: Replayed,
    ) -> Standing | None:
        """How a load and those that hang together with it stand at an instant, and what is ahead.

        None where nothing switches it yet, or where the instant lies before the first reading.
        """
        part = load_parts(plan).get(load_id)
        if part is None or at_ms < replayed.start_ms:
            return None
        series = self.series(connection, house_id)
        rows = [series[p] for p in part.reads if p in series and p in replayed.with_readings]
        versions = tuple((row.id, row.version) for row in rows)
        key = ("standing", house_id, part, versions, replayed.start_ms, at_ms)

        def make() -> Standing:
            first_ms = replayed.end_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
            traces = self._readings.traces(connection, rows, first_ms, at_ms + 1)
            own = {p: traces[p] for p in part.reads if p in traces}
            return standing(part.compiled, own, start_ms=replayed.start_ms, at_ms=at_ms)

        return self._remembered(key, make)

    def trial(
        self,
        connection: Connection,
        house_id: int,
        plan: Plan,
        load_id: str,
        *,
        replayed: Replayed,
        faults: Faults,
    ) -> Rehearsal | None:
        """One load's part of a plan with faults put in, on the same record."""
        part = load_parts(plan).get(load_id)
        if part is None:
            return None
        series = self.series(connection, house_id)
        rows = [series[p] for p in part.reads if p in series and p in replayed.with_readings]
        first_ms = replayed.end_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
        traces = self._readings.traces(connection, rows, first_ms, replayed.end_ms + 1)
        own = {p: traces[p] for p in part.reads if p in traces}
        return rehearse(
            part.plan,
            own,
            start_ms=replayed.start_ms,
            end_ms=replayed.end_ms,
            faults=faults.seen_by(part.reads, part.loads),
            compiled=part.compiled,
        )

    def _first_since(
        self, connection: Connection, wanted: dict[str, Series], earliest_ms: int, now_ms: int
    ) -> dict[str, int]:
        """The first reading in the span of each probe that has one."""
        known = tuple((series.id, series.version) for series in wanted.values())
        firsts = self._remembered(
            ("first", known, earliest_ms),
            lambda: first_since(connection, wanted.values(), earliest_ms),
        )
        return {probe: t_ms for probe, t_ms in firsts.items() if t_ms <= now_ms}

    def beyond(
        self, connection: Connection, house_id: int, plan: Plan, rule: Rule, trace: Trace
    ) -> Beyond:
        """Time beyond a rule's limit; does not depend on the marks, so dragging finds it ready."""
        probe = plan.probe(rule.band.probe)
        key = (
            "beyond",
            self._version(connection, house_id, rule.band.probe),
            probe.calibration if probe else None,
            probe.stale_after_s if probe else None,
            rule.band.limit,
            rule.band.direction,
            len(trace),
        )
        return self._remembered(key, lambda: beyond_limit(plan, rule, trace))

    def pictures(self, connection: Connection, house_id: int) -> Picture:
        """Drawings of logs: each made once for what it depends on and its probe's readings."""

        def picture(probe: str, key: tuple[object, ...], draw: Callable[[], str]) -> str:
            version = self._version(connection, house_id, probe)
            return self._remembered(("picture", version, *key), draw)

        return picture

    def _version(self, connection: Connection, house_id: int, probe: str) -> tuple[int, int]:
        series = self.series(connection, house_id).get(probe)
        return (series.id, series.version) if series else (-house_id, 0)

    def _remembered(self, key: tuple[object, ...], make: Callable[[], Made]) -> Made:
        kept = self._made.get(key)
        if kept is not None:
            return cast(Made, kept)
        value = make()
        self._made.put(key, value, _size_of(value))
        return value


def _size_of(value: object) -> int:
    if isinstance(value, str):
        return len(value) + 200
    if isinstance(value, Beyond):
        return value.total_ms.nbytes + value.t_ms.nbytes + 200
    if isinstance(value, Standing):
        return value.conditions.nbytes + value.values.nbytes + BYTES_A_STANDING
    return 2000
