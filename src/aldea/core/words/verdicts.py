"""The one sentence at the top of each bench, with the number in it."""

from dataclasses import dataclass
from typing import Literal

from aldea.core.base.figures import figure, short
from aldea.core.calibrate.fit import Fit
from aldea.core.plan.conditions import Band
from aldea.core.rehearse.consequence import Consequence

VerdictState = Literal["holds", "fails", "not_shown", "owed"]
CHATTER_STARTS_PER_DAY = 24  # more than once an hour: a relay and a compressor both suffer
FEW_YEARS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """How it stands, the sentence, and what follows it more quietly."""

    state: VerdictState
    sentence: str
    rest: str = ""


def tune_verdict(
    name: str,
    band: Band,
    unit: str,
    *,
    draft: Consequence,
    running: Consequence | None,
    can_tell: float,
) -> Verdict:
    """What the draft’s thresholds do, against the published ones where there are any."""
    if not draft.days:
        return Verdict(
            state="not_shown",
            sentence=f"{name}: nothing is recorded in the chosen days.",
            rest="Choose other days, or import a log of them.",
        )
    both = f"on at {short(band.on_threshold)}, off at {short(band.off_threshold)}"
    width = abs(band.on_threshold - band.off_threshold)
    a_day = figure(draft.starts_per_day)
    limit = f"{short(band.limit.value)} {unit}" if band.limit else ""
    rest = ""
    if band.limit is not None:
        word = "above" if band.direction == "rising" else "below"
        rest = (
            f"{figure(draft.unanswered_hours_per_week)} h a week {word} {limit} with the load off."
        )
    if width < can_tell:
        return Verdict(
            state="not_shown",
            sentence=f"{name}: the hysteresis of {short(round(width, 3))} {unit} is smaller than "
            f"2 U = {figure(can_tell)} {unit}.",
            rest=f"{a_day} starts a day on this log. {rest}".strip(),
        )
    if draft.starts_per_day > CHATTER_STARTS_PER_DAY or draft.relay_years < FEW_YEARS:
        return Verdict(
            state="fails",
            sentence=f"{name}: {both}: {a_day} starts a day; the relay lasts "
            f"{figure(draft.relay_years)} years.",
            rest=rest,
        )
    if running is None or abs(running.starts_per_day - draft.starts_per_day) < 0.05:
        sentence = f"{name}: {both}: {a_day} starts a day."
    else:
        verb = "cuts" if draft.starts_per_day < running.starts_per_day else "raises"
        was = figure(running.starts_per_day)
        sentence = f"{name}: the draft ({both}) {verb} starts from {was} to {a_day} a day."
    return Verdict(state="holds", sentence=sentence, rest=rest)


def calibrate_verdict(
    name: str,
    fit: Fit | None,
    *,
    refusal: str,
    unit: str,
    difference: str,
    places: int,
    ends: str,
    doubt_these: str,
    untested: str,
) -> Verdict:
    """How the fit of a probe stands; the words beside the figures are its kind's."""
    if fit is None:
        return Verdict(state="owed", sentence=f"{name}: no line yet.", rest=refusal)
    low, high = figure(fit.low, places - 1), figure(fit.high, places - 1)
    expanded, k = figure(fit.expanded, places), short(round(fit.budget.factor, 2))
    span = f"from {low} to {high} {unit}: U = {expanded} {difference} (k = {k})"
    if fit.verdict == "holds":
        return Verdict(state="holds", sentence=f"{name}: fit verified {span}.", rest=ends)
    if fit.verdict == "fails":
        worst = max(fit.checks, key=lambda r: abs(r.residual))
        return Verdict(
            state="fails",
            sentence=f"{name}: error at the check point {figure(abs(worst.residual), places)} "
            f"{difference}, above the acceptable {figure(fit.check_limit(worst), places)}.",
            rest=doubt_these,
        )
    return Verdict(
        state="not_shown", sentence=f"{name}: fit {span}, not verified.", rest=f"{ends} {untested}"
    )


def house_verdict(
    *,
    on: list[str],
    resting: int,
    dark: bool,
    faults: list[str],
    tripped: list[str],
    story: str = "",
    nothing_works: bool = False,
) -> Verdict:
    """How many loads are on, and whether anything is wrong; the `story` where nothing is on.

    Where `nothing_works`, no load and no probe, nothing can be said to hold.
    """
    if nothing_works:
        return Verdict(
            state="owed",
            sentence="Nothing is set to working here yet.",
            rest="No load and no probe is set to working.",
        )
    if dark:
        return Verdict(
            state="fails", sentence="The panel has no power.", rest="Nothing is switched."
        )
    count = len(on)
    first = (
        "Nothing is on."
        if not on
        else f"{count} load{'' if count == 1 else 's'} on: {', '.join(on)}."
    )
    rest = f"{resting} idle." if resting else ""
    if tripped:
        names = ", ".join(tripped)
        are = "is" if len(tripped) == 1 else "are"
        return Verdict(
            state="fails", sentence=f"{names} {are} tripped, until a person resets it.", rest=first
        )
    if faults:
        names = ", ".join(faults)
        return Verdict(state="fails", sentence=f"No valid reading from {names}.", rest=first)
    if not on and story:
        return Verdict(state="holds", sentence=first, rest=story)
    return Verdict(
        state="holds", sentence=first, rest=f"{rest} Every probe has a valid reading.".strip()
    )
