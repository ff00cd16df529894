"""What is wrong with the wiring: where, why, the mend, and the mend done where it can be.

A table of checks, one idea each. A finding is severe where somebody can be hurt, something burnt,
or a load would not do what the plan says; such a plan is published only with a written reason.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan
from aldea.core.plan.memo import per_plan

Weight = Literal["severe", "warning", "open"]
Mend = Callable[[Plan], Plan]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing that is wrong or missing.

    `at` is the owner that it is about (`probe:…`, `relay:…`, `load:…`), `pins` the pins to ring.
    `press` is what a button for the mend says; empty where only a hand can mend it.
    """

    key: str
    weight: Weight
    head: str
    why: str
    mend: str
    at: str
    pins: tuple[tuple[str, str], ...] = ()
    press: str = ""
    apply: Mend | None = None


def putting(kind: str, part: object) -> Mend:
    """A mend that puts a changed part in the place of the one with its id."""
    return lambda plan: put_part(plan, kind, part)


def on(change: Callable[[Plan, str], Plan], part_id: str) -> Mend:
    """A mend that changes a plan round one part."""
    return lambda plan: change(plan, part_id)


@per_plan
def findings(plan: Plan) -> tuple[Finding, ...]:
    """Every finding of a plan: the severe first, then warnings, then what is still open."""
    from aldea.core.wire.checks_circuits import CIRCUIT_CHECKS  # noqa: PLC0415  they use Finding
    from aldea.core.wire.checks_panel import PANEL_CHECKS  # noqa: PLC0415
    from aldea.core.wire.checks_pins import PIN_CHECKS  # noqa: PLC0415

    found: list[Finding] = []
    for check in (*PIN_CHECKS, *PANEL_CHECKS, *CIRCUIT_CHECKS):
        found.extend(check(plan))
    order = {"severe": 0, "warning": 1, "open": 2}
    return tuple(sorted(found, key=lambda finding: order[finding.weight]))


def severe(plan: Plan) -> tuple[Finding, ...]:
    """Those that stand between a plan and the panel."""
    return tuple(finding for finding in findings(plan) if finding.weight == "severe")


Check = Callable[[Plan], Iterator[Finding]]
