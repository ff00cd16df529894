"""A pipe that leaks at times until its valve shuts, and the tape that lies under it."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from aldea.core.rehearse.plants.plant import Now


@dataclass(slots=True, kw_only=True)
class LeakyPipe:
    """Leaks begin at instants; water stands while the valve is open and dries `dries_s` after.

    `dry_kohm`, `wet_kohm` are what the tape comes to; it goes from one to the other with time
    constants of `wets_s` and `dries_s`.
    """

    tape: str
    valve: str
    leaks_ms: Sequence[tuple[int, int]]  # from, fixed
    dry_kohm: float = 470.0
    wet_kohm: float = 22.0
    wets_s: float = 40.0
    dries_s: float = 5400.0
    water: float = field(default=0.0, init=False)  # share of the tape that lies in water

    def step(self, now: Now) -> None:
        """Wet while it leaks and the valve is open, else drying."""
        leaks = any(a <= now.t_ms < b for a, b in self.leaks_ms) and now.states.get(self.valve, 0)
        towards, tau_s = (1.0, self.wets_s) if leaks else (0.0, self.dries_s)
        self.water += (towards - self.water) * min(1.0, now.dt_s / tau_s)

    def values(self) -> dict[str, float]:
        """The tape: two resistances side by side, of its far end and of the water."""
        water_kohm = self.wet_kohm / max(self.water, 1e-4)
        return {self.tape: 1 / (1 / self.dry_kohm + 1 / water_kohm)}

    def levels(self) -> dict[str, int]:
        """A tape is read, not sensed."""
        return {}
