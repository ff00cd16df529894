"""What every part of the plan document is made of: names, ids, times, and the strict base."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Identifier = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,47}$")]
# Nothing that cannot be seen, nor turns the letters beside it around; a line break in text alone.
ON_ONE_LINE = r"^[^\x00-\x1f\x7f\u2028-\u202e\u2066-\u2069]*$"
OF_LINES = r"^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f\u202a-\u202e\u2066-\u2069]*$"
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
