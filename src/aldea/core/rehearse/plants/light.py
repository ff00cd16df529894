"""Light on a sensor: the sun through a window, and the lamp's own share."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from aldea.core.rehearse.plants.plant import Now


@dataclass(slots=True, kw_only=True)
class Window:
    """Lux on a sensor: `full_lux` at a clear noon, by the sine of the sun's height, and the lamp.

    `height_deg` gives the sun's height at an instant, `clear` the share of it that clouds let pass.
    """

    probe: str
    full_lux: float
    height_deg: Callable[[int], float]
    clear: Callable[[int], float]
    lamp: str
    lamp_lux: float
    lux: float = field(default=0.0, init=False)

    def step(self, now: Now) -> None:
        """Twilight goes down to nothing at 6 degrees under the horizon (civil twilight)."""
        height = self.height_deg(now.t_ms)
        sun = max(0.0, math.sin(math.radians(height)))
        twilight = max(0.0, min(1.0, (height + 6) / 6)) * 0.01
        self.lux = self.full_lux * max(sun, twilight) * self.clear(now.t_ms)
        self.lux += self.lamp_lux if now.states.get(self.lamp, 0) else 0.0

    def values(self) -> dict[str, float]:
        """What falls on the sensor."""
        return {self.probe: self.lux}

    def levels(self) -> dict[str, int]:
        """Light is read, not sensed."""
        return {}
