"""What every part of the plan document is made of: names, ids, times, and the strict base."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

WORDS_OF_PATTERN: dict[str, str] = {}  # what a text of that pattern is, for a refusal


def text_of(pattern: str, words: str) -> StringConstraints:
    """The rule for a text of one pattern, with the words that a refusal says it in."""
    WORDS_OF_PATTERN[pattern] = words
    return StringConstraints(pattern=pattern)


Identifier = Annotated[
    str, text_of(r"^[a-z][a-z0-9_]{0,47}$", "an id of up to 48 small letters, digits and _")
]
# Nothing that cannot be seen, nor turns the letters beside it around; a line break in text alone.
ON_ONE_LINE = r"^[^\x00-\x1f\x7f\u2028-\u202e\u2066-\u2069]*$"
OF_LINES = r"^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f\u202a-\u202e\u2066-\u2069]*$"
WORDS_OF_PATTERN[ON_ONE_LINE] = "letters and signs that can be seen, on one line"
WORDS_OF_PATTERN[OF_LINES] = "letters and signs that can be seen"
Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=ON_ONE_LINE),
]
ShortText = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=400, pattern=OF_LINES)
]
Seconds = Annotated[float, Field(ge=0, le=604_800)]
Ohms = Annotated[float, Field(gt=0, le=1e9)]
Volts = Annotated[float, Field(gt=0, le=1000)]
MilliAmperes = Annotated[float, Field(ge=0, le=100_000)]


class Part(BaseModel):
    """A part of the plan: no unknown key, no infinity, unchangeable once read."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True, strict=True)
