"""A drive by pulses in a plan: volt-free, parallel to its own button, its position by others."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import figure, short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.finding import Finding, change_around, put_changed
from aldea.core.devices.loads.device import ContactPlan, LoadDevice
from aldea.core.devices.loads.mains import Strip, outlet
from aldea.core.devices.loads.pulse_drive.model import PULSE_DRIVE, PulseDrive
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.physics.sound import ping_interval_s, uncompensated_error_m
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.plan.panel import RelayOutput

LEAST_TRAVEL_M = 0.05
USUAL_TRIES = 3
STATE_WORDS = ("Shut", "Open", "Moving", "Unknown")


def drives_known(plan: Plan) -> Iterator[Finding]:
    """A drive that only toggles and that nobody sees: no pulse means a thing then."""
    for load in plan.loads:
        drive = load.drive
        if load.kind != PULSE_DRIVE.kind or drive is None:
            continue
        by_contacts, by_distance = drive.position != "distance", drive.position != "contacts"
        contacts = drive.open_contact and drive.shut_contact
        if by_contacts and not contacts:
            yield Finding(
                key=f"position-{load.id}",
                weight="severe",
                head=f"{load.name}: the direction of a pulse is not known.",
                why="One pulse opens, stops or shuts; only two end contacts or a distance tell.",
                fix="Put an end contact at each end.",
                at=f"load:{load.id}",
                field="drive.open_contact",
                press="Add two end contacts",
                apply=change_around(_with_contacts, load.id),
            )
        if by_distance and not drive.distance_probe:
            yield Finding(
                key=f"no-distance-{load.id}",
                weight="severe",
                head=f"{load.name}: no probe tells its distance.",
                why="Its position is to come from a distance.",
                fix="Choose its distance probe at Lay out.",
                at=f"load:{load.id}",
                field="drive.distance_probe",
            )
        yield from _told_apart(load, drive)


def tries_end(plan: Plan) -> Iterator[Finding]:
    """A drive that may be pulsed for ever though it never arrives."""
    for load in plan.loads:
        if load.kind != PULSE_DRIVE.kind or load.drive is None or load.drive.tries is not None:
            continue
        drive = load.drive.model_copy(update={"tries": USUAL_TRIES})
        yield Finding(
            key=f"tries-{load.id}",
            weight="warning",
            head=f"{load.name} may be driven without end.",
            why="A drive that jams never arrives, and each new request pulses it again.",
            fix=f"Lock it out after {USUAL_TRIES} tries that did not arrive, until a reset.",
            at=f"load:{load.id}",
            field="drive.tries",
            press=f"Lock out after {USUAL_TRIES} tries",
            apply=put_changed("load", load.model_copy(update={"drive": drive})),
        )


def _told_apart(load: Load, drive: PulseDrive) -> Iterator[Finding]:
    """One contact for both ends; a distance of which nobody said what is open and what shut."""
    if drive.open_contact and drive.open_contact == drive.shut_contact:
        yield Finding(
            key=f"one-contact-{load.id}",
            weight="severe",
            head=f"{load.name}: one contact is used for both open and shut.",
            why="Off would mean neither, on would mean both.",
            fix="Put an end contact at each end.",
            at=f"load:{load.id}",
            field="drive.shut_contact",
        )
    if drive.position == "contacts":
        return
    open_m, shut_m = drive.open_at_m, drive.shut_at_m
    if open_m is None or shut_m is None or abs(open_m - shut_m) < LEAST_TRAVEL_M:
        yield Finding(
            key=f"ends-{load.id}",
            weight="severe" if open_m is not None and shut_m is not None else "open",
            head=f"{load.name}: which distance is open, and which is shut?",
            why="Without both, or with both alike, a reading says nothing of where it stands.",
            fix="Measure it open and shut, and set both at Lay out, at least 5 cm apart.",
            at=f"load:{load.id}",
            field="drive.open_at_m",
        )


def _with_contacts(plan: Plan, load_id: str) -> Plan:
    load = plan.load(load_id)
    if load is None or load.drive is None:
        return plan
    named: dict[str, str] = {}
    for key, word in (("open_contact", "open"), ("shut_contact", "shut")):
        if getattr(load.drive, key):
            continue
        probe_id = fresh_id(f"{load_id} {word} contact", {p.id for p in plan.probes})
        probe = new_probe(
            probe_id=probe_id,
            name=f"{load.name} {word} contact",
            place=load.place,
            quantity="position",
        ).model_copy(update={"sensor": ContactSensor()})
        plan = put_part(plan, "probe", probe)
        named[key] = probe_id
    drive = load.drive.model_copy(update=named)
    return put_part(plan, "load", load.model_copy(update={"drive": drive}))


class PulseDriveDevice(LoadDevice):
    """One pulse opens, stops or shuts; only its contacts or a distance tell which."""

    facts = PULSE_DRIVE
    title = "Drive"
    checks = (drives_known, tries_end)
    state_words = ("Shut", "Open")
    off_word = "Stays where it is"
    volt_free = True
    no_contactor = "The drive’s own button is volt-free: no mains may come to it."
    asks: ClassVar[Asks] = {
        "pulse_s": Asked(label="Pulse", unit="s"),
        "travel_s": Asked(label="Full travel", unit="s"),
        "position": Asked(
            label="Position by",
            options=(
                ("contacts", "two end contacts"),
                ("distance", "a distance"),
                ("both", "contacts, and a distance between"),
            ),
        ),
        "open_contact": Asked(label="Open contact", probes="none"),
        "shut_contact": Asked(label="Shut contact", probes="none"),
        "distance_probe": Asked(label="Distance probe", probes="none"),
        "open_at_m": Asked(label="Open at", unit="m"),
        "shut_at_m": Asked(label="Shut at", unit="m"),
        "tries": Asked(label="Locked out after", unit="tries", note="empty: no limit"),
    }

    def state_word(self, state: int) -> str:
        """Shut, open, on its way, or nobody knows."""
        return STATE_WORDS[state]

    def contacts(self, load: Load) -> ContactPlan:
        """A pulse, then it travels."""
        drive = load.drive or PulseDrive()
        return ContactPlan(drive="pulse", dead_s=drive.travel_s, pulse_s=drive.pulse_s)

    def strip(self, relays: tuple[RelayOutput, ...]) -> Strip:
        """None: no mains comes to it."""
        return ()

    def low_voltage(
        self, load: Load, relays: tuple[RelayOutput, ...]
    ) -> Iterator[tuple[str, str, str]]:
        """Both sides of each contact to the drive's own button."""
        note = "volt-free, parallel to the drive’s own button"
        for relay in relays:
            yield f"{relay.id.upper()}:11", f"{load.name}:button 1", note
            yield outlet(relay), f"{load.name}:button 2", note

    def circuit(self, load: Load, plan: Plan) -> Circuit | None:
        """What a pulse does, how long it travels, and who knows where it stands."""
        drive = load.drive
        if drive is None:
            return None
        facts = [
            ("Pulse", f"{short(drive.pulse_s)} s, volt-free, parallel to the drive’s own button"),
            ("Full travel", f"{short(drive.travel_s)} s; not there by then is a fault"),
        ]
        head: tuple[str, ...] = ()
        rows: tuple[tuple[str, ...], ...] = ()
        if drive.position != "distance":
            ends = f"{_named(plan, drive.open_contact)}; {_named(plan, drive.shut_contact)}"
            facts.append(("End contacts", ends))
            head = ("Open contact", "Shut contact", "Position")
            rows = (
                ("on", "off", "open"),
                ("off", "on", "shut"),
                ("off", "off", "moving, or stopped between"),
                ("on", "on", "fault: both cannot be"),
            )
        if drive.position != "contacts":
            facts += _by_distance(plan, drive)
        return Circuit(
            owner=f"load:{load.id}",
            title=f"{load.name}: one pulse opens, stops or shuts",
            draws="drive",
            facts=tuple(facts),
            head=head,
            rows=rows,
            caution="A drive that moves needs its own obstruction protection. Keep hands out while "
            "it is wired.",
            values={"load": load.name},
        )


USUAL_REACH_M = 4.0  # until the probe is known


def _by_distance(plan: Plan, drive: PulseDrive) -> list[tuple[str, str]]:
    error = uncompensated_error_m(1.5, air_degc=5.0, assumed_degc=20.0)
    probe = plan.probe(drive.distance_probe or "")
    reach_m = probe.range.high if probe is not None else USUAL_REACH_M
    apart_s = ping_interval_s(reach_m=reach_m, temp_degc=20.0)
    ends = "not measured yet"
    if drive.open_at_m is not None and drive.shut_at_m is not None:
        ends = f"{short(drive.open_at_m)} m; {short(drive.shut_at_m)} m"
    return [
        ("Distance by", _named(plan, drive.distance_probe)),
        ("Open; shut", ends),
        ("Air at 5 °C taken for 20 °C", f"{figure(100 * error)} cm too far at 1.5 m"),
        ("Pings apart", f"{figure(1000 * apart_s, 0)} ms or more: {short(reach_m)} m and back"),
    ]


def _named(plan: Plan, probe_id: str | None) -> str:
    probe = plan.probe(probe_id or "")
    return probe.name if probe else "not fitted"


DEVICES = (PulseDriveDevice(),)
