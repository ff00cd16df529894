"""The form of a load: its class and kind, and the figures that its kind needs."""

from aldea.core.plan.document import Load, Plan
from aldea.core.plan.kinds import CLASSES, LOAD_KINDS, NATURES
from aldea.core.words.figures import short
from aldea.web.fields import STAGES, Group, choice, named, number, places, text


def load_groups(plan: Plan, load: Load) -> tuple[Group, ...]:
    """The form of a load, its kind's own figures last."""
    groups = [
        Group(
            title="Load",
            fields=(
                text("name", "Name", load.name),
                choice("place", "Stands in", load.place, places(plan)),
                choice("kind", "Kind", load.kind, tuple(LOAD_KINDS.items())),
                choice(
                    "load_class",
                    "Class",
                    load.load_class,
                    tuple((k, v.name) for k, v in CLASSES.items()),
                ),
                choice("nature", "It is a", load.nature, tuple(NATURES.items())),
                number("power_w", "Power", load.power_w, "W", 0, 100_000),
                text("feed", "Feed", load.feed, "as on the board"),
                number("cable_m", "Cable", load.cable_m, "m", 0, 500),
                choice("stage", "Stage", load.stage, STAGES),
            ),
        )
    ]
    probes = plan.probes
    if load.stepped is not None:
        fan = load.stepped
        groups.append(
            Group(
                title="Steps",
                inside="stepped",
                fields=(
                    number("motor_ohm", "Motor", fan.motor_ohm, "Ω", 0.01, 1e6),
                    number("motor_henry", "Inductance", fan.motor_henry, "H", 0.0001, 100),
                    text(
                        "capacitors",
                        "Capacitors",
                        ", ".join(f"{c.role} {short(c.capacitance_uf)}" for c in fan.capacitors),
                        "role and µF",
                    ),
                    text(
                        "steps",
                        "Steps",
                        "; ".join(f"{s.name}: {'+'.join(s.closed)}" for s in fan.steps),
                        "what each closes",
                    ),
                    text(
                        "never_together",
                        "Never together",
                        ", ".join("+".join(pair) for pair in fan.never_together),
                    ),
                    number("dead_time_s", "Dead time", fan.dead_time_s, "s", 0.02, 60),
                    number(
                        "bleed_ohm", "Bleed resistor", fan.bleed_ohm, "Ω", 1, 1e9, optional=True
                    ),
                ),
            )
        )
    if load.drive is not None:
        drive = load.drive
        groups.append(
            Group(
                title="Drive",
                inside="drive",
                fields=(
                    number("pulse_s", "Pulse", drive.pulse_s, "s", 0.05, 10),
                    number("travel_s", "Full travel", drive.travel_s, "s", 0.1, 600),
                    choice(
                        "position",
                        "Position by",
                        drive.position,
                        (("contacts", "two end contacts"), ("distance", "a distance")),
                    ),
                    choice(
                        "open_contact",
                        "Open contact",
                        drive.open_contact or "",
                        named(probes, "none"),
                    ),
                    choice(
                        "shut_contact",
                        "Shut contact",
                        drive.shut_contact or "",
                        named(probes, "none"),
                    ),
                    choice(
                        "distance_probe",
                        "Distance probe",
                        drive.distance_probe or "",
                        named(probes, "none"),
                    ),
                ),
            )
        )
    if load.valve is not None:
        rest = (("shut", "shut"), ("open", "open"))
        series = (("1", "one contact"), ("2", "two in series"))
        groups.append(
            Group(
                title="Valve",
                inside="valve",
                fields=(
                    choice("at_rest", "Without supply", load.valve.at_rest, rest),
                    choice("in_series", "Switched by", load.valve.in_series, series),
                ),
            )
        )
    if load.two_way is not None:
        groups.append(
            Group(
                title="Two-way",
                inside="two_way",
                fields=(
                    choice("sense", "Sensed by", load.two_way.sense or "", named(probes, "nobody")),
                    number("settle_s", "Settles in", load.two_way.settle_s, "s", 0.05, 10),
                ),
            )
        )
    if load.pattern is not None:
        groups.append(
            Group(
                title="Pattern",
                inside="pattern",
                fields=(
                    number("on_s", "On", load.pattern.on_s, "s", 0, 604_800),
                    number("off_s", "Off", load.pattern.off_s, "s", 0, 604_800),
                ),
            )
        )
    return tuple(groups)
