"""A special circuit as it is shown: facts, a table of its states, its drawing, its caution."""

from dataclasses import dataclass, field

DEAD_WORK = "Work dead, prove dead; local code and a licensed electrician decide the mains side."


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """A special circuit: facts as label and value, a table of its states, and its caution.

    `draws` names the drawing: two_way, stepped, drive, leak, divider, level, serial, button or
    driver.
    """

    owner: str
    title: str
    draws: str
    facts: tuple[tuple[str, str], ...]
    head: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    caution: str = ""
    values: dict[str, str] = field(default_factory=dict)
