"""The next change of a load, and what it hangs on."""

from dataclasses import dataclass
from enum import StrEnum

from aldea.core.engine.compiled_plan import RuleRow


class HangsOn(StrEnum):
    """What a foreseen change hangs on, from the surest to the least sure."""

    NOTHING = "nothing"  # the calendar or a hand decides, and nothing stronger can
    STRONGER = "stronger"  # the calendar decides, unless something over it speaks
    STEADY = "steady"  # both runs make it, but what decides then reads something
    USUAL = "usual"  # readings as they usually go bring it
    HELD = "held"  # only readings that stay as they are bring it


@dataclass(frozen=True, slots=True, kw_only=True)
class Ahead:
    """The next change of a load's state: when, to what, who decides then, what it hangs on.

    With `USUAL` it is expected between `early_ms` and `late_ms`, as the days before went.
    """

    t_ms: int
    state: int
    decided_by: RuleRow | None
    hangs_on: HangsOn
    early_ms: int = 0
    late_ms: int = 0
