"""What a hand works and what it wants: buttons, switches, selectors, remotes, groups of loads."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import (
    Identifier,
    MilliAmperes,
    Name,
    Ohms,
    Part,
    Seconds,
    Volts,
    text_of,
)
from aldea.core.plan.house_rules import EndsBy

ControlType = Literal["push_button", "wall_switch", "selector", "touch_pad", "remote", "lamp"]
Does = Literal[
    "on", "off", "toggle", "up", "down", "step", "open", "close", "automatic", "mode", "reset"
]
Meaning = Literal["position", "last_action", "toggle"]
AtBoot = Literal["as_it_stands", "nothing"]
AfterOther = Literal["when_moved", "at_once"]
StepNumber = Annotated[int, Field(ge=0, le=15)]
USUAL_MEANING: dict[str, Meaning] = {
    "push_button": "toggle",
    "touch_pad": "toggle",
    "wall_switch": "toggle",
    "selector": "position",
}


class OnlyIn(Part):
    """A mode, and the value in which alone something is heard."""

    mode: Identifier
    value: Name


class ControlAction(Part):
    """What a press, a code or a position wants of a load or of a group.

    `step` goes with “step”; a `mode` is set to `value`, or goes to its next one without. `reset`
    resets a trip of the load, or all of them. `ends_by` and `for_s` say for this time how the
    rule ends, in place of the load's own rule; `only` in which mode it is heard, `ends_with_mode`
    that what it makes ends when that mode is left.
    """

    load: Identifier | None = None
    group: Identifier | None = None
    does: Does = "toggle"
    step: StepNumber | None = None
    mode: Identifier | None = None
    value: Name | None = None
    trip: Identifier | None = None
    by: Annotated[int, Field(ge=1, le=15)] = 1
    ends_by: EndsBy | None = None
    for_s: Annotated[float, Field(gt=0, le=604_800)] | None = None
    only: OnlyIn | None = None
    ends_with_mode: bool = False


# What is wanted besides, in order, by the same act.
Also = Annotated[tuple[ControlAction, ...], Field(max_length=5)]


class ButtonPress(ControlAction):
    """What a button wants when it is pressed briefly, long, or twice."""

    press: Literal["short", "long", "double"] = "short"


class SelectorPosition(ControlAction):
    """One position of a selector, by the pattern of its contacts (1 closed, 0 open)."""

    name: Name
    pattern: Annotated[str, text_of(r"^[01]{1,8}$", "1 to 8 of the digits 0 and 1")]
    does: Does | None = None  # type: ignore[assignment]  # a position may want nothing
    also: Also = ()


class RemoteCode(ControlAction):
    """A code that a remote sends, and what it is to do."""

    name: Name
    code: Annotated[str, text_of(r"^[0-9a-f]{2,32}$", "2 to 32 digits 0–9, a–f")]
    also: Also = ()


class Control(Part):
    """What a hand works: a button, a switch, a selector, a touch pad, a remote; or a lamp.

    `means` says what counts: the position, the last action, or each change as a toggle; None is
    what such a control usually means. With `position`, `at_boot` tells whether the position holds
    when the panel starts, `after_other` when it holds again after another way has acted.
    """

    id: Identifier
    name: Name
    place: Identifier
    kind: ControlType
    load: Identifier | None = None
    contacts: Annotated[int, Field(ge=1, le=8)] = 1
    closed_means: Literal["on", "off"] = "on"
    means: Meaning | None = None
    at_boot: AtBoot = "as_it_stands"
    after_other: AfterOther = "when_moved"
    presses: Annotated[tuple[ButtonPress, ...], Field(max_length=6)] = ()
    pull: Literal["board", "resistor"] = "board"
    pull_ohm: Ohms = 10_000.0
    debounce_ms: Annotated[float, Field(ge=0, le=10_000)] = 30.0
    lockout_ms: Annotated[float, Field(ge=0, le=10_000)] = 400.0
    long_ms: Annotated[float, Field(ge=100, le=10_000)] = 800.0
    double_ms: Annotated[float, Field(ge=100, le=10_000)] = 400.0
    settle_ms: Annotated[float, Field(ge=0, le=60_000)] | None = None
    positions: Annotated[tuple[SelectorPosition, ...], Field(max_length=64)] = ()
    codes: Annotated[tuple[RemoteCode, ...], Field(max_length=200)] = ()
    lamp_ma: MilliAmperes = 8.0
    output: Literal["high", "low", "open_collector"] = "high"
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 2.0

    @property
    def meaning(self) -> Meaning:
        """What counts: as stated, else what such a control usually means."""
        return self.means or USUAL_MEANING.get(self.kind, "last_action")

    @property
    def wants(self) -> tuple[ControlAction, ...]:
        """Everything that it can want, of whichever press, code or position."""
        actions: list[ControlAction] = [*self.presses]
        for code in self.codes:
            actions += [code, *code.also]
        for position in self.positions:
            actions += [position, *position.also] if position.does is not None else []
        return tuple(actions)


class LoadGroup(Part):
    """Loads that one hand works together, in their order, each so much later than the last."""

    id: Identifier
    name: Name
    members: Annotated[tuple[Identifier, ...], Field(max_length=200)]
    stagger_s: Seconds = 0.5
