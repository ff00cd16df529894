"""What the rows of a compiled plan mean, and the rows that parts of a plan have."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from aldea.core.base.errors import PlanError

MS_PER_S = 1000


def ms(seconds: float) -> int:
    """Seconds as whole milliseconds."""
    return round(seconds * MS_PER_S)


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleRow:
    """What a row of the rules table means.

    `rule` is the plan's rule; None for what a load is at idle, the override, and a fault that its
    `silent` says. `probe` is the one that it looks at, where it looks at one.
    """

    load: str
    priority: int
    rule: str | None
    probe: str | None


@dataclass(slots=True)
class Rows:
    """Rows by name, given in the order in which they are first asked for."""

    kind: str
    known: dict[str, int] = field(default_factory=dict)

    @classmethod
    def of(cls, kind: str, names: Iterable[str]) -> "Rows":
        """Rows for names that are known before."""
        return cls(kind, {name: row for row, name in enumerate(dict.fromkeys(names))})

    def give(self, name: str) -> int:
        """The row of a name, a new one where it has none."""
        return self.known.setdefault(name, len(self.known))

    def find(self, name: str) -> int:
        """The row of a name; `PlanError` where there is none."""
        row = self.known.get(name)
        if row is None:
            there = ", ".join(list(self.known)[:12])
            raise PlanError(
                f"{self.kind} {name}",
                got="none of that id",
                allowed=f"one of {there}" if there else f"a {self.kind} that is set to work",
                fix=f"Choose another {self.kind}, or remove the rule that names it.",
            )
        return row

    @property
    def names(self) -> tuple[str, ...]:
        """Names in the order of their rows."""
        return tuple(self.known)
