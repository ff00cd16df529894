"""Rehearsals for the pages: reads what a plan needs, runs it, keeps the last few results."""

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock
from typing import Any, TypeVar, cast
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, RootTransaction

from aldea.core.base.instants import MS_PER_DAY, MS_PER_MINUTE
from aldea.core.plan.document import Claim, Plan
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.beyond import Beyond
from aldea.core.rehearse.rehearsal import Faults, Rehearsal, beyond_limit, rehearse
from aldea.store.readings import ReadingCache, SeriesVersions, series_versions

LONGEST_REPLAY_DAYS = 31
MOST_KEPT = 24
MOST_MADE = 48
Made = TypeVar("Made")


@dataclass(frozen=True, slots=True, kw_only=True)
class Replayed:
    """A rehearsal with the readings that it ran on."""

    rehearsal: Rehearsal
    traces: dict[str, Trace]
    start_ms: int
    end_ms: int
    words: dict[object, Any] = field(
        default_factory=dict, compare=False
    )  # what the rail said of it


class ReplayCache:
    """Where rehearsals are asked for; results are kept by everything that they depend on."""

    def __init__(self, readings: ReadingCache) -> None:
        self._readings = readings
        self._kept: OrderedDict[tuple[object, ...], Replayed] = OrderedDict()
        self._made: OrderedDict[tuple[object, ...], object] = OrderedDict()
        self._versions: WeakKeyDictionary[RootTransaction, SeriesVersions] = WeakKeyDictionary()
        self._lock = Lock()

    def versions(self, connection: Connection, house_id: int) -> SeriesVersions:
        """Probe and version of every series of a house; read once in a transaction."""
        transaction = connection.get_transaction()
        if transaction is not None and transaction in self._versions:
            return self._versions[transaction]
        found = series_versions(connection, house_id)
        if transaction is not None:
            self._versions[transaction] = found
        return found

    def trace(self, connection: Connection, house_id: int, probe: str, end_ms: int) -> Trace:
        """The readings of a probe that a replay up to `end_ms` looks at."""
        start_ms = end_ms - LONGEST_REPLAY_DAYS * MS_PER_DAY
        return self._readings.trace(connection, house_id, probe, start_ms, end_ms + 1)

    def replay(
        self,
        connection: Connection,
        house_id: int,
        plan: Plan,
        plan_text: str,
        *,
        now_ms: int,
        faults: Faults = Faults(),  # noqa: B008  frozen
    ) -> Replayed | None:
        """A plan replayed on all that is recorded up to now; None where nothing is recorded."""
        digest = hashlib.sha256(plan_text.encode()).hexdigest()
        key = (
            house_id,
            digest,
            self.versions(connection, house_id),
            now_ms // MS_PER_MINUTE,
            faults,
        )
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        working = {load.id for load in plan.loads if load.stage == "working"}
        probes = {claim.condition.probe for claim in plan.claims if claim.load in working}
        traces = {p: self.trace(connection, house_id, p, now_ms) for p in sorted(probes)}
        traces = {probe: trace for probe, trace in traces.items() if len(trace)}
        if not traces:
            return None
        start_ms = min(int(trace.t_ms[0]) for trace in traces.values())
        start_ms -= start_ms % plan.scan_period_ms
        end_ms = max(now_ms, start_ms + plan.scan_period_ms)
        done = Replayed(
            rehearsal=rehearse(plan, traces, start_ms=start_ms, end_ms=end_ms, faults=faults),
            traces=traces,
            start_ms=start_ms,
            end_ms=end_ms,
        )
        with self._lock:
            self._kept[key] = done
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        return done

    def beyond(
        self, connection: Connection, house_id: int, plan: Plan, claim: Claim, trace: Trace
    ) -> Beyond:
        """Time beyond a claim's limit; does not depend on the marks, so dragging finds it ready."""
        probe = plan.probe(claim.condition.probe)
        key = (
            house_id,
            self.versions(connection, house_id),
            probe.calibration if probe else None,
            probe.stale_after_s if probe else None,
            claim.condition.limit,
            claim.condition.direction,
            claim.condition.probe,
            len(trace),
        )
        return self._remembered(key, lambda: beyond_limit(plan, claim, trace))

    def picture(
        self,
        connection: Connection,
        house_id: int,
        key: tuple[object, ...],
        draw: Callable[[], str],
    ) -> str:
        """A drawing of a whole log: made once for what it depends on and the readings' versions."""
        return self._remembered((house_id, self.versions(connection, house_id), *key), draw)

    def _remembered(self, key: tuple[object, ...], make: Callable[[], Made]) -> Made:
        with self._lock:
            if key in self._made:
                self._made.move_to_end(key)
                return cast(Made, self._made[key])
        made = make()
        with self._lock:
            self._made[key] = made
            while len(self._made) > MOST_MADE:
                self._made.popitem(last=False)
        return made
