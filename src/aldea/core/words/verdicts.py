"""The one sentence at the top of each bench, with the number in it."""

from dataclasses import dataclass
from typing import Literal

from aldea.core.base.figures import figure, short
from aldea.core.calibrate.fit import Fit
from aldea.core.plan.conditions import Band
from aldea.core.rehearse.consequence import Consequence

Mark = Literal["holds", "fails", "not_shown", "owed"]
CHATTER_CLOSINGS_PER_DAY = 24  # more than once an hour: a relay and a compressor both suffer
FEW_YEARS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """Mark, the sentence, and what follows it more quietly."""

    mark: Mark
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
    """What the draft marks do, against the running ones where there are any."""
    marks = f"{short(band.on)} / {short(band.off)}"
    width = abs(band.on - band.off)
    a_day = figure(draft.closings_per_day)
    limit = f"{short(band.limit.value)} {unit}" if band.limit else ""
    rest = ""
    if band.limit is not None:
        word = "above" if band.direction == "rising" else "below"
        rest = (
            f"{figure(draft.unanswered_hours_per_week)} h a week {word} {limit} pass with it off."
        )
    if width < can_tell:
        return Verdict(
            mark="not_shown",
            sentence=f"{name}: the width of {short(round(width, 3))} {unit} is smaller than the "
            f"{figure(can_tell)} that the probe can tell apart.",
            rest=f"{a_day} closings a day on this log. {rest}".strip(),
        )
    if draft.closings_per_day > CHATTER_CLOSINGS_PER_DAY or draft.relay_years < FEW_YEARS:
        return Verdict(
            mark="fails",
            sentence=f"{name}: {marks} closes {a_day} times a day; the relay lasts "
            f"{figure(draft.relay_years)} years.",
            rest=rest,
        )
    if running is None or abs(running.closings_per_day - draft.closings_per_day) < 0.05:
        sentence = f"{name}: {marks} closes {a_day} times a day."
    else:
        verb = "cuts" if draft.closings_per_day < running.closings_per_day else "raises"
        was = figure(running.closings_per_day)
        sentence = f"{name}: draft {marks} {verb} closings from {was} to {a_day} a day."
    return Verdict(mark="holds", sentence=sentence, rest=rest)


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
        return Verdict(mark="owed", sentence=f"{name}: no line yet.", rest=refusal)
    low, high = figure(fit.low, places - 1), figure(fit.high, places - 1)
    span = f"±{figure(fit.expanded, places)} {unit} from {low} to {high}"
    if fit.verdict == "holds":
        return Verdict(mark="holds", sentence=f"{name}: the fit holds, {span}.", rest=ends)
    if fit.verdict == "fails":
        worst = max(fit.checks, key=lambda r: abs(r.residual))
        return Verdict(
            mark="fails",
            sentence=f"{name}: the check pair lies {figure(abs(worst.residual), places)} "
            f"{difference} off, more than the ±{figure(fit.check_limit(worst), places)} that it "
            "may.",
            rest=doubt_these,
        )
    return Verdict(
        mark="not_shown", sentence=f"{name}: {span}, not tested.", rest=f"{ends} {untested}"
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
            mark="owed", sentence="Nothing works here yet.", rest="No load, no probe is in use."
        )
    if dark:
        return Verdict(
            mark="fails", sentence="The panel has no power.", rest="Nothing is switched."
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
            mark="fails", sentence=f"{names} {are} tripped, until a person resets it.", rest=first
        )
    if faults:
        names = ", ".join(faults)
        return Verdict(mark="fails", sentence=f"No good reading from {names}.", rest=first)
    if not on and story:
        return Verdict(mark="holds", sentence=first, rest=story)
    return Verdict(mark="holds", sentence=first, rest=f"{rest} No probe is silent.".strip())
