"""Checks of marks: reversed, too close, two loads that work against each other, holes in ranges."""

from collections.abc import Iterator
from itertools import pairwise

from aldea.core.base.figures import short
from aldea.core.base.quantities import unit_of
from aldea.core.devices.finding import Check, Finding, Mend
from aldea.core.plan.claim_edits import put_claim
from aldea.core.plan.claim_parts import taken_apart
from aldea.core.plan.conditions import Band, Beyond, Dark, OnValue, Within, all_within, with_part
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.plan.reading import expanded, working_claims
from aldea.core.rules.hysteresis import can_tell, hysteresis_of


def _with_band(claim: Claim, **marks: float) -> Mend:
    band = claim.band.model_copy(update={**marks, "entered": None})
    return lambda plan: put_claim(plan, claim.model_copy(update={"condition": band}))


def reversed_marks(plan: Plan) -> Iterator[Finding]:
    """A rising band that ends above where it begins, or a falling one below."""
    for claim in plan.bands:
        band, load = claim.band, plan.load(claim.load)
        rising = band.direction == "rising"
        if load is None or (band.on >= band.off if rising else band.on <= band.off):
            continue
        yield Finding(
            key=f"reversed-{claim.id}",
            weight="severe",
            head=f"{load.name}: the marks stand the wrong way round.",
            why=f"It begins at {short(band.on)} and ends at {short(band.off)}, "
            f"though it is {'rising' if rising else 'falling'}: it would never hold still.",
            mend="Change the two marks over.",
            at=f"claim:{claim.id}",
            field="condition.on",
            press="Change them over",
            apply=_with_band(claim, on=band.off, off=band.on),
        )


def close_marks(plan: Plan) -> Iterator[Finding]:
    """Marks closer to each other than the reading can tell."""
    for claim in plan.bands:
        band, load, least = claim.band, plan.load(claim.load), can_tell(plan, claim.band.probe)
        rising = band.direction == "rising"
        gap = round(band.on - band.off if rising else band.off - band.on, 6)
        if load is None or gap < 0 or gap >= least:
            continue
        unit = reading_unit(plan, band.probe)
        off = round(band.on - least if rising else band.on + least, 6)
        yield Finding(
            key=f"close-{claim.id}",
            weight="warning",
            head=f"{load.name}: its marks are {short(gap)}{unit} apart.",
            why=f"{reading_name(plan, band.probe)} can tell {short(least)}{unit} apart (twice "
            f"±{short(least / 2)}).",
            mend=f"Calibrate it, let it end at {short(off)}{unit}, or try wider marks at Tune.",
            at=f"claim:{claim.id}",
            field="condition.on",
            press=f"End at {short(off)}",
            apply=_with_band(claim, off=off),
        )


def close_edges(plan: Plan) -> Iterator[Finding]:
    """The same in every other condition on a value, wherever it stands in a rule."""
    for load in plan.loads:
        for claim in working_claims(plan, load.id):
            if claim.condition is None or isinstance(claim.condition, Band):
                continue
            own = [part for part in all_within(claim.condition) if isinstance(part, OnValue)]
            for number, part in enumerate(own):
                yield from _close_part(plan, load, claim, part, number)


def _close_part(
    plan: Plan, load: Load, claim: Claim, part: OnValue, number: int
) -> Iterator[Finding]:
    told = hysteresis_of(plan, part)
    if told is None or not 0 <= told.gap < told.least or isinstance(claim.condition, Band):
        return
    wider = told.wider
    yield Finding(
        key=f"close-{claim.id}-{number}",
        weight="warning",
        head=f"{load.name}: one of its rules ends {short(told.gap)}{told.unit} from where it "
        "begins.",
        why=f"{told.names} can tell {short(told.least)}{told.unit} apart: it would switch on and "
        "off with the noise.",
        mend=f"Calibrate, or let it end {short(told.least)}{told.unit} away.",
        at=f"claim:{claim.id}",
        field=_field_of(claim, part),
        press=f"End {short(told.least)}{told.unit} away",
        apply=lambda plan: put_claim(
            plan,
            claim.model_copy(update={"condition": with_part(claim.condition, part, wider)}),
        ),
    )


def _field_of(claim: Claim, part: OnValue) -> str:
    """The form's field for the end of a condition; nothing where it stands in one of the rows."""
    parts = taken_apart(claim.condition)
    if parts is None or parts.main is not part:
        return ""
    return "condition.gap" if isinstance(part, Beyond | Dark) else "condition.off"


def against_each_other(plan: Plan) -> Iterator[Finding]:
    """A load that warms and one that cools, of one place, that are both asked for at one value."""
    demands = [c for c in plan.bands if c.rank == "demand" and not c.off_for_now and c.want == "on"]
    for up in (c for c in demands if c.band.direction == "falling"):
        for down in (c for c in demands if c.band.direction == "rising"):
            first, second = plan.load(up.load), plan.load(down.load)
            one, other = plan.probe(up.band.probe), plan.probe(down.band.probe)
            if first is None or second is None or one is None or other is None:
                continue
            same = (one.quantity, first.place) == (other.quantity, second.place)
            if not same or first.id == second.id or up.band.off <= down.band.off:
                continue
            unit = unit_of(one.quantity)
            off = down.band.off
            gap = up.band.off - up.band.on
            yield Finding(
                key=f"against-{up.id}-{down.id}",
                weight="warning",
                head=f"{first.name} and {second.name} can run against each other.",
                why=f"One runs up to {short(up.band.off)} {unit}, the other down to "
                f"{short(down.band.off)} {unit}: between them both are on.",
                mend=f"Let {first.name} end at {short(off)} {unit} or lower.",
                at=f"claim:{up.id}",
                field="condition.on",
                press=f"End at {short(off)}",
                apply=_with_band(up, off=off, on=round(off - gap, 6)),
            )


def holes_in_ranges(plan: Plan) -> Iterator[Finding]:
    """Ranges of one probe on one load that leave a hole between them, or overlap."""
    for load in plan.loads:
        ranges: dict[str, list[tuple[float, float, Claim]]] = {}
        for claim in plan.claims_of(load.id):
            if claim.off_for_now or claim.condition is None:
                continue
            for part in expanded(plan, claim.condition):
                if isinstance(part, Within) and part.low is not None and part.high is not None:
                    ranges.setdefault(part.probe, []).append((part.low, part.high, claim))
        for rows in ranges.values():
            for (_, end, first), (start, _, second) in pairwise(sorted(rows, key=lambda r: r[:2])):
                if end == start or first.id == second.id:
                    continue
                word = "overlap" if start < end else "leave a hole"
                low, high = sorted((start, end))
                yield Finding(
                    key=f"ranges-{first.id}-{second.id}",
                    weight="warning",
                    head=f"{load.name}: two ranges {word} from {short(low)} to {short(high)}.",
                    why="There both ask, and the upper one wins."
                    if start < end
                    else "There neither asks, and what is below them decides.",
                    mend="Let one end where the other begins.",
                    at=f"claim:{second.id}",
                    field="condition.low",
                )


BAND_CHECKS: tuple[Check, ...] = (
    reversed_marks,
    close_marks,
    close_edges,
    against_each_other,
    holes_in_ranges,
)
