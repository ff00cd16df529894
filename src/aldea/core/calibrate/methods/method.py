"""The shape of a method: what is stated at the bench, how pairs are fitted, and what is said."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.pairs import Pair
from aldea.core.plan.document import Probe

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
class Method:
    """How probes of one quantity are calibrated.

    `does` says in a few words what is worked out. `unit` is the unit of a value, `difference` that
    of an error, `places` how many decimals a value has. `stated` are the figures stated at the
    bench, `defaults` their values for a probe, `settles_per_min` the slope inside which a reading
    counts as settled, `computed` the kind of method (`core/words/methods`) of its figures. `axis`
    gives low, high and step of a drawing of pairs. The rest puts a pair or a fit into words.
    """

    quantity: str
    heading: str
    computed: str
    does: str
    takes: str
    unit: str
    difference: str
    places: int
    nothing_yet: str
    doubt_these: str
    untested: str
    stated: tuple[StatedField, ...]
    settles_per_min: float
    defaults: Callable[[Probe], Stated]
    fit: Callable[[Sequence[Pair], Stated], Fit]
    axis: Callable[[Sequence[Pair]], tuple[float, float, float]]
    medium: Callable[[Pair], str]
    approach_words: Callable[[Pair], str]
    ends: Callable[[Fit], str]
    words: Callable[[Fit], list[str]]
    where: Callable[[Fit], str]


def error_words(fit: Fit, reference: float, places: int = 1) -> str:
    """How far the probe was off at a true value: `1.2 high`, `right`."""
    error = (reference - fit.line.intercept) / fit.line.slope - reference
    size = figure(abs(error), places)
    if not float(size):
        return "right"
    return f"{size} {'high' if error > 0 else 'low'}"
