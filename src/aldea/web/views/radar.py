"""A radar's bench: thresholds by gate, what they miss and mistake, the hold time."""

from dataclasses import dataclass

from aldea.core.calibrate.hold import Hold
from aldea.core.calibrate.radar import Gates
from aldea.core.words.figures import figure
from aldea.core.words.times import span
from aldea.core.words.verdicts import Verdict
from aldea.web.views.plot import Scale

BOTTOM, TOP, SLOT, LEFT = 190, 10, 52, 46
MOST_MISSED_1, MOST_FALSE_1 = 0.05, 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class GateRow:
    """A gate in the table and in the drawing; `y_…` are heights in it."""

    number: int
    reach: str
    threshold: str
    false: str
    missed: str
    x: float
    y_threshold: float
    y_empty: float
    y_occupied: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RadarView:
    """Everything that the page shows of two recordings."""

    verdict: Verdict
    rows: tuple[GateRow, ...]
    width: float
    top: str
    thresholds: tuple[float, ...]
    hold: Hold | None
    hold_words: str
    bound_words: str


def _share(value: float) -> str:
    return f"{figure(100 * value, 1)} %"


def make_radar_view(
    name: str, found: Gates, hold: Hold | None, *, gate_m: float, rows: tuple[int, int]
) -> RadarView:
    """Finish every value; `gate_m` is how far one gate reaches, `rows` how many were recorded."""
    highest = max(max(gate.threshold, gate.empty_top, gate.occupied_middle) for gate in found.gates)
    y = Scale(low=0, high=highest or 1.0, pixel_low=BOTTOM, pixel_high=TOP)
    return RadarView(
        verdict=_verdict(name, found, rows),
        rows=tuple(
            GateRow(
                number=i,
                reach=f"{figure(i * gate_m, 2)} to {figure((i + 1) * gate_m, 2)} m",
                threshold=figure(gate.threshold, 1),
                false=_share(gate.false_1),
                missed=_share(gate.missed_1),
                x=LEFT + SLOT * i,
                y_threshold=round(y(gate.threshold), 1),
                y_empty=round(y(gate.empty_top), 1),
                y_occupied=round(y(gate.occupied_middle), 1),
            )
            for i, gate in enumerate(found.gates)
        ),
        width=LEFT + SLOT * len(found.gates) + 8,
        top=figure(highest, 0),
        thresholds=tuple(float(f"{gate.threshold:.4g}") for gate in found.gates),
        hold=hold,
        hold_words=f"{span(hold.hold_s)}, the {hold.order}. of the gaps" if hold else "",
        bound_words=_bound(hold) if hold else "",
    )


def _bound(hold: Hold) -> str:
    if hold.bound_s is None:
        return f"too few gaps for a promise: {hold.needed} are needed"
    return f"{span(hold.bound_s)}, the {hold.bound_order}. of the gaps"


def _verdict(name: str, found: Gates, rows: tuple[int, int]) -> Verdict:
    head = (
        f"{name}: misses {_share(found.missed_1)} of the occupied room, "
        f"mistakes {_share(found.false_1)} of the empty one."
    )
    rest = f"From {rows[0]} rows empty and {rows[1]} occupied."
    if found.missed_1 > MOST_MISSED_1:
        return Verdict(
            mark="fails",
            sentence=head,
            rest="A smaller margin or quantile, or another place for the radar. " + rest,
        )
    if found.false_1 > MOST_FALSE_1:
        return Verdict(
            mark="owed", sentence=head, rest="A wider margin; or what moved in there? " + rest
        )
    return Verdict(mark="holds", sentence=head, rest=rest)
