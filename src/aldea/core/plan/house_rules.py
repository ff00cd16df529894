"""What the rules of a house stand on beside rules: modes, doorways, memory, boot, exclusion."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Name, Part, Seconds, ShortText, text_of
from aldea.core.plan.conditions import InWindow, Named
from aldea.core.plan.schedules import TimeOfDay

EndsBy = Literal["time", "agreement", "automatic", "position"]
RetainedField = Annotated[
    str,
    text_of(
        r"^(load|mode|count|band|override|lock_out|moments|group):[a-z][a-z0-9_]{0,47}$",
        "a thing that is kept, such as mode:house",
    ),
]


class OverrideEnd(Part):
    """How a person's say over a load ends: after a time, at the next agreement, or given back."""

    ends_by: EndsBy = "time"
    for_s: Annotated[float, Field(gt=0, le=604_800)] = 7200.0


class ModeChange(Part):
    """What sets a mode by itself: the beginning, and the end, of a schedule or a named condition.

    It acts once, when `when` begins or ends, as a press would; between these instants people may
    set the mode to another value. With `after_power_cut` set, it also sets `value` after a cut in
    whose wake `when` is true; with keep, the retained value stays until the next beginning or end.
    """

    when: Annotated[InWindow | Named, Field(discriminator="kind")]
    value: Name | None = None
    end_value: Name | None = None
    after_power_cut: Literal["keep", "set"] = "keep"


class Mode(Part):
    """A mode of the house, or of some loads: one of some values; a latch has two."""

    id: Identifier
    name: Name
    values: Annotated[tuple[Name, ...], Field(min_length=2, max_length=12)] = ("off", "on")
    start: Name | None = None
    retained: bool = True
    changes: Annotated[tuple[ModeChange, ...], Field(max_length=12)] = ()


class Doorway(Part):
    """Two probes on either side of a door, whose order counts people in and out."""

    id: Identifier
    name: Name
    outer: Identifier
    inner: Identifier
    within_s: Annotated[float, Field(gt=0, le=60)] = 3.0
    reset_at: Annotated[tuple[TimeOfDay, ...], Field(max_length=24)] = ()
    retained: bool = False


class Memory(Part):
    """What outlives the power, and when it is written.

    Without `fields` it is what the loads' classes and the parts themselves say. Written at each
    change; with `quiet_s` once nothing has changed for so long, with `latest_s` at the latest so
    long after a first change, never more often than `least_s`.
    """

    fields: tuple[RetainedField, ...] | None = None
    quiet_s: Seconds = 0.0
    latest_s: Seconds | None = None
    least_s: Seconds = 0.0
    record_bytes: Annotated[int, Field(ge=16, le=4096)] = 64


class BootRule(Part):
    """What every load waits for after power returns: a delay, and its place in the stagger."""

    delay_s: Seconds = 0.0
    stagger_s: Seconds = 0.0


class Exclusive(Part):
    """Relays of which never two conduct together, and how long one must have been open."""

    id: Identifier
    relays: Annotated[tuple[Identifier, ...], Field(min_length=2, max_length=32)]
    dead_s: Seconds = 0.0
    why: ShortText = ""
