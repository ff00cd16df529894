"""Checks of thresholds: reversed, too close, against each other, and ranges with holes."""

from collections.abc import Iterator
from itertools import pairwise

from aldea.core.base.figures import short
from aldea.core.base.quantities import unit_of
from aldea.core.devices.finding import Check, Finding, Fix
from aldea.core.plan.conditions import Band, Beyond, Dark, OnValue, Within, all_within, with_part
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.plan.reading import expanded, working_rules
from aldea.core.plan.rule_edits import put_rule
from aldea.core.plan.rule_parts import taken_apart
from aldea.core.rules.hysteresis import can_tell, hysteresis_of


def _with_band(rule: Rule, **thresholds: float) -> Fix:
    band = rule.band.model_copy(update={**thresholds, "entered": None})
    return lambda plan: put_rule(plan, rule.model_copy(update={"condition": band}))


def reversed_thresholds(plan: Plan) -> Iterator[Finding]:
    """A rising band that ends above where it begins, or a falling one below."""
    for rule in plan.bands:
        band, load = rule.band, plan.load(rule.load)
        rising = band.direction == "rising"
        if load is None or (
            band.on_threshold >= band.off_threshold
            if rising
            else band.on_threshold <= band.off_threshold
        ):
            continue
        yield Finding(
            key=f"reversed-{rule.id}",
            weight="severe",
            head=f"{load.name}: the thresholds are reversed.",
            why=f"It begins at {short(band.on_threshold)} and ends at {short(band.off_threshold)}, "
            f"though it is {'rising' if rising else 'falling'}: it would never come to rest.",
            fix="Exchange the two thresholds.",
            at=f"rule:{rule.id}",
            field="condition.on_threshold",
            press="Exchange them",
            apply=_with_band(
                rule, on_threshold=band.off_threshold, off_threshold=band.on_threshold
            ),
        )


def close_thresholds(plan: Plan) -> Iterator[Finding]:
    """Thresholds closer to each other than the reading can tell."""
    for rule in plan.bands:
        band, load = rule.band, plan.load(rule.load)
        least = can_tell(plan, band.probe, band.on_threshold, band.off_threshold)
        rising = band.direction == "rising"
        gap = round(
            band.on_threshold - band.off_threshold
            if rising
            else band.off_threshold - band.on_threshold,
            6,
        )
        if load is None or gap < 0 or gap >= least:
            continue
        unit = reading_unit(plan, band.probe)
        off = round(band.on_threshold - least if rising else band.on_threshold + least, 6)
        yield Finding(
            key=f"close-{rule.id}",
            weight="warning",
            head=f"{load.name}: its thresholds are {short(gap)}{unit} apart.",
            why=f"{reading_name(plan, band.probe)} can tell {short(least)}{unit} apart (twice "
            f"±{short(least / 2)}).",
            fix=f"Calibrate it, let it end at {short(off)}{unit}, or try wider thresholds at Tune.",
            at=f"rule:{rule.id}",
            field="condition.on_threshold",
            press=f"End at {short(off)}",
            apply=_with_band(rule, off_threshold=off),
        )


def close_edges(plan: Plan) -> Iterator[Finding]:
    """The same in every other condition on a value, wherever it stands in a rule."""
    for load in plan.loads:
        for rule in working_rules(plan, load.id):
            if rule.condition is None or isinstance(rule.condition, Band):
                continue
            own = [part for part in all_within(rule.condition) if isinstance(part, OnValue)]
            for number, part in enumerate(own):
                yield from _close_part(plan, load, rule, part, number)


def _close_part(
    plan: Plan, load: Load, rule: Rule, part: OnValue, number: int
) -> Iterator[Finding]:
    gap = hysteresis_of(plan, part)
    if gap is None or not 0 <= gap.hysteresis < gap.least or isinstance(rule.condition, Band):
        return
    wider = gap.wider
    yield Finding(
        key=f"close-{rule.id}-{number}",
        weight="warning",
        head=f"{load.name}: one of its rules ends {short(gap.hysteresis)}{gap.unit} "
        "from where it begins.",
        why=f"{gap.names} can tell {short(gap.least)}{gap.unit} apart: it would switch on and "
        f"off with noise.",
        fix=f"Calibrate, or let it end {short(gap.least)}{gap.unit} away.",
        at=f"rule:{rule.id}",
        field=_field_of(rule, part),
        press=f"End {short(gap.least)}{gap.unit} away",
        apply=lambda plan: put_rule(
            plan,
            rule.model_copy(update={"condition": with_part(rule.condition, part, wider)}),
        ),
    )


def _field_of(rule: Rule, part: OnValue) -> str:
    """The form's field for the end of a condition; nothing where it stands in one of the rows."""
    parts = taken_apart(rule.condition)
    if parts is None or parts.main is not part:
        return ""
    return "condition.hysteresis" if isinstance(part, Beyond | Dark) else "condition.off"


def against_each_other(plan: Plan) -> Iterator[Finding]:
    """A load that warms and one that cools, of one place, that are both asked for at one value."""
    demands = [
        c for c in plan.bands if c.priority == "demand" and not c.disabled and c.want == "on"
    ]
    for up in (c for c in demands if c.band.direction == "falling"):
        for down in (c for c in demands if c.band.direction == "rising"):
            first, second = plan.load(up.load), plan.load(down.load)
            one, other = plan.probe(up.band.probe), plan.probe(down.band.probe)
            if first is None or second is None or one is None or other is None:
                continue
            same = (one.quantity, first.place) == (other.quantity, second.place)
            if (
                not same
                or first.id == second.id
                or up.band.off_threshold <= down.band.off_threshold
            ):
                continue
            unit = unit_of(one.quantity)
            off = down.band.off_threshold
            gap = up.band.off_threshold - up.band.on_threshold
            yield Finding(
                key=f"against-{up.id}-{down.id}",
                weight="warning",
                head=f"{first.name} and {second.name} can run against each other.",
                why=f"One runs up to {short(up.band.off_threshold)} {unit}, the other down to "
                f"{short(down.band.off_threshold)} {unit}: between them both can be on.",
                fix=f"Let {first.name} end at {short(off)} {unit} or lower.",
                at=f"rule:{up.id}",
                field="condition.on_threshold",
                press=f"End at {short(off)}",
                apply=_with_band(up, off_threshold=off, on_threshold=round(off - gap, 6)),
            )


def holes_in_ranges(plan: Plan) -> Iterator[Finding]:
    """Ranges of one probe on one load that leave a hole between them, or overlap."""
    for load in plan.loads:
        ranges: dict[str, list[tuple[float, float, Rule]]] = {}
        for rule in plan.rules_of(load.id):
            if rule.disabled or rule.condition is None:
                continue
            for part in expanded(plan, rule.condition):
                if isinstance(part, Within) and part.low is not None and part.high is not None:
                    ranges.setdefault(part.probe, []).append((part.low, part.high, rule))
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
                    why="There both are active, and the upper one wins."
                    if start < end
                    else "There neither is active, and the rules below them decide.",
                    fix="Set the end of one to the beginning of the other.",
                    at=f"rule:{second.id}",
                    field="condition.low",
                )


BAND_CHECKS: tuple[Check, ...] = (
    reversed_thresholds,
    close_thresholds,
    close_edges,
    against_each_other,
    holes_in_ranges,
)
