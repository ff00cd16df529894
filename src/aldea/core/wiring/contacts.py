"""What the relays of a plan do without its program: in the dark, and while the board starts.

"Conducts" is whether the relay lets its load's circuit through; the coil follows from the contact
kind, the pin's level from the coil and the module's polarity.
"""

from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.base.memo import per_plan
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.seats import boot_coil


@dataclass(frozen=True, slots=True, kw_only=True)
class WiredContacts:
    """The relays of a plan, and which conduct before the program runs and without supply."""

    relays: tuple[RelayOutput, ...]
    boot: dict[str, bool]
    unpowered: dict[str, bool]

    @staticmethod
    def coil(relay: RelayOutput, conducts: bool) -> bool:
        """Whether the relay's coil is energised while its contact conducts or not."""
        return conducts != (relay.contact == "nc")

    @staticmethod
    def level(relay: RelayOutput, conducts: bool) -> bool:
        """Whether the pin is high then."""
        return WiredContacts.coil(relay, conducts) != (relay.active == "low")

    @staticmethod
    def conducts(relay: RelayOutput, level: int) -> bool:
        """Whether its contact conducts at a level of its pin; without power (−1) as it rests."""
        coil = level >= 0 and (level == 1) != (relay.active == "low")
        return coil != (relay.contact == "nc")


@per_plan
def wired_contacts(plan: Plan) -> WiredContacts:
    """The relays of a plan.

    Raises `PlanError` where a load lacks a relay that one of its states needs, and where two
    exclusive relays would conduct before the program runs.
    """
    wired = WiredContacts(
        relays=plan.relays,
        boot={r.id: bool(boot_coil(r, plan)) != (r.contact == "nc") for r in plan.relays},
        unpowered={r.id: r.contact == "nc" for r in plan.relays},
    )
    for load in plan.loads:
        own = {relay.role: relay for relay in plan.relays_of(load.id)}
        if not own:
            continue
        device = load_device(load)
        missing = {role for state in device.states(load) for role in state} - set(own)
        if missing:
            raise PlanError(
                f"relays of {load.id}",
                got="no relay for " + ", ".join(sorted(missing)),
                allowed="a relay for every role",
                fix="Propose its relays at Wire.",
            )
        for first, second in device.contacts(load).exclusive:
            if first in own and second in own:
                _never_both(wired, own[first].id, own[second].id)
    for group in plan.exclusive:
        for index, relay in enumerate(group.relays):
            for other in group.relays[index + 1 :]:
                _never_both(wired, relay, other)
    return wired


def _never_both(contacts: WiredContacts, first: str, second: str) -> None:
    for now in (contacts.boot, contacts.unpowered):
        if now.get(first) and now.get(second):
            raise PlanError(
                f"relays {first} and {second}",
                got="two exclusive contacts that conduct before the program runs",
                allowed="at most one",
                fix="Use normally open contacts, and pins that stay quiet while the board starts.",
            )
