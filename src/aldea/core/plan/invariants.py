"""What must never happen, in the typed form of the engine: terms, and four shapes over them."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Part, Seconds, ShortText

LongSeconds = Annotated[float, Field(ge=0, le=31_557_600)]


class LoadIs(Part):
    """A load is on (or off)."""

    term: Literal["load_is"] = "load_is"
    load: Identifier
    state: Literal["on", "off"] = "on"


class ProbeIs(Part):
    """A probe's reading is good, or is not."""

    term: Literal["probe_is"] = "probe_is"
    probe: Identifier
    quality: Literal["good", "not_good"] = "not_good"


class ValueIs(Part):
    """A probe's value is above or below a figure, in the unit of its quantity."""

    term: Literal["value_is"] = "value_is"
    probe: Identifier
    side: Literal["above", "below"]
    value: float


Term = Annotated[LoadIs | ProbeIs | ValueIs, Field(discriminator="term")]


class Never(Part):
    """All terms together, never for longer than a time."""

    form: Literal["never"] = "never"
    when: Annotated[tuple[Term, ...], Field(min_length=1, max_length=8)]
    longer_than_s: LongSeconds = 0.0


class Whenever(Part):
    """Whenever all of some terms hold, then all of others within a time."""

    form: Literal["whenever"] = "whenever"
    when: Annotated[tuple[Term, ...], Field(min_length=1, max_length=8)]
    then: Annotated[tuple[Term, ...], Field(min_length=1, max_length=8)]
    within_s: Seconds


class NeverTogether(Part):
    """Two loads are never on together."""

    form: Literal["never_together"] = "never_together"
    loads: tuple[Identifier, Identifier]


class AtMost(Part):
    """A load is on for at most a time in any window of a length."""

    form: Literal["at_most"] = "at_most"
    load: Identifier
    at_most_s: LongSeconds
    window_s: LongSeconds


class Invariant(Part):
    """A must-never of the house: its typed form, and why in a person's words."""

    id: Identifier
    rule: Annotated[Never | Whenever | NeverTogether | AtMost, Field(discriminator="form")]
    why: ShortText = ""

    @property
    def loads(self) -> tuple[str, ...]:
        """Every load that it speaks of."""
        rule = self.rule
        if isinstance(rule, NeverTogether):
            return rule.loads
        if isinstance(rule, AtMost):
            return (rule.load,)
        return tuple(dict.fromkeys(t.load for t in self.terms if isinstance(t, LoadIs)))

    @property
    def probes(self) -> tuple[str, ...]:
        """Every probe that it speaks of."""
        return tuple(dict.fromkeys(t.probe for t in self.terms if isinstance(t, ProbeIs | ValueIs)))

    @property
    def terms(self) -> tuple[LoadIs | ProbeIs | ValueIs, ...]:
        """Its terms, those of the consequence last."""
        rule = self.rule
        if isinstance(rule, Never):
            return rule.when
        return rule.when + rule.then if isinstance(rule, Whenever) else ()
