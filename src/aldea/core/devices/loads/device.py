"""What a kind of load does in a plan: what holds for most, and what each says of its own."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Literal

from aldea.core.devices.asked import Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.finding import Check
from aldea.core.devices.loads.facts import LoadFacts, Nature
from aldea.core.devices.loads.mains import MainsWires, Strip
from aldea.core.devices.part_count import PartCount
from aldea.core.devices.signal import Signal
from aldea.core.plan.document import House, Load, Plan
from aldea.core.plan.panel import RelayOutput

Drive = Literal["steady", "toggle", "pulse"]
Roles = tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactPlan:
    """How a load's contacts follow its state, as the last stage of a scan has it.

    `steady` contacts hold a combination for each state and close `dead_s` after the last opening;
    a `toggle` changes over and is blind for `dead_s`; a `pulse` lasts `pulse_s`, and the load moves
    for `dead_s` from its beginning. `exclusive` roles never conduct together.
    """

    drive: Drive = "steady"
    dead_s: float = 0.0
    pulse_s: float = 0.0
    exclusive: tuple[tuple[str, str], ...] = ()


class LoadDevice:
    """One kind of load. A kind overrides what is its own; the rest holds as it stands here.

    `asks` are the figures that a form asks for, under `title`; `checks` what may be wrong with a
    load of this kind. `volt_free` contacts switch no mains; `in_series` ones are drawn joined;
    `off_word` says what wanting “off” of it means, where that is no state.
    `changes_over` says that both contacts carry; `no_contactor` why none can stand in the circuit.
    """

    facts: ClassVar[LoadFacts]
    title: ClassVar[str] = ""
    asks: ClassVar[Asks] = {}
    checks: ClassVar[tuple[Check, ...]] = ()
    state_words: ClassVar[tuple[str, str]] = ("Off", "On")
    off_word: ClassVar[str] = ""
    volt_free: ClassVar[bool] = False
    in_series: ClassVar[bool] = False
    changes_over: ClassVar[bool] = False
    no_contactor: ClassVar[str] = ""

    def roles(self, load: Load) -> Roles:
        """The relay roles that it needs."""
        return ("on",)

    def states(self, load: Load) -> tuple[Roles, ...]:
        """The roles that conduct in each state, state 0 (off) first."""
        return ((), self.roles(load))

    def contacts(self, load: Load) -> ContactPlan:
        """How its contacts follow its state."""
        return ContactPlan()

    def signals(self, load: Load, relays: tuple[RelayOutput, ...]) -> Iterator[Signal]:
        """Its own lines beside the coils of its relays."""
        yield from ()

    def strip(self, relays: tuple[RelayOutput, ...]) -> Strip:
        """Its terminals on X1: for each number the sides of it, with the relay behind each."""
        return tuple((("", relay.id),) for relay in relays)

    def mains(self, load: Load, plan: Plan, wires: MainsWires) -> Iterator[Conductor]:
        """From the feed through its contacts to the load; neutral and earth are everybody's."""
        for relay, label in zip(plan.relays_of(load.id), wires.labels, strict=True):
            start = yield from wires.through(relay, wires.live, label)
            yield from wires.to_load(start, label)

    def low_voltage(
        self,
        load: Load,
        relays: tuple[RelayOutput, ...],
    ) -> Iterator[tuple[str, str, str]]:
        """Conductors of its own below mains: start, end, note."""
        yield from ()

    def worst_nature(self, load: Load) -> Nature:
        """What kind of current its contact must bear."""
        return load.nature

    def current_a(self, load: Load, house: House) -> float:
        """What its own figures let flow, A, where they know more than its stated power."""
        return 0.0

    def role_share_1(self, load: Load, role: str, house: House) -> float:
        """What one of its relays carries at most, as a share of the load's highest current."""
        return 1.0

    def circuit(self, load: Load, plan: Plan) -> Circuit | None:
        """Its special circuit, if it makes one."""
        return None

    def parts(self, load: Load) -> Iterator[PartCount]:
        """What it needs beyond its relays."""
        yield from ()

    def isolation(self, load: Load, labels: list[str]) -> Iterator[str]:
        """What the door sheet says of it before anybody works on the panel."""
        yield from ()

    def state_word(self, state: int) -> str:
        """Its state as people say it."""
        return self.state_words[1 if state else 0]
