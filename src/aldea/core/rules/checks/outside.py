"""Checks of drives that others can move by their own button, above schedules and demands."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.claim_edits import put_claim
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.reading import working_claims
from aldea.core.plan.without_reading import with_usual_result


def moved_from_outside(plan: Plan) -> Iterator[Finding]:
    """A rule that shuts a drive below the level of overrides: its own button can block it."""
    for load in plan.loads:
        if load.kind != "pulse_drive":
            continue
        for claim in working_claims(plan, load.id):
            if claim.rank not in ("schedule", "demand") or claim.want != "shut":
                continue
            raised = claim.model_copy(update={"rank": "interlock"})
            yield Finding(
                key=f"outside-{claim.id}",
                weight="open",
                head=f"{load.name}: its own button can block a rule that shuts it.",
                why=f"Moved by its own button it is overridden {_how_long(load)}; an override is "
                f"stronger than a {claim.rank} rule.",
                mend="Leave it where a person may keep it open, or make the rule an interlock.",
                at=f"claim:{claim.id}",
                field="rank",
                press="Make it an interlock",
                apply=lambda plan, load=load, raised=raised: put_claim(  # type: ignore[misc]
                    plan, with_usual_result(load, raised)
                ),
            )


def _how_long(load: Load) -> str:
    if load.hand.school == "time":
        return f"for {span(load.hand.for_s)}"
    if load.hand.school == "agreement":
        return "until its rules want the same"
    return "until it is given back"


OUTSIDE_CHECKS: tuple[Check, ...] = (moved_from_outside,)
