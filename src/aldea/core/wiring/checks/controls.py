"""Checks of controls: remote codes and selector positions that stand twice."""

from collections import Counter
from collections.abc import Iterator

from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Plan
from aldea.core.wiring.controls import beyond_steps, steps_of


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
                    fix="Capture one of the buttons again, or remove one.",
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
                    fix="Turn it through all positions again; a contact may be loose.",
                    at=f"control:{control.id}",
                )


def controls_reach(plan: Plan) -> Iterator[Finding]:
    """A step that a load does not have; a position, a press or a code that wants nothing."""
    for control in plan.controls:
        for want in control.wants:
            step = beyond_steps(plan, want)
            load = plan.load(want.load or "")
            if step is None or load is None:
                continue
            yield Finding(
                key=f"beyond-{control.id}-{load.id}-{step}",
                weight="warning",
                head=f"{control.name} requests step {step} of {load.name}.",
                why=f"It has {steps_of(load)}.",
                fix="Choose a step that it has, at Controls.",
                at=f"control:{control.id}",
            )
        if control.kind not in ("lamp", "remote") and not control.wants and control.load is None:
            yield Finding(
                key=f"nothing-{control.id}",
                weight="open",
                head=f"{control.name}: what does it do?",
                why="The control is for no load and does nothing.",
                fix="Set its load at Lay out, or at Controls what each press or position does.",
                at=f"control:{control.id}",
            )


CONTROL_CHECKS: tuple[Check, ...] = (codes_apart, controls_reach)
