"""Claims as a table: by load, then strongest first; a hand and what it is at idle stand last."""

from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiling.conditions import ConditionTable
from aldea.core.engine.compiling.names import ClaimRow, ms
from aldea.core.engine.compiling.wants import want_code
from aldea.core.engine.layout import (
    GOOD,
    NONE,
    QUALITY_NAMES,
    RANK_CODES,
    RANK_FAULT,
    RANK_HAND,
    RANK_REST,
    WANT_OFF,
    WANT_ON,
)
from aldea.core.engine.tables.loads import (
    K_AFTER_MS,
    K_INTS,
    K_LOAD,
    K_NODE,
    K_PROBE,
    K_PULSE_MS,
    K_QUALITIES,
    K_RANK,
    K_SIGNAL,
    K_WANT,
)
from aldea.core.engine.tables.making import row_of
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.reading import probes_of_claim, probes_of_load, working_claims

ALL_BUT_GOOD = sum(1 << code for code in range(len(QUALITY_NAMES)) if code != GOOD)


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimSpan:
    """Where the claims of a load stand: first, its hand, at idle, at idle as it was before."""

    first: int
    hand: int
    rest: int
    last: int


@dataclass(slots=True)
class ClaimTable:
    """Claims of all loads, a load after the other."""

    plan: Plan
    conditions: ConditionTable
    rows: list[list[int]]
    names: list[ClaimRow]
    trips: list[int]

    def load(self, index: int, load: Load) -> ClaimSpan:
        """All claims of one load."""
        first = len(self.rows)
        claims = working_claims(self.plan, load.id)
        spoken_for = {claim.probe for claim in claims if claim.rank == "fault"}
        made = [self._claim(index, load, claim) for claim in claims]
        silent = load.silent
        if silent.state != "keep":
            made += [
                self._silent(index, load, probe)
                for probe in probes_of_load(self.plan, load)
                if probe not in spoken_for
            ]
        for row, name in sorted(made, key=lambda pair: pair[1].rank):
            if name.rank == RANK_CODES["trip"]:
                self.trips.append(len(self.rows))
            self.rows.append(row)
            self.names.append(name)
        hand = self._extra(index, load, RANK_HAND, WANT_OFF)
        idle = load.idle
        want = want_code(load, idle.want, level=idle.level, percent=idle.percent)
        rest = self._extra(index, load, RANK_REST, want)
        last = self._extra(index, load, RANK_REST, WANT_OFF)
        return ClaimSpan(first=first, hand=hand, rest=rest, last=last)

    def _extra(self, index: int, load: Load, rank: int, want: int) -> int:
        self.rows.append(self._row(index, rank, want))
        self.names.append(ClaimRow(load=load.id, rank=rank, claim=None, probe=None))
        return len(self.rows) - 1

    def _silent(self, index: int, load: Load, probe: str) -> tuple[list[int], ClaimRow]:
        want = WANT_ON if load.silent.state == "on" else WANT_OFF
        row = self._fault(index, want, probe, ALL_BUT_GOOD, ms(load.silent.after_s))
        return row, ClaimRow(load=load.id, rank=RANK_FAULT, claim=None, probe=probe)

    def _claim(self, index: int, load: Load, claim: Claim) -> tuple[list[int], ClaimRow]:
        rank = RANK_CODES[claim.rank]
        want = want_code(load, claim.want, level=claim.level, percent=claim.percent)
        pulse_ms = NONE
        if claim.want == "pulse":
            if claim.pulse_s is None:
                raise PlanError(
                    f"claim {claim.id}", got="a pulse without a length", allowed="seconds"
                )
            pulse_ms = ms(claim.pulse_s)
        if claim.condition is None:
            if claim.rank != "fault" or claim.probe is None:
                raise PlanError(
                    f"claim {claim.id}",
                    got="no condition",
                    allowed="a condition; of a fault a probe may stand in its place",
                )
            mask = sum(1 << QUALITY_NAMES.index(name) for name in set(claim.qualities))
            row = self._fault(index, want, claim.probe, mask, ms(claim.after_s))
            row[K_PULSE_MS] = pulse_ms
            return row, ClaimRow(load=load.id, rank=rank, claim=claim.id, probe=claim.probe)
        node = self.conditions.add(claim.condition, owner=claim.id)
        row = self._row(index, rank, want)
        row[K_NODE] = node
        row[K_PULSE_MS] = pulse_ms
        row[K_SIGNAL] = self.conditions.signal_of(node)
        read = probes_of_claim(self.plan, claim)
        name = ClaimRow(load=load.id, rank=rank, claim=claim.id, probe=read[0] if read else None)
        return row, name

    def _fault(self, index: int, want: int, probe: str, mask: int, after_ms: int) -> list[int]:
        row = self._row(index, RANK_FAULT, want)
        row[K_PROBE] = self.conditions.probes.find(probe)
        row[K_SIGNAL] = row[K_PROBE]
        row[K_QUALITIES] = mask
        row[K_AFTER_MS] = after_ms
        return row

    def _row(self, index: int, rank: int, want: int) -> list[int]:
        return row_of(
            K_INTS,
            {
                K_LOAD: index,
                K_RANK: rank,
                K_WANT: want,
                K_NODE: NONE,
                K_PROBE: NONE,
                K_PULSE_MS: NONE,
                K_SIGNAL: NONE,
            },
        )
