"""Everything that is wrong with the wiring of a plan, the severe first."""

from aldea.core.base.memo import per_plan
from aldea.core.devices.finding import Check, Finding
from aldea.core.devices.loads.registry import LOAD_DEVICES
from aldea.core.devices.sensors.registry import SENSOR_DEVICES
from aldea.core.plan.document import Plan
from aldea.core.wiring.checks.buses import BUS_CHECKS
from aldea.core.wiring.checks.contacts import CONTACT_CHECKS
from aldea.core.wiring.checks.controls import CONTROL_CHECKS
from aldea.core.wiring.checks.levels import LEVEL_CHECKS
from aldea.core.wiring.checks.multiplexers import MULTIPLEXER_CHECKS
from aldea.core.wiring.checks.owed import OWED_CHECKS
from aldea.core.wiring.checks.pins import PIN_CHECKS
from aldea.core.wiring.checks.probes import PROBE_CHECKS
from aldea.core.wiring.checks.supplies import SUPPLY_CHECKS

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
    *CONTACT_CHECKS,
    *SUPPLY_CHECKS,
    *PROBE_CHECKS,
    *OWED_CHECKS,
    *DEVICE_CHECKS,
    *MULTIPLEXER_CHECKS,
    *CONTROL_CHECKS,
)
ORDER = {"severe": 0, "warning": 1, "open": 2}


@per_plan
def findings(plan: Plan) -> tuple[Finding, ...]:
    """Every finding of a plan: the severe first, then warnings, then what is still open."""
    found = [finding for check in CHECKS for finding in check(plan)]
    return tuple(sorted(found, key=lambda finding: ORDER[finding.weight]))


def severe(plan: Plan) -> tuple[Finding, ...]:
    """Those that stand between a plan and the panel."""
    return tuple(finding for finding in findings(plan) if finding.weight == "severe")
