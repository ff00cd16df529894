"""What the rows of a compiled plan mean, and the rows that parts of a plan have."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from aldea.core.base.errors import PlanError

MS_PER_S = 1000


def ms(seconds: float) -> int:
    """Seconds as whole milliseconds."""
    return round(seconds * MS_PER_S)


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimRow:
    """What a row of the claims table means.

    `claim` is the plan's claim; None for what a load is at idle, the hand, and a fault that its
    `silent` says. `probe` is the one that it looks at, where it looks at one.
    """

    load: str
    rank: int
    claim: str | None
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
            raise PlanError(
                f"{self.kind} {name}",
                got="none of that id",
                allowed=", ".join(list(self.known)[:12]) or f"no {self.kind} is set to work",
                mend=f"Choose another {self.kind}, or remove the rule that names it.",
            )
        return row

    @property
    def names(self) -> tuple[str, ...]:
        """Names in the order of their rows."""
        return tuple(self.known)
