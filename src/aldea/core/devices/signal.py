"""A signal: one line of a device that wants a pin."""

from dataclasses import dataclass

from aldea.core.plan.document import Probe
from aldea.core.plan.panel import Capability


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """One line to a pin.

    Signals of one `group` sit on one controller (or on what hangs on it). Signals with the same
    `share` may sit on one pin of a board: they are a bus. `volts` is what arrives at the pin.
    """

    id: str
    owner: str  # probe:…, control:…, relay:…, board:…, load:…
    group: str
    needs: frozenset[Capability]
    name: str
    place: str
    share: str = ""
    wants_pull: bool = False
    drives: bool = False
    bare_contact: bool = False
    volts: float = 0.0
    address: int | None = None
    only_board: str = ""


def probe_signal(
    probe: Probe,
    line: str,
    need: Capability,
    *also: Capability,
    share: str = "",
    wants_pull: bool = False,
    drives: bool = False,
    bare_contact: bool = False,
    volts: float = 0.0,
    address: int | None = None,
) -> Signal:
    """A line of a probe, `probe:tape.sense`, by what its pin must be able to do."""
    owner = f"probe:{probe.id}"
    return Signal(
        id=f"{owner}.{line}",
        owner=owner,
        group=owner,
        needs=frozenset((need, *also)),
        name=probe.name,
        place=probe.place,
        share=share,
        wants_pull=wants_pull,
        drives=drives,
        bare_contact=bare_contact,
        volts=volts,
        address=address,
    )
