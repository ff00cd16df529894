"""The plan document `aldea-plan/2`: house, places, probes, loads, rules, and their wiring.

Every number carries its unit in its name; every part is addressed by a stable id. The classes
check one part each; `core.plan.check` looks at how the parts refer to one another.
"""

from typing import Annotated, Literal, cast

from pydantic import Field, StringConstraints

from aldea.core.base.errors import PlanError
from aldea.core.base.memo import per_plan
from aldea.core.base.parts import Identifier, Name, Part, Seconds, ShortText, text_of
from aldea.core.base.quantities import Quantity
from aldea.core.devices.loads.classes import LoadClass
from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.models import LOAD_FACTS, LoadFigures, LoadType
from aldea.core.devices.sensors.models import Sensor
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import Band, Condition, NamedCondition, QualityName
from aldea.core.plan.controls import Control, LoadGroup
from aldea.core.plan.derived import Derived
from aldea.core.plan.house_rules import BootRule, Doorway, Exclusive, Memory, Mode, OverrideEnd
from aldea.core.plan.invariants import Invariant
from aldea.core.plan.panel import (
    Assignment,
    Board,
    BoardType,
    Cable,
    Colours,
    CopiedPart,
    NumberGiven,
    RelayOutput,
    SheetIssue,
    Stock,
    Supply,
)
from aldea.core.plan.schedules import Schedule

PlaceType = Literal["room", "stair", "loft", "private", "outside", "neighbour", "enclosure"]
WallType = Literal["stone", "brick", "timber", "insulated", "sheet"]
Stage = Literal["working", "planned"]
ReturnPolicy = Literal["off", "follow_rules", "last"]


class House(Part):
    """The house: what it is called and where its clock stands."""

    name: Name
    time_zone: Annotated[str, StringConstraints(min_length=1, max_length=64)]
    tariff_per_kwh: Annotated[float, Field(ge=0, le=10)] = 0.0
    currency: Annotated[str, StringConstraints(max_length=3)] = ""
    latitude_deg: Annotated[float, Field(ge=-90, le=90)] | None = None
    longitude_deg: Annotated[float, Field(ge=-180, le=180)] | None = None
    mains_v: Annotated[float, Field(ge=90, le=260)] = 230.0
    mains_hz: Annotated[float, Field(ge=45, le=65)] = 50.0
    colours: Colours = Colours()


class Place(Part):
    """A room, stair, loft, private flat, neighbour or the outside, as it stands in the section.

    An enclosure stands within another place. What is None is taken from the place's kind.
    """

    id: Identifier
    name: Name
    kind: PlaceType
    level: Annotated[int, Field(ge=-5, le=30)]
    top_level: Annotated[int, Field(ge=-5, le=30)] | None = None
    from_m: Annotated[float, Field(ge=-100, le=400)] = 0.0
    to_m: Annotated[float, Field(ge=-100, le=400)] = 0.0
    people: tuple[Name, ...] = ()
    within: Identifier | None = None
    depth_m: Annotated[float, Field(gt=0, le=200)] | None = None
    height_m: Annotated[float, Field(gt=0, le=50)] | None = None
    walls: WallType | None = None
    air_changes_per_h: Annotated[float, Field(ge=0, le=100)] | None = None


class Range(Part):
    """What a reading of a probe can be at all; outside it, it is a fault."""

    low: float
    high: float


class Stuck(Part):
    """A probe is stuck when it stays within `band` for `after_s`."""

    after_s: Annotated[float, Field(gt=0, le=604_800)]
    band: Annotated[float, Field(ge=0)]


class Smoothing(Part):
    """A filter with an exponential memory of `tau_s` seconds."""

    tau_s: Annotated[float, Field(gt=0, le=86_400)]


class Averaging(Part):
    """A filter over the last `of` readings: their mean or their median."""

    kind: Literal["mean", "median"]
    of: Annotated[int, Field(ge=2, le=1000)]


class Jump(Part):
    """A reading that changes faster than `per_s` is not believed until it persists."""

    per_s: Annotated[float, Field(gt=0)]
    accept_after: Annotated[int, Field(ge=1, le=1000)] = 3


class Probe(Part):
    """A quantity measured in a place: by a sensor of its own, or by the part of another probe.

    `part_with` names the probe that carries the sensor, where one part gives several quantities:
    one seat, one address, one cable; each probe has its own name and calibration. `fed_by` is the
    supply or the board whose rail feeds it; None is the board that reads it. A `level_converter`
    stands in its lines.
    """

    id: Identifier
    name: Name
    place: Identifier
    quantity: Quantity
    stage: Stage = "working"
    resolution: Annotated[float, Field(gt=0, le=100)] = 0.1
    range: Range
    stale_after_s: Annotated[float, Field(gt=0, le=604_800)] = 60.0
    stuck: Stuck | None = None
    good_run: Annotated[int, Field(ge=1, le=1000)] = 1
    smoothing: Smoothing | None = None
    averaging: Averaging | None = None
    jump: Jump | None = None
    warm_up_s: Seconds = 0.0
    calibration: Calibration
    sensor: Sensor | None = None
    part_with: Identifier | None = None
    reading_interval_s: Annotated[float, Field(gt=0, le=86_400)] = 10.0
    cable_m: Annotated[float, Field(ge=0, le=500)] = 0.0
    cable_mm2: Annotated[float, Field(ge=0.1, le=2.5)] = 0.5
    cable: Cable = Cable()
    fed_by: Identifier | None = None
    level_converter: bool = False


class Relay(Part):
    """The contact that switches the load: how often it may close before it is worn."""

    rated_cycles: Annotated[int, Field(ge=1, le=1_000_000_000)] = 100_000
    basis: ShortText = "entered"


class OnSensorFault(Part):
    """What the load does when a probe that it follows gives no good reading for `after_s`.

    `keep` is nothing of its own: only what its fault rules say. With `each` “load” one lost probe
    is enough; with “rule” only the rules on that probe stop asking after that time, and the load
    goes to its state when none of the probes that it follows is left.
    """

    after_s: Seconds
    state: Literal["off", "on", "keep"]
    each: Literal["load", "rule"] = "load"


class Wanted(Part):
    """A state that is wanted of a load; `level` goes with step and pattern, `pulse_s` with pulse.

    `percent` of a load in steps is the step nearest to it.
    """

    want: Literal["off", "on", "open", "shut", "step", "pattern", "percent", "pulse"] = "on"
    level: Annotated[int, Field(ge=1, le=15)] | None = None
    percent: Annotated[float, Field(ge=0, le=100)] | None = None
    pulse_s: Annotated[float, Field(gt=0, le=604_800)] | None = None


class PowerReturn(Part):
    """What the load does after a power cut, how much later, and why where it is unusual."""

    policy: ReturnPolicy
    delay_s: Seconds = 0.0
    reason: ShortText = ""


class LoadOfAnyKind(Part):
    """What every load carries, of whatever kind it is."""

    id: Identifier
    name: Name
    place: Identifier
    kind: LoadType = "relay"
    load_class: LoadClass
    stage: Stage = "working"
    power_w: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    relay: Relay = Relay()
    min_on_s: Seconds = 0.0
    min_off_s: Seconds = 0.0
    max_on_s: Annotated[float, Field(gt=0, le=604_800)] | None = None
    max_on_rest_s: Seconds = 0.0
    starts_per_hour: Annotated[int, Field(ge=1, le=1000)] | None = None
    override: OverrideEnd = OverrideEnd()
    default_state: Wanted = Wanted(want="off")
    stagger_place: Annotated[int, Field(ge=0, le=10_000)] | None = None
    retained: bool | None = None
    on_sensor_fault: OnSensorFault = OnSensorFault(after_s=0.0, state="off")
    power_return: PowerReturn = PowerReturn(policy="follow_rules")
    nature: Nature = "resistive"
    feed: Annotated[str, text_of(r"^[A-Za-z0-9 .-]{0,12}$", "up to 12 letters and digits")] = ""
    cable_m: Annotated[float, Field(ge=0, le=500)] = 0.0
    spoken: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    volts: Annotated[float, Field(gt=0, le=60)] | None = None
    runs_on: Literal["ac", "dc"] = "ac"
    supply: Identifier | None = None


class Load(LoadFigures, LoadOfAnyKind):
    """Something that is switched, with the figures of its kind.

    Without `volts` it runs on the house's mains, from `feed`; with them on extra-low voltage, from
    `supply`.
    """

    @property
    def on_mains(self) -> bool:
        """Whether it runs on the house's mains."""
        return self.volts is None

    @property
    def figures(self) -> Part | None:
        """The figures of its kind; None where its kind has none, or they are not known."""
        key = LOAD_FACTS[self.kind].figures
        return getattr(self, key) if key else None


RulePriority = Literal["trip", "interlock", "fault", "schedule", "demand"]


class Rule(Wanted):
    """Who asks for what: while its condition holds, it wants a state of a load.

    Of a fault rule `probe` may stand in place of a condition: it speaks when that probe's quality
    is one of `qualities` (all that are not good) and it was last good `after_s` ago. A rule that
    is `disabled` says nothing. `basis` says whether its figures are stated, assumed until a
    person or a log bears them out, or stand in for a trial; `note` says what is assumed.
    """

    id: Identifier
    load: Identifier
    name: ShortText = ""
    priority: RulePriority = "demand"
    condition: Condition | None = None
    probe: Identifier | None = None
    qualities: tuple[QualityName, ...] = ("warming", "range", "jump", "stuck", "stale")
    after_s: Seconds = 0.0
    disabled: bool = False
    basis: Literal["entered", "estimated", "trial"] = "entered"
    note: ShortText = ""

    @property
    def band(self) -> Band:
        """Its band; `PlanError` where it stands on another condition."""
        if not isinstance(self.condition, Band):
            raise PlanError(f"rule {self.id}", got="no band", allowed="a rule on a band")
        return self.condition


class Plan(Part):
    """The whole plan of one house."""

    format: Literal["aldea-plan/2"]
    house: House
    scan_period_ms: Annotated[int, Field(ge=20, le=60_000)] = 1000
    places: Annotated[tuple[Place, ...], Field(max_length=500)]
    probes: Annotated[tuple[Probe, ...], Field(max_length=2000)]
    loads: Annotated[tuple[Load, ...], Field(max_length=2000)]
    rules: Annotated[tuple[Rule, ...], Field(max_length=10_000)]
    controls: Annotated[tuple[Control, ...], Field(max_length=1000)] = ()
    groups: Annotated[tuple[LoadGroup, ...], Field(max_length=200)] = ()
    derived: Annotated[tuple[Derived, ...], Field(max_length=500)] = ()
    conditions: Annotated[tuple[NamedCondition, ...], Field(max_length=2000)] = ()
    modes: Annotated[tuple[Mode, ...], Field(max_length=200)] = ()
    schedules: Annotated[tuple[Schedule, ...], Field(max_length=500)] = ()
    doorways: Annotated[tuple[Doorway, ...], Field(max_length=100)] = ()
    exclusive: Annotated[tuple[Exclusive, ...], Field(max_length=200)] = ()
    memory: Memory = Memory()
    boot: BootRule = BootRule()
    supplies: Annotated[tuple[Supply, ...], Field(max_length=100)] = ()
    boards: Annotated[tuple[Board, ...], Field(max_length=200)] = ()
    board_types: Annotated[tuple[BoardType, ...], Field(max_length=100)] = ()
    relays: Annotated[tuple[RelayOutput, ...], Field(max_length=2000)] = ()
    assignments: Annotated[tuple[Assignment, ...], Field(max_length=5000)] = ()
    invariants: Annotated[tuple[Invariant, ...], Field(max_length=500)] = ()
    stock: Annotated[tuple[Stock, ...], Field(max_length=500)] = ()
    numbers: Annotated[tuple[NumberGiven, ...], Field(max_length=40_000)] = ()
    sheet: SheetIssue | None = None
    copies: Annotated[tuple[CopiedPart, ...], Field(max_length=10_000)] = ()

    def probe(self, probe_id: str) -> Probe | None:
        """The probe of that id, if there is one."""
        return cast(Probe | None, _by_id(self).get(("probes", probe_id)))

    def load(self, load_id: str) -> Load | None:
        """The load of that id, if there is one."""
        return cast(Load | None, _by_id(self).get(("loads", load_id)))

    def place(self, place_id: str) -> Place | None:
        """The place of that id, if there is one."""
        return cast(Place | None, _by_id(self).get(("places", place_id)))

    def control(self, control_id: str) -> Control | None:
        """The control of that id, if there is one."""
        return cast(Control | None, _by_id(self).get(("controls", control_id)))

    def group(self, group_id: str) -> LoadGroup | None:
        """The group of that id, if there is one."""
        return cast(LoadGroup | None, _by_id(self).get(("groups", group_id)))

    def board(self, board_id: str) -> Board | None:
        """The board of that id, if there is one."""
        return cast(Board | None, _by_id(self).get(("boards", board_id)))

    def supply(self, supply_id: str | None) -> Supply | None:
        """The supply of that id, if there is one."""
        return cast(Supply | None, _by_id(self).get(("supplies", supply_id)))

    def relays_of(self, load_id: str) -> tuple[RelayOutput, ...]:
        """The relays of that load, in the order of the plan."""
        return _relays_by_load(self).get(load_id, ())

    def probes_in(self, place_id: str) -> tuple[Probe, ...]:
        """The probes of that place, in the order of the plan."""
        return cast(tuple[Probe, ...], _by_place(self).get(("probes", place_id), ()))

    def loads_in(self, place_id: str) -> tuple[Load, ...]:
        """The loads of that place, in the order of the plan."""
        return cast(tuple[Load, ...], _by_place(self).get(("loads", place_id), ()))

    def rules_of(self, load_id: str) -> tuple[Rule, ...]:
        """The rules on that load, in the order of the plan."""
        return _rules_by_load(self).get(load_id, ())

    def bands_of(self, load_id: str) -> tuple[Rule, ...]:
        """The rules on that load that stand on one band, in the order of the plan."""
        return tuple(c for c in self.rules_of(load_id) if isinstance(c.condition, Band))

    @property
    def bands(self) -> tuple[Rule, ...]:
        """The rules that stand on one band, in the order of the plan."""
        return tuple(c for c in self.rules if isinstance(c.condition, Band))

    def bands_on(self, probe_id: str) -> tuple[Rule, ...]:
        """The rules whose band reads that probe, in the order of the plan."""
        return tuple(c for c in self.bands if c.band.probe == probe_id)


@per_plan
def _by_place(plan: Plan) -> dict[tuple[str, str], tuple[Part, ...]]:
    table: dict[tuple[str, str], list[Part]] = {}
    for kind in ("probes", "loads"):
        for part in getattr(plan, kind):
            table.setdefault((kind, part.place), []).append(part)
    return {key: tuple(parts) for key, parts in table.items()}


@per_plan
def _rules_by_load(plan: Plan) -> dict[str, tuple[Rule, ...]]:
    table: dict[str, tuple[Rule, ...]] = {}
    for rule in plan.rules:
        table[rule.load] = (*table.get(rule.load, ()), rule)
    return table


@per_plan
def _by_id(plan: Plan) -> dict[tuple[str, str | None], Part]:
    keys = ("places", "probes", "loads", "controls", "groups", "boards", "supplies")
    return {(key, part.id): part for key in keys for part in reversed(getattr(plan, key))}


@per_plan
def _relays_by_load(plan: Plan) -> dict[str, tuple[RelayOutput, ...]]:
    table: dict[str, tuple[RelayOutput, ...]] = {}
    for relay in plan.relays:
        table[relay.load] = (*table.get(relay.load, ()), relay)
    return table
