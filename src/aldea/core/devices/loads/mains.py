"""The mains side of a load: terminals on the strip X1, and how a conductor is written there."""

from collections.abc import Callable, Generator, Iterator
from dataclasses import dataclass

from aldea.core.devices.conductor import Conductor
from aldea.core.plan.panel import Colours, RelayOutput

Strip = tuple[tuple[tuple[str, str], ...], ...]
Mains = Callable[[RelayOutput], bool]


def outlet(relay: RelayOutput) -> str:
    """The contact's outgoing terminal: 14 of a normally open contact, 12 of a closed one."""
    return f"{relay.id.upper()}:{'14' if relay.contact == 'no' else '12'}"


@dataclass(frozen=True, slots=True, kw_only=True)
class MainsWires:
    """How the conductors of one load are written: its feed, its terminals, its current.

    `labels` are its terminals on X1; `has_contactor` tells whether one stands behind a relay.
    """

    load_id: str
    load_name: str
    place: str
    feed: str
    labels: tuple[str, ...]
    current_a: float
    colours: Colours
    has_contactor: Mains

    @property
    def live(self) -> str:
        """Where its line begins."""
        return f"{self.feed}:L"

    def wire(
        self,
        number: str,
        start: str,
        end: str,
        colour: str,
        note: str = "",
        *,
        carries_load: bool = True,
    ) -> Conductor:
        """A conductor of this load."""
        return Conductor(
            number=number,
            start=start,
            end=end,
            net="mains",
            colour=colour,
            section="electrician decides",
            owner=f"load:{self.load_id}",
            place=self.place,
            feed=self.feed,
            current_a=self.current_a if carries_load else 0.0,
            note=note,
        )

    def through(
        self, relay: RelayOutput, source: str, mark: str
    ) -> Generator[Conductor, None, str]:
        """From a source through a relay's contact, or the contactor whose coil it switches.

        Returns the terminal where the current comes out. A contactor's coil has a line of its own,
        so that of two in series neither waits for the other.
        """
        name = relay.id.upper()
        series = source != self.live
        colour = self.colours.switched if series else self.colours.line
        note = "two contacts in series: both must weld to fail" if series else ""
        if not self.has_contactor(relay):
            yield self.wire(f"L{mark}", source, f"{name}:11", colour, note)
            return outlet(relay)
        contactor = f"KM {name}"
        coil, line, switched = "coil", self.colours.line, self.colours.switched
        coil_out = f"{contactor}:A1"
        yield self.wire(f"L{mark}", self.live, f"{name}:11", line, coil, carries_load=False)
        yield self.wire(f"{mark}c", outlet(relay), coil_out, switched, coil, carries_load=False)
        yield self.wire(
            f"{mark}n", "N bar:N", f"{contactor}:A2", self.colours.neutral, coil, carries_load=False
        )
        yield self.wire(f"{mark}m", source, f"{contactor}:1", colour, note)
        return f"{contactor}:2"

    def to_load(
        self, start: str, label: str, end: str = "L", note: str = ""
    ) -> Iterator[Conductor]:
        """From a contact over its terminal on X1 to the load."""
        strip = f"X1:{label}"
        yield self.wire(label, start, strip, self.colours.switched, note)
        yield self.wire(f"{label}′", strip, f"{self.load_name}:{end}", self.colours.switched, note)

    def neutral_and_earth(self) -> Iterator[Conductor]:
        """What every mains load has."""
        first, name = self.labels[0], self.load_name
        yield self.wire(f"N{first}", "N bar:N", f"{name}:N", self.colours.neutral)
        yield self.wire(
            f"PE{first}",
            "PE bar:PE",
            f"{name}:PE",
            self.colours.earth,
            "where it has one",
            carries_load=False,
        )
