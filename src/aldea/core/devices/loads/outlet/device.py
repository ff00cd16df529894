"""An outlet in a plan: its contact is judged by the worst that may be plugged in."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.loads.device import LoadDevice
from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.outlet.model import OUTLET, Outlet
from aldea.core.plan.document import House, Load

WORST: Nature = "capacitive"  # of what people plug in: the supplies of lamps and computers
PLUGGED = (
    ("anything", "any load: rated for the worst case"),
    ("resistive", "heaters alone"),
    ("motor", "motors"),
    ("lamp", "lamps"),
    ("capacitive", "electronic supplies"),
)


class OutletDevice(LoadDevice):
    """Nobody knows what hangs on it: it is taken to draw all that its feed lets flow."""

    facts = OUTLET
    title = "Outlet"
    asks: ClassVar[Asks] = {
        "plugged": Asked(label="May be plugged in", options=PLUGGED),
        "most_a": Asked(label="Its feed lets flow", unit="A", note="as its breaker"),
    }

    def worst_nature(self, load: Load) -> Nature:
        """Of what may be plugged in, what is hardest on a contact."""
        plugged = (load.outlet or Outlet()).plugged
        return WORST if plugged == "anything" else plugged

    def current_a(self, load: Load, house: House) -> float:
        """All that its feed lets flow."""
        return (load.outlet or Outlet()).most_a

    def isolation(self, load: Load, labels: list[str]) -> Iterator[str]:
        """What is plugged in goes on by itself."""
        if labels:
            yield f"{load.name}: what is plugged in may start without warning."


DEVICES = (OutletDevice(),)
