"""The forms of probes and loads: what their kind asks for, within the limits of its model."""

from collections.abc import Iterator, Mapping

from aldea.core.base.figures import as_typed, short
from aldea.core.base.parts import Part
from aldea.core.base.quantities import QUANTITIES, Quantity, unit_of
from aldea.core.devices.asked import Asks
from aldea.core.devices.loads.classes import LOAD_CLASSES
from aldea.core.devices.loads.facts import NATURES
from aldea.core.devices.loads.models import LOAD_FACTS, LOADS
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.models import SENSOR_FACTS, several_of, ways_to_measure
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.one_part import could_join, lead_of, others_of_part
from aldea.core.plan.panel import RelayOutput
from aldea.web.shell.form_fields import (
    STAGES,
    Field,
    Group,
    Options,
    choice,
    named,
    number,
    places,
    text,
)

CABLES: Options = (
    ("", "plain"),
    ("twisted", "twisted pairs"),
    ("screened", "screened"),
    ("twisted_screened", "twisted and screened"),
)
YES_NO: Options = (("no", "none"), ("yes", "in its lines"))
CURRENTS: Options = (("ac", "AC"), ("dc", "DC"))
NOTHING: Mapping[str, Quantity] = {}
PART_OF = "part_of:"  # before the probe whose part it is, among the ways to make one


def asked_fields(
    asks: Asks, figures: Part, plan: Plan, told_by: Mapping[str, Quantity] = NOTHING
) -> Iterator[Field]:
    """The figures of a device as fields, in the order in which its kind asks for them.

    Of probes only those that measure what `told_by` says are offered, and the one that is chosen.
    """
    for key, fields in asks.items():
        value = getattr(figures, key)
        if fields.write is not None:
            yield Field(
                name=key,
                label=fields.label,
                value=fields.write(value),
                note=fields.note,
                read=fields.read,
                example=fields.example,
            )
        elif fields.probes:
            fit = [p for p in plan.probes if p.quantity == told_by.get(key, p.quantity)]
            fit += [p for p in plan.probes if p.id == value and p not in fit]
            yield choice(key, fields.label, value, named(fit, fields.probes), fields.note)
        elif fields.options:
            yield choice(key, fields.label, value, fields.options, fields.note)
        else:
            yield number(figures, key, fields.label, fields.unit, note=fields.note)


def probe_groups(plan: Plan, probe: Probe) -> tuple[Group, ...]:
    """The form of a probe: what it is, how it is made, when its readings are believed."""
    shown_kind: str = probe.sensor.kind if probe.sensor else ""
    if probe.part_with is not None:
        shown_kind = f"{PART_OF}{probe.part_with}"
    others = others_of_part(plan, probe)
    measures = tuple((key, facts.name) for key, facts in QUANTITIES.items())
    rows = [
        text("name", "Name", probe.name),
        choice("place", "Is in", probe.place, places(plan)),
        choice("quantity", "Measures", probe.quantity, measures, remade=True),
    ]
    if plan.probe(probe.id) is None and (offered := several_of(probe.quantity)):
        options = (("", "this alone"), *((one.key, one.name) for one in offered))
        rows.append(choice("several", "New reading every", "", options))
    rows.append(choice("sensor_kind", "Made as", shown_kind, _ways(plan, probe), remade=True))
    if probe.part_with is None:
        rows += [
            *cable_fields(probe),
            choice("fed_by", "Fed by", probe.fed_by, _feeders(plan)),
            choice("level_converter", "Level converter", _yes(probe.level_converter), YES_NO),
        ]
    rows.append(choice("stage", "Stage", probe.stage, STAGES))
    title = "Probe"
    if others:
        title = f"Probe; one part with {' and '.join(one.name for one in others)}"
    groups = [Group(title=title, fields=tuple(rows))]
    device = sensor_device(probe)
    if device is not None and probe.sensor is not None:
        fields = tuple(asked_fields(device.asks, probe.sensor, plan))
        groups.append(Group(title=device.facts.name, fields=fields, inside="sensor"))
    return (*groups, *_quality(probe))


def _yes(value: bool) -> str:
    return "yes" if value else "no"


def cable_fields(part: Probe | RelayOutput) -> tuple[Field, ...]:
    """The cable of a probe or a relay: how long, how thick, how many cores, how made."""
    kind = "_".join(word for word in ("twisted", "screened") if getattr(part.cable, word))
    return (
        number(part, "cable_m", "Cable", "m"),
        number(part, "cable_mm2", "Its section", "mm²"),
        number(part.cable, "cores", "Its cores", note="0: not said"),
        choice("cable_kind", "Its make", kind, CABLES),
    )


def _feeders(plan: Plan) -> Options:
    return (
        ("", "the board that reads it"),
        *((supply.id, supply.name) for supply in plan.supplies),
        *((board.id, f"{board.name}’s rail") for board in plan.boards),
    )


def _ways(plan: Plan, probe: Probe) -> Options:
    """The ways to make a probe of its quantity, and the parts of others that give it too."""
    own_kind = probe.sensor.kind if probe.sensor else ""
    offered = [facts.kind for facts in ways_to_measure(probe.quantity)]
    kinds = dict.fromkeys((*offered, *((own_kind,) if own_kind else ())))
    joins = {one.id: one.name for one in could_join(plan, probe)}
    if probe.part_with is not None:
        joins[probe.part_with] = lead_of(plan, probe).name
    return (
        ("", "not chosen yet"),
        *((kind, SENSOR_FACTS[kind].name) for kind in kinds),
        *((f"{PART_OF}{key}", f"one part with {name}") for key, name in joins.items()),
    )


def _quality(probe: Probe) -> tuple[Group, ...]:
    """When a reading is believed; what was not set is marked as the default of its quantity."""
    usual = new_probe(
        probe_id=probe.id, name=probe.name, place=probe.place, quantity=probe.quantity
    )

    def figure_of(key: str, label: str, unit: str = "") -> Field:
        default = getattr(usual, key)
        same = getattr(probe, key) == default
        note = "default" if same else f"default {short(default)}"
        return number(probe, key, label, unit, note=note)

    same_range = probe.range == usual.range
    usual_range = f"default {short(usual.range.low)} to {short(usual.range.high)}"
    unit = unit_of(probe.quantity)
    stuck = probe.stuck
    return (
        Group(
            title="Validity of a reading",
            fields=(
                figure_of("reading_interval_s", "Read every", "s"),
                figure_of("stale_after_s", "Silent after", "s"),
                figure_of("good_run", "Valid again after", "readings"),
                figure_of("resolution", "Resolution", unit),
                Field(
                    name="stuck_after_s",
                    label="Stuck after",
                    kind="number",
                    value="" if stuck is None else as_typed(stuck.after_s),
                    unit="s",
                    low=1.0,
                    high=604_800.0,
                    optional=True,
                    note="default: never" if stuck is None else "empty: never",
                ),
                Field(
                    name="stuck_band",
                    label="within",
                    kind="number",
                    value="0" if stuck is None else as_typed(stuck.band),
                    unit=unit,
                    low=0.0,
                    high=1e6,
                ),
            ),
        ),
        Group(
            title="Smoothing",
            fields=(
                _optional(
                    "smoothing_s",
                    "Memory of",
                    None if probe.smoothing is None else probe.smoothing.tau_s,
                    "s",
                    86_400.0,
                ),
                choice(
                    "averaging_kind",
                    "and over the last readings",
                    probe.averaging.kind if probe.averaging else "",
                    (("", "nothing"), ("mean", "their mean"), ("median", "their median")),
                ),
                _optional(
                    "averaging_of",
                    "of so many",
                    None if probe.averaging is None else float(probe.averaging.of),
                    "readings",
                    1000.0,
                ),
                _optional(
                    "jump_per_s",
                    "Implausible when faster than",
                    None if probe.jump is None else probe.jump.per_s,
                    f"{unit}/s" if unit else "a second",
                    1e9,
                ),
                _optional(
                    "jump_accept",
                    "until so many in a row",
                    None if probe.jump is None else float(probe.jump.accept_after),
                    "readings",
                    1000.0,
                ),
                # a sensor may have a warm-up of its own, under the plan's name
                _optional(
                    "probe_warm_up_s",
                    "Warm-up time",
                    probe.warm_up_s or None,
                    "s",
                    1e6,
                ),
            ),
        ),
        Group(
            title="Possible readings",
            fields=(
                number(
                    probe.range, "low", "From", unit, note="default" if same_range else usual_range
                ),
                number(probe.range, "high", "to", unit),
            ),
            inside="range",
        ),
    )


def _optional(name: str, label: str, value: float | None, unit: str, high: float) -> Field:
    """A figure that may be empty: then it is not used."""
    return Field(
        name=name,
        label=label,
        kind="number",
        value="" if value is None else as_typed(value),
        unit=unit,
        low=1e-6,
        high=high,
        optional=True,
        note="empty: none",
    )


def _fed(plan: Plan, load: Load) -> Iterator[Field]:
    """What it runs on: mains from a feed, or volts from a supply."""
    if LOAD_FACTS[load.kind].low_voltage_too:
        yield number(load, "volts", "Runs on", "V", note="empty: mains")
        yield choice("runs_on", "as", load.runs_on, CURRENTS)
        yield choice("supply", "From supply", load.supply, named(plan.supplies, "none, mains"))
    yield text("feed", "Feed", load.feed, "at mains, as on the board")


def load_groups(plan: Plan, load: Load) -> tuple[Group, ...]:
    """The form of a load, its kind's own figures last."""
    classes = tuple((key, facts.name) for key, facts in LOAD_CLASSES.items())
    own = Group(
        title="Load",
        fields=(
            text("name", "Name", load.name),
            text("spoken", "Said as", load.spoken, "empty: its name"),
            choice("place", "Is in", load.place, places(plan)),
            choice("kind", "Kind", load.kind, tuple((f.kind, f.name) for f in LOADS), remade=True),
            choice("load_class", "Class", load.load_class, classes),
            choice("nature", "Load type", load.nature, tuple(NATURES.items())),
            number(load, "power_w", "Power", "W"),
            *_fed(plan, load),
            number(load, "cable_m", "Cable", "m"),
            choice("stage", "Stage", load.stage, STAGES),
        ),
    )
    wear = Group(
        title="Its contact",
        fields=(number(load.relay, "rated_cycles", "Rated for", "cycles"),),
        inside="relay",
    )
    if load.figures is None:
        return (own, wear)
    device = load_device(load)
    told_by = LOAD_FACTS[load.kind].probe_fields
    fields = tuple(asked_fields(device.asks, load.figures, plan, told_by))
    figures = Group(title=device.title, fields=fields, inside=LOAD_FACTS[load.kind].figures)
    return (own, figures, wear)
