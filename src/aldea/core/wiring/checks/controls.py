"""Checks of controls: remote codes and selector positions that stand twice."""

from collections import Counter
from collections.abc import Iterator

from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Plan


def codes_apart(plan: Plan) -> Iterator[Finding]:
    """Remote codes and selector positions that stand twice."""
    codes = Counter(code.code for c in plan.controls for code in c.codes)
    for control in plan.controls:
        for code in control.codes:
            if codes[code.code] > 1:
                yield Finding(
                    key=f"code-{control.id}-{code.name}",
                    weight="severe",
                    head=f"Code {code.code} of “{code.name}” stands twice.",
                    why="One press would do two things.",
                    mend="Capture one of the buttons again, or take one away.",
                    at=f"control:{control.id}",
                )
        patterns = Counter(position.pattern for position in control.positions)
        for position in control.positions:
            if patterns[position.pattern] > 1:
                yield Finding(
                    key=f"position-{control.id}-{position.name}",
                    weight="warning",
                    head=f"{control.name}: position {position.name} looks like another.",
                    why=f"The contacts show {position.pattern} in both.",
                    mend="Turn it through again; a contact may be loose.",
                    at=f"control:{control.id}",
                )


CONTROL_CHECKS: tuple[Check, ...] = (codes_apart,)
