"""Checks of rules that cannot do what they say: by a dead probe, an unknown state, no such step."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.leak_tape.device import tape_divider
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.plan.claim_edits import put_claim
from aldea.core.plan.conditions import Gas, OnValue, Tape
from aldea.core.plan.document import Claim, Load, Plan, Probe
from aldea.core.plan.levels import levels_in_words, levels_of
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import expanded, working_claims
from aldea.core.plan.without_reading import (
    ABOVE_FAULT,
    keeping,
    usual_result,
    with_usual_result,
)


def acts_unread(plan: Plan) -> Iterator[Finding]:
    """A trip or an interlock that keeps its last result: it decides above the sensor fault rule."""
    for load in plan.loads:
        for claim in working_claims(plan, load.id):
            if claim.rank not in ABOVE_FAULT or claim.condition is None:
                continue
            kept = [
                part
                for part in expanded(plan, claim.condition)
                if isinstance(part, OnValue) and part.without_reading == "keep"
            ]
            if kept:
                yield _finding(plan, load, claim, kept)


def _finding(plan: Plan, load: Load, claim: Claim, kept: list[OnValue]) -> Finding:
    names = list(dict.fromkeys(reading_name(plan, getattr(part, "probe", "")) for part in kept))
    result = usual_result(load, claim.rank, claim.want)
    words = f"{result.counts} after {span(result.after_s)}"
    own = any(keeping(claim.condition))
    return Finding(
        key=f"unread-{claim.id}",
        weight="severe",
        head=f"{load.name}: one of its {claim.rank} rules keeps its last result without a reading.",
        why=f"When {' or '.join(names)} fails, the rule goes on by its last reading, above the "
        "sensor fault rule.",
        mend=f"State what it counts as without a reading; {words} is usual here."
        if own
        else "State it in the named condition that it reads, at Schedules and modes.",
        at=f"claim:{claim.id}",
        field="condition.without_reading",
        press=f"Count it as {words}" if own else "",
        apply=(lambda plan: put_claim(plan, with_usual_result(load, claim))) if own else None,
    )


def never_told(plan: Plan) -> Iterator[Finding]:
    """A rule on states that nobody can tell yet: a tape or a gas sensor without its figures."""
    for load in plan.loads:
        for claim in working_claims(plan, load.id):
            parts = expanded(plan, claim.condition) if claim.condition is not None else ()
            for part in parts:
                probe = plan.probe(part.probe) if isinstance(part, Tape | Gas) else None
                if probe is None or _told(plan, probe):
                    continue
                tape = isinstance(part, Tape)
                yield Finding(
                    key=f"untold-{claim.id}",
                    weight="severe",
                    head=f"{load.name}: a rule on {probe.name} never holds yet.",
                    why="Its states hang on how it is made and on its pin, which are not stated."
                    if tape
                    else "Its volts in clean air were not recorded.",
                    mend="Say at Lay out how it is made, and assign its pin at Wire."
                    if tape
                    else "Record its clean air at Calibrate, Gas.",
                    at=f"claim:{claim.id}",
                    about=(f"probe:{probe.id}",),
                    field="condition.probe",
                )
                break


def _told(plan: Plan, probe: Probe) -> bool:
    sensor = probe.sensor
    if isinstance(sensor, LeakTape):
        return tape_divider(probe, sensor, plan) is not None
    return isinstance(sensor, GasSensor) and sensor.clean_air_v is not None


def no_such_level(plan: Plan) -> Iterator[Finding]:
    """A rule that wants a step or a pattern that its load has not."""
    for load in plan.loads:
        for claim in working_claims(plan, load.id):
            if claim.want not in ("step", "pattern") or claim.level in levels_of(load, claim.want):
                continue
            yield Finding(
                key=f"level-{claim.id}",
                weight="severe",
                head=f"{load.name}: one of its rules wants {claim.want} {claim.level}.",
                why=f"It has {levels_in_words(load, claim.want)}. The next lower is taken.",
                mend="Choose one of those, or change what its relays make.",
                at=f"claim:{claim.id}",
                field="level",
            )


UNREAD_CHECKS: tuple[Check, ...] = (acts_unread, never_told, no_such_level)
