"""What one load did: stretches of one state, decided by one thing, end to end."""

from bisect import bisect_right
from dataclasses import dataclass

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import RuleRow
from aldea.core.engine.replay import Run


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """From `start_ms` up to `end_ms` the load was in one state for one reason.

    `decided_by` is None in the dark, `author` who decides with a hand. `cited` is the rule that is
    the cause: the one that decides, or the demand that matters where no rule applies; None
    where none ever does. `wanted` is the state that is wanted, `inhibit` what delays it. `value`
    is the reading that it looks at when the stretch began. `next_state` is the state after it,
    None at the end of the run. `cause_ms` is when the present state began.
    """

    start_ms: int
    end_ms: int
    state: int
    decided_by: RuleRow | None
    cited: RuleRow | None
    author: str
    wanted: int
    inhibit: int
    value: float
    cause_ms: int
    next_change_ms: int | None
    next_state: int | None

    @property
    def priority(self) -> int:
        """Priority of what decides, 0 in the dark."""
        return self.decided_by.priority if self.decided_by else 0


def stretches_of(run: Run, load: int) -> list[Stretch]:
    """The whole run of one load, from its first scan to its end, without a hole."""
    rows, values = run.of_load(load)
    table = rows.tolist()
    changed_at: list[int] = []
    cause_ms = run.start_ms
    for row in table:
        if row[lay.E_FROM] != row[lay.E_TO]:
            cause_ms = row[lay.E_T_MS]
        changed_at.append(cause_ms)
    next_ms: int | None = None
    next_state: int | None = None
    stretches: list[Stretch] = []
    end_ms = run.end_ms
    for row, value, cause in zip(
        reversed(table), reversed(values.tolist()), reversed(changed_at), strict=True
    ):
        if end_ms > row[lay.E_T_MS]:  # two events of one instant: the later one stands
            stretches.append(
                Stretch(
                    start_ms=row[lay.E_T_MS],
                    end_ms=end_ms,
                    state=row[lay.E_TO],
                    decided_by=run.rule_row(row[lay.E_DECIDER]),
                    cited=run.rule_row(row[lay.E_CITED]),
                    author=run.author(row[lay.E_DECIDED_BY]),
                    wanted=row[lay.E_WANT],
                    inhibit=row[lay.E_INHIBIT],
                    value=value,
                    cause_ms=cause,
                    next_change_ms=next_ms,
                    next_state=next_state,
                )
            )
            end_ms = row[lay.E_T_MS]
        if row[lay.E_FROM] != row[lay.E_TO]:
            next_ms, next_state = row[lay.E_T_MS], row[lay.E_TO]
    return stretches[::-1]


def stretch_at(stretches: list[Stretch], t_ms: int) -> Stretch | None:
    """The stretch that holds an instant; None before the first."""
    index = bisect_right([stretch.start_ms for stretch in stretches], t_ms) - 1
    return stretches[index] if index >= 0 else None
