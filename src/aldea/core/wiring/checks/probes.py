"""Checks of probes: how each is made, how often it is read, when its silence is noticed."""

from collections.abc import Iterator

from aldea.core.base.figures import short
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.sensors.models import ways_to_measure
from aldea.core.plan.document import Plan
from aldea.core.plan.one_part import could_join, sensor_of
from aldea.core.wiring.evidence import VOID_WORDS, is_void

MISSED_READINGS = 3  # before a probe is called silent


def made_somehow(plan: Plan) -> Iterator[Finding]:
    """A probe of which nobody said how it is made: it has no pin, no wire, no line to buy."""
    for probe in plan.probes:
        if probe.sensor is not None or probe.part_with is not None:
            continue
        ways = ways_to_measure(probe.quantity)
        joins = could_join(plan, probe)
        only = ways[0] if len(ways) == 1 and not joins else None
        needs_no_figure = only is not None and not any(
            field.is_required() for field in only.model.model_fields.values()
        )
        sensed = (
            probe.model_copy(update={"sensor": only.model()}) if only and needs_no_figure else None
        )
        words = ", ".join(way.name for way in ways)
        yield Finding(
            key=f"made-{probe.id}",
            weight="open",
            head=f"{probe.name}: how is it made?",
            why="Without that it has no pin, no wire and no line in the parts.",
            fix=f"Choose at Lay out what it is made as: {words}"
            + ("; or the part of another probe." if joins else "."),
            at=f"probe:{probe.id}",
            press=f"Set as {only.name}" if only and sensed else "",
            apply=put_changed("probe", sensed) if sensed else None,
        )


def read_in_time(plan: Plan) -> Iterator[Finding]:
    """A part that is read faster than it answers; a probe that is stale between two readings."""
    for probe in plan.probes:
        sensor = sensor_of(plan, probe)
        shortest_s = getattr(sensor, "shortest_interval_s", 0.0)
        every_s = probe.reading_interval_s
        if every_s < shortest_s:
            slower = probe.model_copy(update={"reading_interval_s": shortest_s})
            yield Finding(
                key=f"fast-{probe.id}",
                weight="warning",
                head=f"{probe.name} is read every {short(every_s)} s.",
                why=f"New reading every a new reading every {short(shortest_s)} s; asked sooner it "
                "answers with the old one, or not at all.",
                fix=f"Read it every {short(shortest_s)} s.",
                at=f"probe:{probe.id}",
                press=f"Read every {short(shortest_s)} s",
                apply=put_changed("probe", slower),
            )
            continue
        if sensor is not None and probe.stale_after_s <= every_s:
            patient_s = min(MISSED_READINGS * every_s, 604_800.0)
            later = probe.model_copy(update={"stale_after_s": patient_s})
            yield Finding(
                key=f"stale-{probe.id}",
                weight="warning",
                head=f"{probe.name} becomes stale between two readings.",
                why=f"It is read every {short(every_s)} s and counts as stale after "
                f"{short(probe.stale_after_s)} s.",
                fix=f"Set “stale after” to {short(patient_s)} s, or read it more often.",
                at=f"probe:{probe.id}",
                press=f"Set stale after {short(patient_s)} s" if patient_s > every_s else "",
                apply=put_changed("probe", later) if patient_s > every_s else None,
            )


def certificates_hold(plan: Plan) -> Iterator[Finding]:
    """A certificate that was signed for another circuit."""
    for probe in plan.probes:
        if not is_void(plan, probe):
            continue
        yield Finding(
            key=f"void-{probe.id}",
            weight="severe",
            head=f"{probe.name}: certificate {probe.calibration.certificate} is void.",
            why=VOID_WORDS,
            fix="Calibrate it anew at its bench, or undo the change.",
            at=f"probe:{probe.id}",
        )


PROBE_CHECKS: tuple[Check, ...] = (made_somehow, read_in_time, certificates_hold)
