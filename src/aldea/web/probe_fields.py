"""The form of a probe: what it measures, how it is made, and the figures of that way."""

from aldea.core.plan.base import Part
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.kinds import QUANTITIES
from aldea.core.plan.sensors import SENSOR_KINDS
from aldea.web.fields import STAGES, Field, Group, Options, choice, number, places, text


def _sensor_fields(sensor: Part) -> tuple[Field, ...]:
    rows: list[Field] = []
    for key, value in sensor:
        if key not in SENSOR_FIELDS:  # found at the bench, not typed one by one
            continue
        label, unit, options = SENSOR_FIELDS[key]
        if options:
            rows.append(choice(key, label, value, options))
        else:
            rows.append(
                number(
                    key,
                    label,
                    value,
                    unit,
                    *SENSOR_LIMITS.get(key, (0.001, 1e9)),
                    optional=key in OPTIONAL or value is None,
                    whole=key == "address",
                )
            )
    return tuple(rows)


SENSOR_FIELDS: dict[str, tuple[str, str, Options]] = {
    "hold_s": ("Held for", "s", ()),
    "r25_ohm": ("At 25 °C", "Ω", ()),
    "beta_k": ("B value", "K", ()),
    "fixed_ohm": ("Fixed resistor", "Ω", ()),
    "side": (
        "Sensor is",
        "",
        (("sensor_low", "between pin and 0 V"), ("sensor_high", "between pin and +")),
    ),
    "r10_ohm": ("At 10 lx", "Ω", ()),
    "gamma_1": ("Gamma", "", ()),
    "threshold_lux": ("Wanted threshold", "lx", ()),
    "own_lamp_lux": ("Its lamp adds", "lx", ()),
    "warm_up_s": ("Warms up for", "s", ()),
    "clean_air_v": ("In clean air", "V", ()),
    "alarm_ratio_1": ("Speaks at", "times that", ()),
    "responsivity_a_per_w": ("Responsivity", "A/W", ()),
    "area_mm2": ("Active area", "mm²", ()),
    "feedback_ohm": ("Feedback", "Ω", ()),
    "dark_na": ("In the dark", "nA", ()),
    "occupied_below_m": ("Occupied under", "m", ()),
    "end_of_line_ohm": ("Far-end resistor", "Ω", ()),
    "wet_ohm": ("Wet at or under", "Ω", ()),
    "damp_ohm": ("Damp at or under", "Ω", ()),
    "excitation": (
        "Excitation",
        "",
        (("pulsed", "pulsed"), ("alternating", "alternating"), ("constant", "constant")),
    ),
    "highest_v": ("Highest output", "V", ()),
    "upper_ohm": ("Divider, in line", "Ω", ()),
    "lower_ohm": ("Divider, to 0 V", "Ω", ()),
    "supply_v": ("Supply", "V", ()),
    "supply_ma": ("takes", "mA", ()),
    "address": ("Bus address", "of 127", ()),
    "output_v": ("Output", "V", ()),
    "closed_means": ("Closed means", "", (("on", "on"), ("off", "off (inverted)"))),
    "pull": ("Pull-up", "", (("board", "the board’s own"), ("resistor", "a resistor"))),
    "pull_ohm": ("Pull-up of", "Ω", ()),
    "debounce_ms": ("Debounce", "ms", ()),
}
SENSOR_LIMITS: dict[str, tuple[float, float]] = {
    "address": (0, 127),
    "hold_s": (0, 86_400),
    "beta_k": (1000, 8000),
    "gamma_1": (0.11, 1.99),
    "threshold_lux": (0.001, 200_000),
    "own_lamp_lux": (0, 200_000),
    "warm_up_s": (0, 259_200),
    "clean_air_v": (0.001, 60),
    "alarm_ratio_1": (1.001, 100),
    "responsivity_a_per_w": (0.001, 2),
    "area_mm2": (0.001, 1000),
    "dark_na": (0, 1e6),
    "occupied_below_m": (0.01, 20),
    "supply_v": (1, 60),
    "output_v": (1, 60),
    "highest_v": (0.1, 60),
    "supply_ma": (0, 100_000),
    "debounce_ms": (0, 10_000),
}


OPTIONAL = ("end_of_line_ohm", "upper_ohm", "lower_ohm", "occupied_below_m", "clean_air_v")


def probe_groups(plan: Plan, probe: Probe) -> tuple[Group, ...]:
    """The form of a probe, the figures of the way it is made last."""
    kinds = QUANTITIES[probe.quantity].sensors
    offered = dict.fromkeys((*kinds, *((probe.sensor.kind,) if probe.sensor else ())))
    ways = (("", "not chosen yet"), *((k, SENSOR_KINDS[k][1]) for k in offered))
    groups = [
        Group(
            title="Probe",
            fields=(
                text("name", "Name", probe.name),
                choice("place", "Stands in", probe.place, places(plan)),
                choice(
                    "quantity",
                    "Measures",
                    probe.quantity,
                    tuple((k, v.name) for k, v in QUANTITIES.items()),
                ),
                choice("sensor_kind", "Made as", probe.sensor.kind if probe.sensor else "", ways),
                number("cable_m", "Cable", probe.cable_m, "m", 0, 500),
                number("cable_mm2", "Its section", probe.cable_mm2, "mm²", 0.1, 2.5),
                choice("stage", "Stage", probe.stage, STAGES),
            ),
        )
    ]
    if probe.sensor is not None:
        groups.append(
            Group(
                title=SENSOR_KINDS[probe.sensor.kind][1],
                fields=_sensor_fields(probe.sensor),
                inside="sensor",
            )
        )
    return tuple(groups)
