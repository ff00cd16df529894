"""One fault rehearsed by itself: what a load does from its begin until two hours after its end."""

from dataclasses import dataclass
from typing import Literal

from aldea.core.base.instants import MS_PER_MINUTE
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.stretches import Stretch

Failing = Literal[
    "silent",
    "stuck",
    "beyond",
    "open",
    "closed",
    "network",
    "clock",
    "power",
    "dark",
    "wall",
    "lit",
]
LENGTHS_MS = {"power": 4 * MS_PER_MINUTE, "dark": 4 * MS_PER_MINUTE, "wall": 0, "lit": 0}
THROWN: tuple[Failing, ...] = ("wall", "lit")
USUAL_MS = 120 * MS_PER_MINUTE
AFTER_MS = 120 * MS_PER_MINUTE


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """What fails in [from, to), and of which probes; `dark` is a cut that loses the clock too.

    `wall` and `lit` are the load's wall switch, thrown while it is off and while it is on.
    """

    what: Failing
    load: str
    probes: tuple[str, ...]
    from_ms: int
    to_ms: int

    @property
    def faults(self) -> Faults:
        """As it is put into a replay."""
        span = (self.from_ms, self.to_ms)
        rows = tuple((probe, *span) for probe in self.probes)
        levels = tuple((*row, int(self.what == "closed")) for row in rows)
        by_fault = {
            "silent": Faults(silences=rows),
            "network": Faults(silences=rows),
            "stuck": Faults(stuck=rows),
            "beyond": Faults(beyond=rows),
            "open": Faults(contacts=levels),
            "closed": Faults(contacts=levels),
            "clock": Faults(clocks=(span,)),
            "power": Faults(cuts=(span,)),
            "wall": Faults(throws=((self.load, self.from_ms),)),
            "lit": Faults(throws=((self.load, self.from_ms),)),
            "dark": Faults(cuts=(span,), clocks=((self.from_ms, self.to_ms + USUAL_MS),)),
        }
        return by_fault[self.what]


def trial_at(
    stretches: list[Stretch],
    what: Failing,
    load: str,
    probes: tuple[str, ...],
    *,
    at_ms: int,
    end_ms: int,
) -> Trial:
    """A fault that begins at an instant while the load is on, or the last time before that it was.

    A wall switch that puts it on is thrown while it is off. So much of the record follows it that
    its end is seen too. A load that was never so is tried as it is.
    """
    length_ms = LENGTHS_MS.get(what, USUAL_MS)
    latest_ms = min(at_ms, end_ms - length_ms - AFTER_MS)
    running = [s for s in stretches if bool(s.state) != (what == "wall") and s.start_ms < latest_ms]
    from_ms = latest_ms
    if running and running[-1].end_ms <= latest_ms:
        last = running[-1]
        from_ms = (last.start_ms + last.end_ms) // 2
    from_ms -= from_ms % 1000
    return Trial(what=what, load=load, probes=probes, from_ms=from_ms, to_ms=from_ms + length_ms)


def changes_in(stretches: list[Stretch], trial: Trial) -> list[Stretch]:
    """The stretches in which the state is another than before, from the fault to after its end."""
    until_ms = trial.to_ms + AFTER_MS
    # What a throw ends is told too: of all else it is enough what stands from then on.
    since_ms = trial.from_ms - (trial.what in THROWN)
    seen = [s for s in stretches if s.end_ms > since_ms and s.start_ms < until_ms]
    changes: list[Stretch] = []
    for stretch in seen:
        if not changes or (stretch.state, stretch.priority) != (
            changes[-1].state,
            changes[-1].priority,
        ):
            changes.append(stretch)
    return changes
