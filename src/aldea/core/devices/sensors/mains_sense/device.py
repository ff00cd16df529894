"""An isolated detector across a switched mains output, in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.finding import Finding, put_changed
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.mains_sense.model import MAINS_SENSE, MainsSense
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Plan, Probe


def kept_apart(plan: Plan) -> Iterator[Finding]:
    """A detector that joins the board to mains."""
    for probe in plan.probes:
        sensor = probe.sensor
        if not isinstance(sensor, MainsSense) or sensor.isolation == "isolated":
            continue
        fixed = probe.model_copy(update={"sensor": MainsSense()})
        yield Finding(
            key=f"at-mains-{probe.id}",
            weight="severe",
            head=f"{probe.name} joins the board to mains.",
            why="One leg at neutral: with the plug turned the whole board is live, and so is a "
            "computer that is joined to it. Never join it to one.",
            fix="Use an isolated detector, between whose sides only light passes.",
            at=f"probe:{probe.id}",
            press="Mark an isolated one as fitted",
            apply=put_changed("probe", fixed),
        )


class MainsSenseDevice(SensorDevice[MainsSense]):
    """Its output side is a contact that wants a pull-up."""

    facts = MAINS_SENSE
    checks = (kept_apart,)
    asks: ClassVar[Asks] = {
        "isolation": Asked(
            label="Between mains and board",
            options=(
                ("isolated", "light alone: isolated"),
                ("tied_to_neutral", "one leg is tied to neutral"),
            ),
        )
    }

    def signals(self, probe: Probe, sensor: MainsSense) -> Iterator[Signal]:
        """One line."""
        yield probe_signal(probe, "out", "digital_in", wants_pull=True)


DEVICE = MainsSenseDevice()
