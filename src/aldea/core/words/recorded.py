"""What a figure rests on: how much of which days was recorded."""

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import MS_PER_DAY, MS_PER_HOUR, local, span
from aldea.core.plan.document import Load
from aldea.core.rehearse.recorded import Recorded

WHOLE_1 = 0.995  # of a span; above it nothing is said to be missing
LEAST_DAYS = 0.95  # under it hours are told


def recorded_words(recorded: Recorded, zone: str) -> str:
    """`17.9 recorded days, 13 Oct to 13 Nov 2025 (58 %)`."""
    days = recorded.days
    if not days:
        return f"nothing is recorded, {_dates(recorded, zone)}"
    hours_s = days * MS_PER_DAY / 1000
    many = f"{figure(days, 0 if days >= 10 else 1)} recorded days" if days >= LEAST_DAYS else ""
    text = many or f"{span(hours_s)} recorded"
    share = "" if recorded.share >= WHOLE_1 else f" ({figure(100 * recorded.share, 0)} %)"
    return f"{text}, {_dates(recorded, zone)}{share}"


def energy_rests_on(load: Load) -> str:
    """What the energy of a load's use stands on, in a sentence."""
    if not load.power_w:
        return "No power is entered for it, so no energy is calculated."
    steps = ", each step counted as the highest" if load.kind == "stepped" else ""
    return f"Energy is the entered {short(load.power_w)} W for the time on{steps}."


def _dates(recorded: Recorded, zone: str) -> str:
    first, last = local(recorded.from_ms, zone), local(recorded.to_ms - 1, zone)
    if recorded.to_ms - recorded.from_ms < 26 * MS_PER_HOUR and first.date() == last.date():
        return f"{last.day} {last:%b %Y}"
    year = "" if first.year == last.year else f" {first.year}"
    return f"{first.day} {first:%b}{year} to {last.day} {last:%b %Y}"
