"""Where a finding is fixed by hand: the page, and on it the field."""

from aldea.core.devices.finding import Finding
from aldea.core.plan.document import Plan

FAILSAFE = {
    "max_on_s": "max_on_s",
    "on_sensor_fault.state": "fault_state",
    "power_return.policy": "policy",
}
LAID_OUT = ("load", "probe", "place", "supply", "board", "control")


def finding_place(plan: Plan, base: str, finding: Finding) -> tuple[str, str]:
    """The address of the page with the field, and what a link to it says."""
    kind, _, part_id = finding.at.partition(":")
    last = finding.field.rpartition(".")[2]
    if kind == "rule":
        rule = next((rule for rule in plan.rules if rule.id == part_id), None)
        load = rule.load if rule is not None and rule.load else ""
        field = f"#f-{'' if finding.field == last else 'c_'}{last}" if last else ""
        return f"{base}/rule?load={load}&rule={part_id}{field}", "To the rule"
    if kind == "load" and finding.field in FAILSAFE:
        at = f"#f-{FAILSAFE[finding.field]}"
        return f"{base}/rule/failsafe?load={part_id}{at}", "To the failsafe and limits"
    if kind == "load" and finding.field == "rules":
        return f"{base}/rule?load={part_id}", "To its rules"
    if kind in ("schedule", "memory"):
        return f"{base}/rule/house?part={finding.at}", f"To the {kind}"
    if kind in LAID_OUT and finding.field:
        return f"{base}/layout?part={finding.at}#f-{last}", f"To the {kind} at Lay out"
    return f"{base}/wire?part={finding.at}", f"To the {kind or 'panel'} at Wire"
