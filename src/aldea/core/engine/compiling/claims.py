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
from aldea.core.engine.tables.loads import ClaimSpec
from aldea.core.plan.conditions import Beyond, Every
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.reading import probes_of_claim, unspoken_probes, working_claims
from aldea.core.plan.without_reading import by_its_rule

NEVER_REACHED = 1e30  # by no reading: true by the lack of one alone, from the last that was good
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
    rows: list[ClaimSpec]
    names: list[ClaimRow]
    trips: list[int]

    def load(self, index: int, load: Load) -> ClaimSpan:
        """All claims of one load."""
        first = len(self.rows)
        claims = working_claims(self.plan, load.id)
        unspoken = unspoken_probes(self.plan, load)
        made = [self._claim(index, load, by_its_rule(load, claim, unspoken)) for claim in claims]
        if load.silent.state != "keep" and unspoken:
            if load.silent.each == "rule" and len(unspoken) > 1:
                made.append(self._all_silent(index, load, unspoken))
            else:
                made += [self._silent(index, load, probe) for probe in unspoken]
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

    def _silent(self, index: int, load: Load, probe: str) -> tuple[ClaimSpec, ClaimRow]:
        want = WANT_ON if load.silent.state == "on" else WANT_OFF
        row = self._fault(index, want, probe, ALL_BUT_GOOD, ms(load.silent.after_s))
        return row, ClaimRow(load=load.id, rank=RANK_FAULT, claim=None, probe=probe)

    def _all_silent(
        self, index: int, load: Load, probes: tuple[str, ...]
    ) -> tuple[ClaimSpec, ClaimRow]:
        """The fault of a load that goes on while one probe of its is good: all are lost."""
        lost = tuple(
            Beyond(
                kind="above",
                probe=probe,
                value=NEVER_REACHED,
                without_reading="true",
                unchanged_for_s=load.silent.after_s,
            )
            for probe in probes
        )
        row = self._row(index, RANK_FAULT, WANT_ON if load.silent.state == "on" else WANT_OFF)
        row.node = self.conditions.add(Every(of=lost), owner=f"{load.id} all lost")
        row.signal = self.conditions.signal_of(row.node)
        return row, ClaimRow(load=load.id, rank=RANK_FAULT, claim=None, probe=probes[0])

    def _claim(self, index: int, load: Load, claim: Claim) -> tuple[ClaimSpec, ClaimRow]:
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
            row.pulse_ms = pulse_ms
            return row, ClaimRow(load=load.id, rank=rank, claim=claim.id, probe=claim.probe)
        node = self.conditions.add(claim.condition, owner=claim.id)
        row = self._row(index, rank, want)
        row.node = node
        row.pulse_ms = pulse_ms
        row.signal = self.conditions.signal_of(node)
        read = probes_of_claim(self.plan, claim)
        name = ClaimRow(load=load.id, rank=rank, claim=claim.id, probe=read[0] if read else None)
        return row, name

    def _fault(self, index: int, want: int, probe: str, mask: int, after_ms: int) -> ClaimSpec:
        row = self._row(index, RANK_FAULT, want)
        row.probe = row.signal = self.conditions.probes.find(probe)
        row.qualities = mask
        row.after_ms = after_ms
        return row

    def _row(self, index: int, rank: int, want: int) -> ClaimSpec:
        return ClaimSpec(
            load=index,
            rank=rank,
            want=want,
            node=NONE,
            probe=NONE,
            signal=NONE,
            pulse_ms=NONE,
        )
