"""Reading form fields: every wrong one is named, with what was typed kept."""

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from starlette.datastructures import FormData

from aldea.core.base.errors import AldeaError, InputError, spoken
from aldea.core.base.figures import exact, thousands
from aldea.core.base.instants import ms_of_local
from aldea.core.base.numbers import number_of, whole_of


def typed_of(form: FormData) -> dict[str, str]:
    """What was typed into a form, without its files."""
    return {key: value for key, value in form.items() if isinstance(value, str)}


CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


@dataclass(slots=True)
class Fields:
    """What was sent, and what is wrong with it, field by field."""

    sent: Mapping[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    def text(self, name: str, *, most: int = 400) -> str:
        """Text without spaces around it."""
        text = str(self.sent.get(name, "")).strip()
        if len(text) > most:
            self.say(
                name, f"These are {thousands(len(text))} characters; {thousands(most)} fit here."
            )
        if CONTROL.search(text):
            self.refuse(name, repr(text)[:80], "letters and signs that can be seen")
        return text

    def whole(self, name: str, *, low: int, high: int) -> int:
        """A whole number in [low, high]; `low` after a refusal."""
        text = str(self.sent.get(name, "")).strip()
        value = whole_of(text)
        if value is None or not low <= value <= high:
            self.refuse(name, repr(text)[:80], f"a whole number from {low} to {high}")
            return low
        return value

    def number(
        self, name: str, *, low: float = -math.inf, high: float = math.inf, unit: str = ""
    ) -> float:
        """A finite number in [low, high]; NaN after a refusal."""
        text = str(self.sent.get(name, "")).strip()
        try:
            value = number_of(text)
        except ValueError:
            self.refuse(name, repr(text)[:80], f"a number{_between(low, high, unit)}")
            return math.nan
        if not (low <= value <= high):
            self.refuse(
                name, repr(f"{text} {unit}".strip())[:80], f"a number{_between(low, high, unit)}"
            )
            return math.nan
        return value

    def choice(self, name: str, allowed: Mapping[str, object] | tuple[str, ...]) -> str:
        """One of a list."""
        value = str(self.sent.get(name, ""))
        if value not in allowed:
            self.say(name, "Choose one of the list.")
        return value

    def moment_ms(self, name: str, zone: str) -> int | None:
        """A wall-clock time of the house, `2025-11-13T08:30`; None after a refusal."""
        text = str(self.sent.get(name, "")).strip()
        try:
            moment = datetime.fromisoformat(text)
        except ValueError:
            self.refuse(name, repr(text)[:80], "a day and a time, as 2025-11-13 08:30")
            return None
        if moment.tzinfo is not None or not 2000 <= moment.year <= 2100:
            self.refuse(name, repr(text), "a wall-clock time of the house")
            return None
        return ms_of_local(moment, zone)

    def refuse(self, name: str, got: str, allowed: str) -> None:
        """Write down what is wrong with a field; the first thing said of it stands."""
        self.say(name, spoken(got, allowed))

    def say(self, name: str, sentence: str) -> None:
        """Write down a whole sentence at a field, unless something was said of it."""
        self.errors.setdefault(name, sentence)

    def refuse_error(self, name: str, error: AldeaError) -> None:
        """Put a refusal of the core at the field that it is about."""
        self.say(name, error.at_field)

    def check(self) -> None:
        """Raise `InputError` where any field is wrong."""
        if self.errors:
            name, refusal = next(iter(self.errors.items()))
            raise InputError(name, text=refusal)


def _between(low: float, high: float, unit: str) -> str:
    """What a number may be, as it follows the word; nothing where it may be any."""
    if math.isfinite(low) and math.isfinite(high):
        return f" from {exact(low)} to {exact(high)} {unit}".rstrip()
    if math.isfinite(low):
        return f" of {exact(low)} {unit} or more".replace("  ", " ")
    return f" up to {exact(high)} {unit}".rstrip() if math.isfinite(high) else ""
