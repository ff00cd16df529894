"""What one rehearsed fault did to a load, in a sentence."""

from aldea.core.base.instants import day_clock, near, span
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.naming import reading_name
from aldea.core.rehearse.stretches import Stretch
from aldea.core.rehearse.trial import THROWN, Failing, Trial
from aldea.core.words.priorities import priority_words
from aldea.core.words.reasons import state_word

MOST_SAID = 6
FAILS: dict[Failing, str] = {
    "silent": "silent",
    "stuck": "held at its reading",
    "beyond": "out of its range",
    "open": "standing open",
    "closed": "standing closed",
    "network": "no reading: the network has failed",
    "clock": "the clock not known",
    "power": "no power",
    "wall": "its wall switch thrown",
    "lit": "its wall switch thrown",
    "dark": "no power, and the clock not known for two hours after it",
}


def trial_sentence(plan: Plan, load: Load, trial: Trial, rows: list[Stretch]) -> str:
    """From when, what fails for how long, and each change of state that follows."""
    zone = plan.house.time_zone
    lasts = span((trial.to_ms - trial.from_ms) / 1000)
    names = " and ".join(reading_name(plan, probe) for probe in trial.probes)
    what = f"{names} {FAILS[trial.what]}".strip()
    text = f"{day_clock(trial.from_ms, zone)}, {what} for {lasts}: "
    if trial.what in THROWN:
        text = f"{day_clock(trial.from_ms, zone)}, {FAILS[trial.what]}: "
    if not rows:
        return f"{text}nothing is known of {load.name} then."
    first, *others = rows
    changes = [f"{_state(load, first)} at first"]
    changes += [
        f"{_state(load, row)} from {near(row.start_ms, trial.from_ms, zone)}"
        f" ({priority_words(row.priority)})"
        for row in others[:MOST_SAID]
    ]
    more = len(others) - MOST_SAID
    rest = f", and {more} more changes" if more > 0 else ""
    alone = "" if others else ", with no change foreseen"
    return f"{text}{', '.join(changes)}{alone}{rest}."


def _state(load: Load, stretch: Stretch) -> str:
    return "Dark" if stretch.decided_by is None else state_word(load, stretch.state)
