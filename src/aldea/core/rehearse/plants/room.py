"""A place: one balance of heat and one of moisture, and what its loads put in or take out."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from aldea.core.physics.moist_air import absolute_humidity_g_per_m3
from aldea.core.rehearse.plants.plant import Now

AIR_J_PER_M3_K = 1206.0  # dry air at 20 °C and 1013 hPa: 1.204 kg/m³ × 1.005 kJ/(kg K)


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """What a load does to its place while it is on, each step of it as much again.

    Heat in W (below nothing it cools), air exchanged with the outside in m³/h, water taken out of
    the air in L/h.
    """

    heat_w: float = 0.0
    air_m3_per_h: float = 0.0
    water_l_per_h: float = 0.0


@dataclass(slots=True, kw_only=True)
class Room:
    """Temperature and moisture of a place, driven by the outside, people and loads.

    `capacity_j_per_k` is air and walls that follow it, `loss_w_per_k` to the outside, `moisture_m3`
    the volume that the moisture spreads over (air, and as much again as walls take up),
    `outside` gives °C and %RH at an instant, `gain` the watts and grams an hour that people and
    work bring in.
    """

    temperature: str
    humidity: str | None
    temp_degc: float
    rh_pct: float
    capacity_j_per_k: float
    loss_w_per_k: float
    volume_m3: float
    moisture_m3: float
    air_changes_per_h: float
    outside: Callable[[int], tuple[float, float]]
    effects: Mapping[str, Effect] = field(default_factory=dict)
    gain: Callable[[int], tuple[float, float]] = lambda _: (0.0, 0.0)
    content_g_per_m3: float = field(default=-1.0, init=False)

    def step(self, now: Now) -> None:
        """One step of both balances (explicit Euler; the step is far under both time constants)."""
        if self.content_g_per_m3 < 0:
            self.content_g_per_m3 = absolute_humidity_g_per_m3(self.temp_degc, self.rh_pct)
        outside_degc, outside_rh = self.outside(now.t_ms)
        heat_w, water_g_per_h = self.gain(now.t_ms)
        exchange = self.air_changes_per_h * self.volume_m3
        for load, effect in self.effects.items():
            at = now.states.get(load, 0)
            heat_w += at * effect.heat_w
            exchange += at * effect.air_m3_per_h
            water_g_per_h -= at * effect.water_l_per_h * 1000
        carried_w_per_k = exchange * AIR_J_PER_M3_K / 3600
        heat_w += (self.loss_w_per_k + carried_w_per_k) * (outside_degc - self.temp_degc)
        self.temp_degc += heat_w * now.dt_s / self.capacity_j_per_k
        outside_g = absolute_humidity_g_per_m3(outside_degc, outside_rh)
        water_g_per_h += exchange * (outside_g - self.content_g_per_m3)
        full = absolute_humidity_g_per_m3(self.temp_degc, 100.0)
        content = self.content_g_per_m3 + water_g_per_h * now.dt_s / 3600 / self.moisture_m3
        self.content_g_per_m3 = min(max(content, 0.05 * full), full)  # what is more condenses
        self.rh_pct = 100 * self.content_g_per_m3 / full

    def values(self) -> dict[str, float]:
        """Temperature, and humidity where somebody measures it."""
        readings = {self.temperature: self.temp_degc}
        if self.humidity is not None:
            readings[self.humidity] = self.rh_pct
        return readings

    def levels(self) -> dict[str, int]:
        """A room has no contacts."""
        return {}
