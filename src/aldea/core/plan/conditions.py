"""What a rule hangs on: conditions on values, contacts, clocks and states, and what joins them.

Each is a part with a `kind`. A condition may stand in place or by the id of a named one. Every
figure that a Calibrate bench keeps (a tape's states, a hold, a lamp's share) is read from the probe
where it is left out here.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Part, Seconds, ShortText

QualityName = Literal["good", "warming", "range", "jump", "stuck", "stale"]
TapeState = Literal["open", "dry", "damp", "wet", "short"]
WithoutReading = Literal["keep", "true", "false"]
Hours = Annotated[float, Field(ge=-24, le=24)]
Reads = Identifier  # a probe or a derived signal


class Limit(Part):
    """The value that must not be passed for long, and why."""

    value: float
    why: ShortText = ""


class Setpoint(Part):
    """How a pair was entered: a value in the middle, and the whole differential around it."""

    value: float
    differential: Annotated[float, Field(gt=0)]


class OnValue(Part):
    """A condition on a value, and what it counts as while that value is not good.

    `keep` leaves its last result as it is. `true` and `false` are stated results: they stand from
    `unchanged_for_s` after the last good sample.
    """

    without_reading: WithoutReading = "keep"
    unchanged_for_s: Seconds = 0.0


class Band(OnValue):
    """Two thresholds, a hysteresis apart; rising switches on above, falling switches on below.

    `retained` keeps its state over a power cut. `entered` says that it was entered as a setpoint;
    its thresholds are then half a differential on either side.
    """

    kind: Literal["band"] = "band"
    probe: Reads
    direction: Literal["rising", "falling"]
    on_threshold: float
    off_threshold: float
    delay_on_s: Seconds = 0.0
    delay_off_s: Seconds = 0.0
    limit: Limit | None = None
    retained: bool = False
    entered: Setpoint | None = None


class Beyond(OnValue):
    """A value at or above, or at or below, a threshold; it ends its hysteresis before that."""

    kind: Literal["above", "below"]
    probe: Reads
    value: float
    hysteresis: Annotated[float, Field(ge=0)] = 0.0


class Difference(OnValue):
    """One probe minus another: on at `on`, off at `off`; rising where on is not below off."""

    kind: Literal["difference"] = "difference"
    probe: Identifier
    less: Identifier
    on_threshold: float
    off_threshold: float


class Rate(OnValue):
    """How fast a probe changes, in units a minute over a time: on at `on`, off at `off`."""

    kind: Literal["rate"] = "rate"
    probe: Identifier
    over_s: Annotated[float, Field(gt=0, le=86_400)]
    on_threshold: float
    off_threshold: float


class Within(OnValue):
    """A value in a range; the lower end belongs to it, the upper does not."""

    kind: Literal["within"] = "within"
    probe: Reads
    low: float | None = None
    high: float | None = None


class Tape(OnValue):
    """A leak tape in one of some states, as its bench left their edges."""

    kind: Literal["tape"] = "tape"
    probe: Identifier
    states: Annotated[tuple[TapeState, ...], Field(min_length=1, max_length=5)]


class Contact(Part):
    """A contact, or another input that is on or off, as it stands now."""

    kind: Literal["contact"] = "contact"
    probe: Identifier
    closed: bool = True


class Presence(Part):
    """Somebody is there: motion, and for a hold after it. Without `hold_s` the probe's own."""

    kind: Literal["presence"] = "presence"
    probe: Identifier
    hold_s: Seconds | None = None


class Dark(OnValue):
    """Light at or below a threshold, the share of a lamp that is lit taken off.

    Without `lamp_lx` the share is the probe's own lamp, as its bench measured it.
    """

    kind: Literal["dark"] = "dark"
    probe: Identifier
    value: float
    hysteresis: Annotated[float, Field(ge=0)] = 0.0
    lamp: Identifier | None = None
    lamp_lx: Annotated[float, Field(ge=0, le=200_000)] | None = None


class Gas(OnValue):
    """A gas sensor above its alarm ratio to clean air; a hint, never a safety device."""

    kind: Literal["gas"] = "gas"
    probe: Identifier
    ratio: Annotated[float, Field(gt=1, le=100)] | None = None


class Position(Part):
    """A drive at an end: as `load` with its state open or shut, by contacts or distance."""

    kind: Literal["position"] = "position"
    load: Identifier
    state: Literal["open", "shut", "moving", "unknown"]


class CountAbove(Part):
    """More people in than a number, counted by a doorway pair."""

    kind: Literal["count_above"] = "count_above"
    doorway: Identifier
    value: Annotated[int, Field(ge=0, le=10_000)] = 0


class InWindow(Part):
    """A schedule is active."""

    kind: Literal["window"] = "window"
    schedule: Identifier


class Sun(Part):
    """The sun is down, or up; with an offset after sunrise and sunset, negative before them."""

    kind: Literal["sun"] = "sun"
    state: Literal["up", "down"]
    offset_min: Annotated[float, Field(ge=-720, le=720)] = 0.0
    when_clock_unknown: bool = False


class InMode(Part):
    """A mode of the house, or a latch, has a value."""

    kind: Literal["mode"] = "mode"
    mode: Identifier
    value: ShortText


class LoadState(Part):
    """A load is off, on at all, in a step or pattern, or did not do what it was told."""

    kind: Literal["load"] = "load"
    load: Identifier
    state: Literal["off", "on", "any_on", "missed"] = "any_on"
    level: Annotated[int, Field(ge=1, le=15)] | None = None


class QualityIs(Part):
    """A probe's quality is one of some."""

    kind: Literal["quality"] = "quality"
    probe: Identifier
    among: Annotated[tuple[QualityName, ...], Field(min_length=1, max_length=6)]


class ClockKnown(Part):
    """The board knows the time."""

    kind: Literal["clock_known"] = "clock_known"


class Always(Part):
    """It always holds."""

    kind: Literal["always"] = "always"


class Named(Part):
    """A condition of the plan, by its id."""

    kind: Literal["named"] = "named"
    condition: Identifier


class Lasting(Part):
    """True for: it must hold, or not hold, without a break for a delay before it counts."""

    kind: Literal["lasting"] = "lasting"
    of: "Condition"
    on_s: Seconds = 0.0
    off_s: Seconds = 0.0


class Edge(Part):
    """For a time from the moment at which it begins to hold."""

    kind: Literal["edge"] = "edge"
    of: "Condition"
    for_s: Annotated[float, Field(gt=0, le=604_800)]


class Every(Part):
    """All of some hold."""

    kind: Literal["all"] = "all"
    of: Annotated[tuple["Condition", ...], Field(min_length=1, max_length=32)]


class Some(Part):
    """At least one of some holds."""

    kind: Literal["any"] = "any"
    of: Annotated[tuple["Condition", ...], Field(min_length=1, max_length=32)]


class Unless(Part):
    """It does not hold."""

    kind: Literal["not"] = "not"
    of: "Condition"


Condition = Annotated[
    Band
    | Beyond
    | Difference
    | Rate
    | Within
    | Tape
    | Contact
    | Presence
    | Dark
    | Gas
    | Position
    | CountAbove
    | InWindow
    | Sun
    | InMode
    | LoadState
    | QualityIs
    | ClockKnown
    | Always
    | Named
    | Lasting
    | Edge
    | Every
    | Some
    | Unless,
    Field(discriminator="kind"),
]

for _made in (Lasting, Edge, Every, Some, Unless):
    _made.model_rebuild()


class NamedCondition(Part):
    """A condition with a name, that several rules may stand on."""

    id: Identifier
    name: ShortText = ""
    condition: Condition


def members_of(condition: Any) -> tuple[Any, ...]:
    """The conditions that one is made of; none where it is made of none."""
    of = getattr(condition, "of", ())
    return of if isinstance(of, tuple) else (of,)


def with_part(condition: Any, part: Any, other: Any) -> Any:
    """A condition with one of its parts, told by identity, in the place of which stands another."""
    if condition is part:
        return other
    members = members_of(condition)
    if not members:
        return condition
    changed = tuple(with_part(member, part, other) for member in members)
    of = changed if isinstance(condition.of, tuple) else changed[0]
    return condition.model_copy(update={"of": of})


def all_within(condition: Any) -> tuple[Any, ...]:
    """A condition and all that it is made of, itself first."""
    return (condition, *(part for member in members_of(condition) for part in all_within(member)))
