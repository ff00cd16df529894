"""Derived signals: quantities worked out of the readings of several probes."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Name, Ohms, Part
from aldea.core.physics.divider import Side


class Statistic(Part):
    """Mean, highest or lowest of some readings."""

    kind: Literal["mean", "highest", "lowest"]
    of: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=32)]


class LessThan(Part):
    """One reading minus another."""

    kind: Literal["difference"] = "difference"
    probe: Identifier
    less: Identifier


class RateOf(Part):
    """How fast a probe changes, in units a minute, over a time."""

    kind: Literal["rate"] = "rate"
    probe: Identifier
    over_s: Annotated[float, Field(gt=0, le=86_400)]


class MoistAir(Part):
    """Dew point (°C) or absolute humidity (g/m³) of a temperature and a relative humidity."""

    kind: Literal["dew_point", "absolute_humidity"]
    temperature: Identifier
    humidity: Identifier


class EchoDistance(Part):
    """A distance by echo that was worked out at one air temperature, set right for another."""

    kind: Literal["echo_distance"] = "echo_distance"
    echo: Identifier
    temperature: Identifier
    assumed_degc: Annotated[float, Field(ge=-40, le=80)] = 20.0


class Lux(Part):
    """Light from what a photoresistor's divider reads, as a share of its supply."""

    kind: Literal["lux"] = "lux"
    share: Identifier
    fixed_ohm: Ohms = 10_000.0
    r10_ohm: Ohms = 20_000.0
    gamma_1: Annotated[float, Field(gt=0.1, lt=2)] = 0.7
    side: Side = "sensor_high"


class Derived(Part):
    """A derived signal: its name, and how it is made."""

    id: Identifier
    name: Name
    made: Annotated[
        Statistic | LessThan | RateOf | MoistAir | EchoDistance | Lux, Field(discriminator="kind")
    ]


def read_by(source: Part) -> tuple[str, ...]:
    """The probes and signals that a derived signal reads, in their order."""
    if isinstance(source, Statistic):
        return source.of
    keys = ("probe", "less", "temperature", "humidity", "echo", "share")
    readings = {key: getattr(source, key) for key in keys if hasattr(source, key)}
    if isinstance(source, EchoDistance):
        return (source.echo, source.temperature)
    return tuple(readings.values())
