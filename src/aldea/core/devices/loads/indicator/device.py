"""An indicator lamp or a sounder in a plan: a pin may drive it without a relay."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.loads.device import LoadDevice, Roles
from aldea.core.devices.loads.indicator.model import INDICATOR, SOUNDER
from aldea.core.devices.signal import Signal
from aldea.core.plan.document import Load
from aldea.core.plan.panel import RelayOutput


def _patterns(line: str) -> tuple[tuple[float, ...], ...]:
    """Patterns as typed, a semicolon between, each as seconds on, off, on, off."""
    rows = [row.replace(",", " ").split() for row in line.split(";") if row.strip()]
    return tuple(tuple(float(part) for part in row) for row in rows)


class IndicatorDevice(LoadDevice):
    """It shows itself in a pattern."""

    facts = INDICATOR
    title = "Pattern"
    asks: ClassVar[Asks] = {
        "on_s": Asked(label="On", unit="s"),
        "off_s": Asked(label="Off", unit="s"),
        "others": Asked(
            label="Patterns 2 and on",
            note="seconds on, off, on, off",
            write=lambda others: "; ".join(" ".join(short(part) for part in one) for one in others),
            read=_patterns,
            example="0.2 0.2 0.2 1; 1 1",
        ),
    }

    def roles(self, load: Load) -> Roles:
        """None: a pin may drive it."""
        return ()

    def states(self, load: Load) -> tuple[Roles, ...]:
        """Its relay, where it has one after all."""
        return ((), ("on",))

    def signals(self, load: Load, relays: tuple[RelayOutput, ...]) -> Iterator[Signal]:
        """The line that drives it, where no relay does."""
        if relays:
            return
        yield Signal(
            id=f"load:{load.id}.drive",
            owner=f"load:{load.id}",
            group=f"load:{load.id}",
            needs=frozenset({"digital_out"}),
            name=load.name,
            place=load.place,
            drives=True,
        )


class SounderDevice(IndicatorDevice):
    """It is heard in a pattern."""

    facts = SOUNDER


DEVICES = (IndicatorDevice(), SounderDevice())
