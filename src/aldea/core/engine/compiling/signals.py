"""Probes and derived signals as tables."""

from dataclasses import dataclass, field

from aldea.core.base.errors import PlanError
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.engine.compiling.names import Rows, ms
from aldea.core.engine.layout import NONE
from aldea.core.engine.tables.probes import (
    FILTER_CODES,
    FILTER_NONE,
    FILTER_TIME,
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
    DerivedSpec,
    ProbeSpec,
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
    rows: list[DerivedSpec] = field(default_factory=list)
    members: list[int] = field(default_factory=list)
    known: dict[object, int] = field(default_factory=dict)

    def row(self, name: str) -> int:
        """The row of a probe or a derived signal among all signals."""
        signal = derived_of(self.plan, name)
        if signal is None:
            probes_under(self.plan, name)  # refuses what is neither
            return self.probes.find(name)
        probes_under(self.plan, name)  # refuses a circle
        computed = signal.made
        over_ms = ms(computed.over_s) if isinstance(computed, RateOf) else 0
        figures: tuple[float, ...] = ()
        if isinstance(computed, EchoDistance):
            figures = (computed.assumed_degc,)
        elif isinstance(computed, Lux):
            side = 1.0 if computed.side == "sensor_high" else -1.0
            figures = (computed.fixed_ohm, computed.r10_ohm, computed.gamma_1, side)
        return self.row_of(
            KINDS[computed.kind], read_by(computed), over_ms=over_ms, figures=figures
        )

    def row_of(
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
            inputs = [self.row(name) for name in of]
            first = len(self.members)
            self.members += inputs
            self.known[key] = len(self.rows)
            self.rows.append(
                DerivedSpec(
                    kind=kind,
                    first=first,
                    end=len(self.members),
                    over_ms=over_ms,
                    load=load,
                    **dict(zip("abcd", figures, strict=False)),
                )
            )
        return len(self.probes.known) + self.known[key]

    def difference(self, probe: str, less: str) -> int:
        """One reading minus another."""
        return self.row_of(SIGNAL_DIFFERENCE, (probe, less))

    def rate(self, probe: str, over_s: float) -> int:
        """How fast a reading changes."""
        return self.row_of(SIGNAL_RATE, (probe,), over_ms=ms(over_s))

    def less_lamp(self, probe: str, load: int, share: float) -> int:
        """Light without a lamp's share while that is lit."""
        return self.row_of(SIGNAL_LESS_LAMP, (probe,), load=load, figures=(share,))

    def ratio(self, probe: str, to: float) -> int:
        """A reading over another figure."""
        return self.row_of(SIGNAL_RATIO, (probe,), figures=(to,))

    def probe_rows(self, probes: list[Probe]) -> tuple[list[ProbeSpec], list[int]]:
        """Each probe with the rates that it feeds, and those rates, a probe after the other."""
        rates = [
            (self.members[row.first], index)
            for index, row in enumerate(self.rows)
            if row.kind == SIGNAL_RATE
        ]
        for source, _ in rates:
            if source >= len(probes):
                raise PlanError(
                    "rate of change",
                    got="the rate of a derived signal",
                    allowed="the rate of a probe",
                    fix="Take the rate of one of its probes.",
                )
        rates.sort()
        ring = 0
        rows: list[ProbeSpec] = []
        for index, probe in enumerate(probes):
            row = _probe_spec(probe)
            row.ring = ring
            row.rates = sum(1 for source, _ in rates if source < index)
            row.rates_end = sum(1 for source, _ in rates if source <= index)
            ring += row.takes
            rows.append(row)
        return rows, [row for _, row in rates]


def _probe_spec(probe: Probe) -> ProbeSpec:
    kind = FILTER_TIME if probe.smoothing else FILTER_NONE
    if probe.averaging:
        kind = FILTER_CODES[probe.averaging.kind]
    heats = probe.sensor.warm_up_s if isinstance(probe.sensor, GasSensor) else 0.0
    return ProbeSpec(
        slope=probe.calibration.slope,
        intercept=probe.calibration.intercept,
        low=probe.range.low,
        high=probe.range.high,
        tau_s=probe.smoothing.tau_s if probe.smoothing else 0.0,
        stuck_band=probe.stuck.band if probe.stuck else 0.0,
        jump_per_s=probe.jump.per_s if probe.jump else 0.0,
        stale_ms=ms(probe.stale_after_s),
        stuck_ms=ms(probe.stuck.after_s) if probe.stuck else 0,
        warm_ms=ms(max(probe.warm_up_s, heats)),
        good_run=probe.good_run,
        filter=kind,
        takes=probe.averaging.of if probe.averaging else 0,
        jump_after=probe.jump.accept_after if probe.jump else 0,
    )
