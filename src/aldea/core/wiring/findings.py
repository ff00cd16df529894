"""Everything that is wrong with the wiring of a plan, the severe first."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from aldea.core.base.errors import InputError, PlanError
from aldea.core.base.memo import per_plan
from aldea.core.devices.finding import Check, Finding, Fix
from aldea.core.devices.loads.registry import LOAD_DEVICES
from aldea.core.devices.sensors.registry import SENSOR_DEVICES
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.seats import boot_coil
from aldea.core.wiring.checks.boxes import BOX_CHECKS
from aldea.core.wiring.checks.buses import BUS_CHECKS
from aldea.core.wiring.checks.cables import CABLE_CHECKS
from aldea.core.wiring.checks.contacts import CONTACT_CHECKS
from aldea.core.wiring.checks.controls import CONTROL_CHECKS
from aldea.core.wiring.checks.levels import LEVEL_CHECKS
from aldea.core.wiring.checks.loads import LOAD_CHECKS
from aldea.core.wiring.checks.multiplexers import MULTIPLEXER_CHECKS
from aldea.core.wiring.checks.owed import OWED_CHECKS
from aldea.core.wiring.checks.pins import PIN_CHECKS
from aldea.core.wiring.checks.probes import PROBE_CHECKS
from aldea.core.wiring.checks.supplies import SUPPLY_CHECKS
from aldea.core.wiring.seating import seated_quickly
from aldea.core.wiring.signals import signals

DEVICE_CHECKS: tuple[Check, ...] = tuple(
    dict.fromkeys(
        [check for sensor in SENSOR_DEVICES.values() for check in sensor.checks]
        + [check for load in LOAD_DEVICES.values() for check in load.checks]
    )
)
CHECKS: tuple[Check, ...] = (
    *PIN_CHECKS,
    *LEVEL_CHECKS,
    *BUS_CHECKS,
    *CABLE_CHECKS,
    *BOX_CHECKS,
    *CONTACT_CHECKS,
    *SUPPLY_CHECKS,
    *LOAD_CHECKS,
    *PROBE_CHECKS,
    *OWED_CHECKS,
    *DEVICE_CHECKS,
    *MULTIPLEXER_CHECKS,
    *CONTROL_CHECKS,
)
MOST_TRIED, MOST_TRIED_LARGE = 24, 4
LARGE = 600  # signals: one trial takes a quarter of a second then
ORDER = {"severe": 0, "warning": 1, "open": 2}


@per_plan
def findings(plan: Plan) -> tuple[Finding, ...]:
    """Every finding of a plan: the severe first, then warnings, then what is still open."""
    all_findings = [finding for check in CHECKS for finding in check(plan)]
    return tuple(sorted(all_findings, key=lambda finding: ORDER[finding.weight]))


@per_plan
def offered(plan: Plan) -> tuple[Finding, ...]:
    """The findings of the wiring with the fixes that fix."""
    return tried(plan, findings)


def tried(
    plan: Plan,
    find: Callable[[Plan], tuple[Finding, ...]],
    of: Callable[[Finding], bool] = lambda _: True,
) -> tuple[Finding, ...]:
    """Findings, or those `of` some thing, with the fixes that fix: each tried, making no other.

    A fix that does not hold loses its button, keeps its words and says why. What is still open has
    often one way alone: it keeps its button, and says what comes with it. The first `MOST_TRIED`
    are tried (of a large house fewer); those behind them are offered when some of these are fixed.
    """
    most = MOST_TRIED if len(signals(plan)) <= LARGE else MOST_TRIED_LARGE
    before = {finding.key for finding in find(plan)}
    changed: list[Finding] = []
    count = 0
    for finding in filter(of, find(plan)):
        trial = _Trial(after=None)
        if finding.apply is not None and count < most:
            count += 1
            trial = _trial(plan, finding, finding.apply, find, before)
        changed.append(
            replace(
                finding,
                press=finding.press if trial.after is not None else "",
                apply=_becomes(trial.after),
                fix=f"{finding.fix} {trial.words}".rstrip(),
            )
        )
    return tuple(changed)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Trial:
    """A fix that was tried: the plan after it, None where it does not hold; what to say of it."""

    after: Plan | None
    words: str = ""


def _trial(
    plan: Plan,
    finding: Finding,
    apply: Fix,
    find: Callable[[Plan], tuple[Finding, ...]],
    before: set[str],
) -> _Trial:
    try:
        after = _fixed(plan, apply)
    except (InputError, PlanError) as exc:
        return _Trial(after=None, words=f"No automatic fix: {exc.sentence}")
    left = find(after)
    if finding.key in {other.key for other in left}:
        return _Trial(after=None, words="No automatic fix: it would not be enough.")
    new = [other.head for other in left if other.key not in before]
    if not new and not pulls_in_more(plan, after):
        return _Trial(after=after)
    brings = " ".join(new[:2]) or "a relay pulls in while its board starts."
    if finding.weight == "open":
        return _Trial(after=after, words=f"This also causes: {brings}")
    return _Trial(after=None, words=f"No automatic fix: it would cause: {brings}")


def pulls_in_more(before: Plan, after: Plan) -> bool:
    """Whether some coil behaves worse at the start in one plan than in another.

    Worse is pulled in where it was not, or undecided where it rested; a relay that is new must
    rest, or be undecided at most.
    """
    coils = {relay.id: boot_coil(relay, before) for relay in before.relays}
    return any(
        _PRIORITY[boot_coil(relay, after)] > _PRIORITY[coils.get(relay.id)]
        for relay in after.relays
    )


_PRIORITY = {False: 0, None: 1, True: 2}


def _becomes(after: Plan | None) -> Fix | None:
    return None if after is None else lambda _plan: after


def _fixed(plan: Plan, apply: Fix) -> Plan:
    """A plan with a fix done and what it put in seated, where pins are left for it.

    Raises `InputError` or `PlanError` where that cannot be.
    """
    after = apply(plan)
    check_plan(after)
    known = {signal.id for signal in signals(plan)}
    new = [signal.id for signal in signals(after) if signal.id not in known]
    return (seated_quickly(after, new) if new and after.boards else None) or after


def severe(plan: Plan) -> tuple[Finding, ...]:
    """Those that stand between a plan and the panel."""
    return tuple(finding for finding in findings(plan) if finding.weight == "severe")


def could_not_avoid(plan: Plan) -> tuple[Finding, ...]:
    """The findings on pins that the solver gave: no dealing of its own could avoid them."""
    given = {(row.board, row.pin) for row in plan.assignments if row.by == "solver"}
    return tuple(after for after in findings(plan) if given.intersection(after.pins))
