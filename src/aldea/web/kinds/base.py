"""The shape of a kind: how its pairs are read from a form, fitted, drawn and put into words."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from aldea.core.calibrate.bench import Fit, Pair
from aldea.core.plan.document import Probe
from aldea.core.words.figures import figure
from aldea.web.forms import Fields

Stated = dict[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class StatedField:
    """A figure that is stated at the bench: its name, what it is called, unit and range."""

    name: str
    label: str
    unit: str
    low: float
    high: float
    for_one_point: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """One kind of probe.

    `difference` is the unit of an error, `places` how many decimals a value has. `take_form` is
    the template of the form that takes a pair, `first` what stands in it at first, `stated` the
    figures stated at the bench, `defaults` their values for a probe, `settles` the slope per minute
    inside which a reading counts as settled.
    """

    quantity: str
    called: str
    unit: str
    difference: str
    places: int
    take_form: str
    nothing_yet: str
    doubt_these: str
    untested: str
    first: dict[str, str]
    stated: tuple[StatedField, ...]
    settles: float
    defaults: Callable[[Probe], Stated]
    read_pair: Callable[[Fields], Pair]
    fit: Callable[[Sequence[Pair], Stated], Fit]
    axis: Callable[[Sequence[Pair]], tuple[float, float, float]]
    medium: Callable[[Pair], str]
    came: Callable[[Pair], str]
    ends: Callable[[Fit], str]
    words: Callable[[Fit], list[str]]
    where: Callable[[Fit], str]


def error_words(fit: Fit, reference: float, places: int = 1) -> str:
    """How far the probe was off at a true value: `1.2 high`, `right`."""
    error = (reference - fit.line.intercept) / fit.line.slope - reference
    said = figure(abs(error), places)
    if not float(said):
        return "right"
    return f"{said} {'high' if error > 0 else 'low'}"
