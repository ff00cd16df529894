"""Probes and derived signals as tables."""

from dataclasses import dataclass, field

from aldea.core.base.errors import PlanError
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.engine.compiling.names import Rows, ms
from aldea.core.engine.layout import NONE
from aldea.core.engine.tables.making import floats, ints, row_of
from aldea.core.engine.tables.probes import (
    D_END,
    D_FIRST,
    D_FLOATS,
    D_INTS,
    D_KIND,
    D_LOAD,
    D_OVER_MS,
    FILTER_CODES,
    FILTER_NONE,
    FILTER_TIME,
    P_FILTER,
    P_FLOATS,
    P_GOOD_RUN,
    P_HIGH,
    P_INTERCEPT,
    P_INTS,
    P_JUMP_AFTER,
    P_JUMP_PER_S,
    P_LOW,
    P_RATES,
    P_RATES_END,
    P_RING,
    P_SLOPE,
    P_STALE_MS,
    P_STUCK_BAND,
    P_STUCK_MS,
    P_TAKES,
    P_TAU_S,
    P_WARM_MS,
    SIGNAL_ABSOLUTE_HUMIDITY,
    SIGNAL_DEW_POINT,
    SIGNAL_DIFFERENCE,
    SIGNAL_ECHO,
    SIGNAL_HIGHEST,
    SIGNAL_LESS_LAMP,
    SIGNAL_LOWEST,
    SIGNAL_LUX,
    SIGNAL_MEAN,
    SIGNAL_RATE,
    SIGNAL_RATIO,
    ProbePlan,
)
from aldea.core.plan.derived import EchoDistance, Lux, RateOf, read_by
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.reading import derived_of, probes_under

KINDS = {
    "mean": SIGNAL_MEAN,
    "highest": SIGNAL_HIGHEST,
    "lowest": SIGNAL_LOWEST,
    "difference": SIGNAL_DIFFERENCE,
    "rate": SIGNAL_RATE,
    "dew_point": SIGNAL_DEW_POINT,
    "absolute_humidity": SIGNAL_ABSOLUTE_HUMIDITY,
    "echo_distance": SIGNAL_ECHO,
    "lux": SIGNAL_LUX,
}


@dataclass(slots=True)
class SignalTable:
    """Derived signals as they are asked for, members before what is made of them."""

    plan: Plan
    probes: Rows
    rows: list[list[int]] = field(default_factory=list)
    floats: list[list[float]] = field(default_factory=list)
    members: list[int] = field(default_factory=list)
    known: dict[object, int] = field(default_factory=dict)

    def row(self, name: str) -> int:
        """The row of a probe or a derived signal among all signals."""
        signal = derived_of(self.plan, name)
        if signal is None:
            probes_under(self.plan, name)  # refuses what is neither
            return self.probes.find(name)
        probes_under(self.plan, name)  # refuses a circle
        made = signal.made
        over_ms = ms(made.over_s) if isinstance(made, RateOf) else 0
        figures: tuple[float, ...] = ()
        if isinstance(made, EchoDistance):
            figures = (made.assumed_degc,)
        elif isinstance(made, Lux):
            side = 1.0 if made.side == "sensor_high" else -1.0
            figures = (made.fixed_ohm, made.r10_ohm, made.gamma_1, side)
        return self.made(KINDS[made.kind], read_by(made), over_ms=over_ms, figures=figures)

    def made(
        self,
        kind: int,
        of: tuple[str, ...],
        *,
        over_ms: int = 0,
        load: int = NONE,
        figures: tuple[float, ...] = (),
    ) -> int:
        """The row of a signal that is made of others; the same one for the same."""
        key = (kind, of, over_ms, load, figures)
        if key not in self.known:
            found = [self.row(name) for name in of]
            first = len(self.members)
            self.members += found
            filled = {
                D_KIND: kind,
                D_FIRST: first,
                D_END: len(self.members),
                D_OVER_MS: over_ms,
                D_LOAD: load,
            }
            self.known[key] = len(self.rows)
            self.rows.append(row_of(D_INTS, filled))
            self.floats.append([*figures, *[0.0] * (D_FLOATS - len(figures))])
        return len(self.probes.known) + self.known[key]

    def difference(self, probe: str, less: str) -> int:
        """One reading minus another."""
        return self.made(SIGNAL_DIFFERENCE, (probe, less))

    def rate(self, probe: str, over_s: float) -> int:
        """How fast a reading changes."""
        return self.made(SIGNAL_RATE, (probe,), over_ms=ms(over_s))

    def less_lamp(self, probe: str, load: int, share: float) -> int:
        """Light without a lamp's share while that is lit."""
        return self.made(SIGNAL_LESS_LAMP, (probe,), load=load, figures=(share,))

    def ratio(self, probe: str, to: float) -> int:
        """A reading over another figure."""
        return self.made(SIGNAL_RATIO, (probe,), figures=(to,))

    def table(self, probes: list[Probe]) -> ProbePlan:
        """All of it as arrays."""
        rates = [
            (self.members[row[D_FIRST]], index)
            for index, row in enumerate(self.rows)
            if row[D_KIND] == SIGNAL_RATE
        ]
        for source, _ in rates:
            if source >= len(probes):
                raise PlanError(
                    "rate of change",
                    got="the rate of a derived signal",
                    allowed="the rate of a probe",
                    mend="Take the rate of one of its probes.",
                )
        rates.sort()
        ring = 0
        rows = []
        for index, probe in enumerate(probes):
            first = sum(1 for source, _ in rates if source < index)
            end = sum(1 for source, _ in rates if source <= index)
            rows.append(_probe_ints(probe, ring, first, end))
            ring += rows[-1][P_TAKES]
        return ProbePlan(
            floats=floats([_probe_floats(probe) for probe in probes], P_FLOATS),
            ints=ints(rows, P_INTS),
            derived=ints(self.rows, D_INTS),
            derived_floats=floats(self.floats, D_FLOATS),
            members=ints([self.members], len(self.members))[0],
            rates=ints([[row for _, row in rates]], len(rates))[0],
        )


def _probe_floats(probe: Probe) -> list[float]:
    row = [0.0] * P_FLOATS
    row[P_SLOPE] = probe.calibration.slope
    row[P_INTERCEPT] = probe.calibration.intercept
    row[P_LOW] = probe.range.low
    row[P_HIGH] = probe.range.high
    row[P_TAU_S] = probe.smoothing.tau_s if probe.smoothing else 0.0
    row[P_STUCK_BAND] = probe.stuck.band if probe.stuck else 0.0
    row[P_JUMP_PER_S] = probe.jump.per_s if probe.jump else 0.0
    return row


def _probe_ints(probe: Probe, ring: int, first: int, end: int) -> list[int]:
    kind = FILTER_TIME if probe.smoothing else FILTER_NONE
    if probe.averaging:
        kind = FILTER_CODES[probe.averaging.kind]
    heats = probe.sensor.warm_up_s if isinstance(probe.sensor, GasSensor) else 0.0
    return row_of(
        P_INTS,
        {
            P_STALE_MS: ms(probe.stale_after_s),
            P_STUCK_MS: ms(probe.stuck.after_s) if probe.stuck else 0,
            P_GOOD_RUN: probe.good_run,
            P_WARM_MS: ms(max(probe.warm_up_s, heats)),
            P_FILTER: kind,
            P_TAKES: probe.averaging.of if probe.averaging else 0,
            P_RING: ring,
            P_JUMP_AFTER: probe.jump.accept_after if probe.jump else 0,
            P_RATES: first,
            P_RATES_END: end,
        },
    )
