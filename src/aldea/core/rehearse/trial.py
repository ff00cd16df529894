"""One fault rehearsed by itself: what a load does from its begin until two hours after its end."""

from dataclasses import dataclass

from aldea.core.base.instants import MS_PER_MINUTE
from aldea.core.rehearse.rehearsal import Faults
from aldea.core.rehearse.stretches import Stretch

SILENT_MS = 120 * MS_PER_MINUTE
CUT_MS = 4 * MS_PER_MINUTE
AFTER_MS = 120 * MS_PER_MINUTE


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A fault [from, to) of a probe, or of the power where `probe` is empty."""

    probe: str
    from_ms: int
    to_ms: int

    @property
    def faults(self) -> Faults:
        """As it is put into a replay."""
        if self.probe:
            return Faults(silences=((self.probe, self.from_ms, self.to_ms),))
        return Faults(cuts=((self.from_ms, self.to_ms),))


def trial_at(timeline: list[Stretch], probe: str, at_ms: int, end_ms: int) -> Trial:
    """A fault that begins at an instant while the load is on, or the last time before that it was.

    So much of the record follows it that its end is seen too. A load that was never on is tried as
    it is.
    """
    length_ms = SILENT_MS if probe else CUT_MS
    latest_ms = min(at_ms, end_ms - length_ms - AFTER_MS)
    running = [s for s in timeline if s.state and s.start_ms < latest_ms]
    from_ms = latest_ms
    if running and running[-1].end_ms <= latest_ms:
        last = running[-1]
        from_ms = (last.start_ms + last.end_ms) // 2
    from_ms -= from_ms % 1000
    return Trial(probe=probe, from_ms=from_ms, to_ms=from_ms + length_ms)


def changes_in(timeline: list[Stretch], trial: Trial) -> list[Stretch]:
    """The stretches in which the state is another than before, from the fault to after its end."""
    until_ms = trial.to_ms + AFTER_MS
    seen = [s for s in timeline if s.end_ms > trial.from_ms and s.start_ms < until_ms]
    found: list[Stretch] = []
    for stretch in seen:
        if not found or (stretch.state, stretch.rank) != (found[-1].state, found[-1].rank):
            found.append(stretch)
    return found
