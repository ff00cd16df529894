"""What every part of the plan document is made of: names, ids, times, and the strict base."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Identifier = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,47}$")]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
ShortText = Annotated[str, StringConstraints(strip_whitespace=True, max_length=400)]
Seconds = Annotated[float, Field(ge=0, le=604_800)]
Ohms = Annotated[float, Field(gt=0, le=1e9)]
Volts = Annotated[float, Field(gt=0, le=1000)]
MilliAmperes = Annotated[float, Field(ge=0, le=100_000)]


class Part(BaseModel):
    """A part of the plan: no unknown key, no infinity, unchangeable once read."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True, strict=True)
