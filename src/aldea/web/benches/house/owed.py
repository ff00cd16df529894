"""What the plan, its certificates and the panel still ask of somebody."""

from dataclasses import dataclass
from typing import Literal

from aldea.core.base.figures import figure
from aldea.core.base.instants import MS_PER_DAY, local, stamp
from aldea.core.base.quantities import unit_of
from aldea.core.plan.changes import plan_changes
from aldea.core.plan.document import Plan
from aldea.core.rules.findings import gathered
from aldea.store.calibrations import Certificate
from aldea.web.shell.finding_place import finding_place

DUE_SOON_MS = 30 * MS_PER_DAY


@dataclass(frozen=True, slots=True, kw_only=True)
class Owed:
    """Something that somebody has to do."""

    state: Literal["fails", "owed", "not_shown"]
    head: str
    text: str
    link: str
    link_text: str


def owed_things(
    *,
    base: str,
    plan: Plan,
    running: Plan | None,
    running_number: int | None,
    certificates: list[Certificate],
    now_ms: int,
) -> list[Owed]:
    """What the plan, its certificates and the panel still ask of somebody."""
    owed = [
        Owed(
            state="fails" if row.finding.weight == "severe" else "not_shown",
            head=row.head,
            text=row.finding.fix,
            link=address,
            link_text=words,
        )
        for row in gathered(plan, local(now_ms, plan.house.time_zone).date())
        for address, words in (finding_place(plan, base, row.finding),)
    ]
    due = {c.number: c.due_ms for c in certificates}
    zone = plan.house.time_zone
    for rule in plan.bands:
        probe = plan.probe(rule.band.probe)
        load = plan.load(rule.load)
        if probe is None or load is None or load.stage != "working":
            continue
        link = f"{base}/calibrate/{probe.id}"
        unit = unit_of(probe.quantity)
        if probe.calibration.certificate is None:
            owed.append(
                Owed(
                    state="owed",
                    head=f"{probe.name} has no certificate.",
                    text=f"±{figure(probe.calibration.expanded_uncertainty)} {unit} is entered, "
                    f"not measured.",
                    link=link,
                    link_text="Calibrate",
                )
            )
        elif probe.calibration.certificate not in due:
            owed.append(
                Owed(
                    state="owed",
                    head=f"{probe.name}: certificate {probe.calibration.certificate} is not "
                    "on record here.",
                    text="It came with the plan file, without its measurements.",
                    link=link,
                    link_text="Calibrate",
                )
            )
        elif due[probe.calibration.certificate] < now_ms + DUE_SOON_MS:
            until = stamp(due[probe.calibration.certificate], zone)
            owed.append(
                Owed(
                    state="owed",
                    head=f"{probe.name}: the certificate ends {until}.",
                    text="Record two salts and a check again.",
                    link=link,
                    link_text="Calibrate",
                )
            )
    if running is None:
        owed.append(
            Owed(
                state="owed",
                head="Nothing is published yet.",
                text="No revision is built for the panel.",
                link=f"{base}/record",
                link_text="Record",
            )
        )
    elif count := len(plan_changes(running, plan)):
        owed.append(
            Owed(
                state="owed",
                head=f"The draft differs from revision {running_number}.",
                text=f"{count} value{'' if count == 1 else 's'} changed, not published.",
                link=f"{base}/record",
                link_text="Record",
            )
        )
    return owed
