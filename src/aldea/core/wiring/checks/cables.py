"""Checks of cables: what a bus, an echo, a serial line and a thermistor bear of length."""

from collections import defaultdict
from collections.abc import Iterator

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.conductor import BUS_PULL_OHM
from aldea.core.devices.finding import Check, Finding
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.devices.sensors.thermistor.law import thermistor_ohm
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.physics.bus import (
    CABLE_FARAD_PER_M,
    MOST_BUS_FARAD,
    MOST_RISE_S,
    PART_FARAD,
    SCREENED_FARAD_PER_M,
    fitting_pull_ohm,
    least_pull_ohm,
    rise_s,
)
from aldea.core.physics.cable import ohm_per_km
from aldea.core.physics.resistors import below_ohm
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.seats import home_of, reader_of
from aldea.core.wiring.seated import seated

BUS_HERTZ = 100_000  # what such parts are read at when nobody says otherwise
LONGEST_SINGLE_WIRE_M = 50.0
LONGEST_M = {"echo": 5.0, "serial": 10.0}
LEADS_AT_DEGC = 40.0
MOST_LEADS_K = 0.1
WORST_DIVIDED_1 = 1.05 * 1.01  # 5 % of supply, resistors of 1 % at their corners


def bus_capacitance(plan: Plan) -> Iterator[Finding]:
    """A bus whose cables are so long that its edges are too slow."""
    on: dict[str, list[Probe]] = defaultdict(list)
    names: dict[str, str] = {}
    for signal, _row, board, _kind, _pin in seated(plan):
        if signal.share != "bus_data" or not signal.owner.startswith("probe:"):
            continue
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        home = home_of(plan, board)
        if probe is not None:
            on[home.id].append(probe)
            names[home.id] = home.name
    for board_id, probes in on.items():
        farad = PART_FARAD * (len(probes) + 1) + sum(_cable_farad(probe) for probe in probes)
        took_s, most_s = rise_s(BUS_PULL_OHM, farad), MOST_RISE_S[BUS_HERTZ]
        if took_s <= most_s and farad <= MOST_BUS_FARAD:
            continue
        longest = max(probes, key=lambda probe: probe.cable_m)
        rail_v = min(getattr(probe.sensor, "supply_v", 3.3) for probe in probes)
        pull = below_ohm(fitting_pull_ohm(farad, most_s), "E24")
        fix = "Move the far ones to a board near them, or read the bus at 10 kHz."
        if farad <= MOST_BUS_FARAD and pull >= least_pull_ohm(rail_v):
            fix = f"Fit {ohms(pull)} pull-ups in place of {ohms(BUS_PULL_OHM)}. Or: {fix}"
        yield Finding(
            key=f"slow-bus-{board_id}",
            weight="warning",
            head=f"The bus of {names[board_id]} rises in {figure(1e9 * took_s, 0)} ns.",
            why=f"About {figure(1e12 * farad, 0)} pF of cable and parts at {ohms(BUS_PULL_OHM)}; "
            f"{figure(1e9 * most_s, 0)} ns and {figure(1e12 * MOST_BUS_FARAD, 0)} pF are "
            "allowed at "
            f"{figure(BUS_HERTZ / 1000, 0)} kHz (60 pF a metre assumed, 120 screened or twisted).",
            fix=fix,
            at=f"probe:{longest.id}",
        )


def single_wires(plan: Plan) -> Iterator[Finding]:
    """A single data wire whose cables add up to more than one pull-up drives."""
    on: dict[tuple[str, str], list[Probe]] = defaultdict(list)
    for signal, row, *_ in seated(plan):
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        if probe is not None and signal.share.startswith("one_wire"):
            on[row.board, row.pin].append(probe)
    for seat, probes in on.items():
        length_m = sum(probe.cable_m for probe in probes)
        if length_m <= LONGEST_SINGLE_WIRE_M:
            continue
        longest = max(probes, key=lambda probe: probe.cable_m)
        yield Finding(
            key=f"long-wire-{seat[0]}-{seat[1]}",
            weight="warning",
            head=f"The single wire on {seat[1]} is {short(length_m)} m with its branches.",
            why=f"A pull-up of {ohms(BUS_PULL_OHM)} brings about "
            f"{short(LONGEST_SINGLE_WIRE_M)} m up in time (estimated); readings get lost.",
            fix="Share it over two pins, run it as one line without branches, or put a board "
            "near the far ones.",
            at=f"probe:{longest.id}",
            pins=(seat,),
        )


def _cable_farad(probe: Probe) -> float:
    close = probe.cable.screened or probe.cable.twisted
    return probe.cable_m * (SCREENED_FARAD_PER_M if close else CABLE_FARAD_PER_M)


def lengths_allowed(plan: Plan) -> Iterator[Finding]:
    """An echo or a serial line that is longer than its edges bear."""
    for probe in plan.probes:
        kind = probe.sensor.kind if probe.sensor is not None else ""
        most_m = LONGEST_M.get(kind)
        if most_m is None or probe.cable_m <= most_m:
            continue
        what = "The echo’s edges wander" if kind == "echo" else "Bytes get lost"
        yield Finding(
            key=f"long-{probe.id}",
            weight="warning",
            head=f"{probe.name}’s cable is {short(probe.cable_m)} m.",
            why=f"{what} over more than about {short(most_m)} m without a line driver.",
            fix="Put a board near it, or a line driver at both ends.",
            at=f"probe:{probe.id}",
        )


def leads_of_thermistors(plan: Plan) -> Iterator[Finding]:
    """Leads whose resistance makes a thermistor read cold."""
    for probe in plan.probes:
        sensor = probe.sensor
        if not isinstance(sensor, Thermistor) or not probe.cable_m:
            continue
        leads = 2 * probe.cable_m / 1000 * ohm_per_km(probe.cable_mm2)
        here = thermistor_ohm(LEADS_AT_DEGC, r25_ohm=sensor.r25_ohm, beta_k=sensor.beta_k)
        kelvin = LEADS_AT_DEGC + 273.15
        error = leads / here * kelvin**2 / sensor.beta_k
        if error <= MOST_LEADS_K:
            continue
        yield Finding(
            key=f"leads-{probe.id}",
            weight="warning",
            head=f"{probe.name}’s leads make it read {figure(error, 2)} K cold at "
            f"{short(LEADS_AT_DEGC)} °C.",
            why=f"{figure(leads)} Ω of lead in line with {ohms(round(here))}.",
            fix="Use thicker leads, a thermistor of more ohms, or calibrate it with its leads.",
            at=f"probe:{probe.id}",
        )


def dividers_fed_alike(plan: Plan) -> Iterator[Finding]:
    """A divider that is fed by other volts than its converter compares with."""
    for probe in plan.probes:
        fed_v = probe.sensor.supply_v if isinstance(probe.sensor, Thermistor) else None
        kind = reader_of(plan, f"probe:{probe.id}.sense")
        if fed_v is None or kind is None or not kind.converter_bits:
            continue
        if abs(fed_v - kind.converter_v) <= 0.005 * kind.converter_v:
            continue
        over = fed_v > kind.converter_v
        yield Finding(
            key=f"fed-otherwise-{probe.id}",
            weight="severe" if over else "warning",
            head=f"{probe.name}’s divider is fed with {short(fed_v)} V, its converter compares "
            f"with {short(kind.converter_v)} V.",
            why="Cold or unplugged it passes the converter’s range."
            if over
            else "Every change of the supply reads as a change of temperature.",
            fix="Feed it from the converter’s reference: clear its supply at Lay out.",
            at=f"probe:{probe.id}",
        )


def converters_reached(plan: Plan) -> Iterator[Finding]:
    """A voltage whose highest, behind its divider, passes what the converter reads."""
    for signal, row, _board, _kind, pin in seated(plan):
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        device = sensor_device(probe) if probe is not None else None
        kind = reader_of(plan, signal.id)
        if probe is None or device is None or kind is None or "analog_in" not in signal.needs:
            continue
        arriving = device.arriving_v(probe.sensor)
        if not arriving or not kind.converter_bits or signal.volts > pin.tolerates_v * 1.001:
            continue
        brought_down = arriving < device.highest_v(probe.sensor)
        worst = arriving * (WORST_DIVIDED_1 if brought_down else 1.0)
        if worst <= kind.converter_v * 1.005:
            continue
        yield Finding(
            key=f"range-{probe.id}",
            weight="warning",
            head=f"{probe.name} gives up to {figure(worst, 2)} V, {kind.name} reads to "
            f"{short(kind.converter_v)} V.",
            why="Above that all readings are the same one.",
            fix="Use a divider that brings its highest down to the converter’s range.",
            at=signal.owner,
            pins=((row.board, row.pin),),
        )


CABLE_CHECKS: tuple[Check, ...] = (
    bus_capacitance,
    single_wires,
    lengths_allowed,
    leads_of_thermistors,
    dividers_fed_alike,
    converters_reached,
)
