"""Checks of special circuits: fans in steps, drives, two-way, leak tapes, remotes, selectors."""

from collections import Counter
from collections.abc import Iterator

from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import fresh_id, put_part
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.kinds import new_probe
from aldea.core.plan.sensors import ContactSensor, LeakTape, MainsSense
from aldea.core.sensing.divider import highest_source_ohm
from aldea.core.wire.dropper import step_running
from aldea.core.wire.findings import Check, Finding, on, putting

USUAL_END_OF_LINE_OHM = 470_000.0
USUAL_BLEED_OHM = 470_000.0


def leak_tapes(plan: Plan) -> Iterator[Finding]:
    """A tape without its far-end resistor, or with states that overlap."""
    rows = {row.signal: row for row in plan.assignments}
    for probe in plan.probes:
        tape = probe.sensor
        if not isinstance(tape, LeakTape):
            continue
        row = rows.get(f"probe:{probe.id}.sense")
        pins = ((row.board, row.pin),) if row else ()
        if tape.end_of_line_ohm is None:
            fixed = tape.model_copy(update={"end_of_line_ohm": USUAL_END_OF_LINE_OHM})
            part = probe.model_copy(update={"sensor": fixed})
            yield Finding(
                key=f"far-end-{probe.id}",
                weight="severe",
                head=f"{probe.name}: unplugged reads dry.",
                why="Without a resistor across the far end an open wire looks like a dry tape.",
                mend="Solder 470 kΩ across the far end, then take one reading dry and one wet.",
                at=f"probe:{probe.id}",
                pins=pins,
                press="It is soldered",
                apply=putting("probe", part),
            )
        elif tape.wet_ohm >= (tape.damp_ohm or 0.5 * tape.end_of_line_ohm):
            yield Finding(
                key=f"overlap-{probe.id}",
                weight="severe",
                head=f"{probe.name}: wet and dry overlap.",
                why=f"Wet at {tape.wet_ohm:g} Ω lies too near the dry tape with its far-end "
                f"resistor of {tape.end_of_line_ohm:g} Ω.",
                mend="Set the wet resistance below half of the far-end resistor, or take both "
                "edges from its dry baseline at Calibrate.",
                at=f"probe:{probe.id}",
                pins=pins,
            )


def two_way_sensed(plan: Plan) -> Iterator[Finding]:
    """A two-way circuit whose lamp nobody senses: relay off does not mean lamp off."""
    for load in plan.loads:
        if load.kind != "two_way" or (load.two_way and load.two_way.sense):
            continue
        yield Finding(
            key=f"sense-{load.id}",
            weight="severe",
            head=f"{load.name}: relay off does not mean lamp off.",
            why="With a wall switch in the circuit only a sensed output tells whether it burns.",
            mend="Put an isolated mains-sensing input across the lamp.",
            at=f"load:{load.id}",
            press="Add the sensing input",
            apply=on(_with_sense, load.id),
        )


def _with_sense(plan: Plan, load_id: str) -> Plan:
    load = plan.load(load_id)
    if load is None or load.two_way is None:
        return plan
    name = f"{load.name} sensed"
    probe_id = fresh_id(f"{load_id} sensed", {p.id for p in plan.probes})
    probe = new_probe(
        probe_id=probe_id, name=name, place=load.place, quantity="sensed_output"
    ).model_copy(update={"sensor": MainsSense()})
    way = load.two_way.model_copy(update={"sense": probe_id})
    plan = put_part(plan, "probe", probe)
    return put_part(plan, "load", load.model_copy(update={"two_way": way}))


def drives_known(plan: Plan) -> Iterator[Finding]:
    """A drive that only toggles and that nobody sees: no pulse means a thing then."""
    for load in plan.loads:
        if load.kind != "pulse_drive" or load.drive is None:
            continue
        drive = load.drive
        known = (
            (drive.open_contact and drive.shut_contact)
            if drive.position == "contacts"
            else drive.distance_probe
        )
        if known:
            continue
        contacts = drive.position == "contacts"
        yield Finding(
            key=f"position-{load.id}",
            weight="severe",
            head=f"{load.name}: nobody knows which way a pulse moves it.",
            why="One pulse opens, stops or shuts; only two end contacts or a distance tell.",
            mend="Put an end contact at each end." if contacts else "Choose its distance probe.",
            at=f"load:{load.id}",
            press="Add two end contacts" if contacts else "",
            apply=on(_with_contacts, load.id) if contacts else None,
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


def fans_in_steps(plan: Plan) -> Iterator[Finding]:
    """A step that no allowed combination makes, a charge that stays, capacitors near resonance."""
    for load in plan.loads:
        if load.kind == "stepped" and load.stepped is not None:
            yield from _fan(load, plan)


def _fan(load: Load, plan: Plan) -> Iterator[Finding]:
    fan = load.stepped
    if fan is None:
        return
    at = f"load:{load.id}"
    for step in fan.steps:
        if not fan.reachable(step):
            yield Finding(
                key=f"step-{load.id}-{step.name}",
                weight="warning",
                head=f"{load.name}: step {step.name} cannot be reached.",
                why=f"It closes {' and '.join(step.closed)}, which must never close together.",
                mend="Take the step away, or leave it: the program skips it.",
                at=at,
            )
    if fan.capacitors and fan.bleed_ohm is None:
        fixed = fan.model_copy(update={"bleed_ohm": USUAL_BLEED_OHM})
        yield Finding(
            key=f"bleed-{load.id}",
            weight="severe",
            head=f"{load.name}: the capacitors stay charged.",
            why="Without a bleed resistor a switched-off capacitor keeps up to its peak voltage.",
            mend="Put 470 kΩ, mains-rated, across each capacitor.",
            at=at,
            press="470 kΩ across each",
            apply=putting("load", load.model_copy(update={"stepped": fixed})),
        )
    for step in fan.steps:
        state = step_running(fan, step, mains_v=plan.house.mains_v, mains_hz=plan.house.mains_hz)
        if state is None or not state.capacitive_ohm:
            continue
        if state.near_resonance or state.share_pct > 110:
            yield Finding(
                key=f"resonance-{load.id}-{step.name}",
                weight="severe",
                head=f"{load.name}, step {step.name}: {state.motor_v:.0f} V at the motor.",
                why=f"The capacitors’ {state.capacitive_ohm:.0f} Ω and the motor’s "
                f"{state.inductive_ohm:.0f} Ω nearly cancel: more capacitance is not always more "
                "speed.",
                mend="Take smaller capacitors, and measure the motor’s inductance.",
                at=at,
            )


def multiplexers_settle(plan: Plan) -> Iterator[Finding]:
    """A high resistance behind a multiplexer that does not settle in its time."""
    types = board_types(plan)
    rows = {row.signal: row for row in plan.assignments}
    for probe in plan.probes:
        row = rows.get(f"probe:{probe.id}.sense")
        board = plan.board(row.board) if row else None
        kind = types[board.board_type] if board else None
        if row is None or kind is None or kind.role != "multiplexer":
            continue
        ohm = source_of(probe)
        most = highest_source_ohm(
            switch_ohm=100.0, hold_farad=100e-12, time_s=kind.settle_us * 1e-6, bits=12
        )
        if ohm > most:
            yield Finding(
                key=f"settle-{probe.id}",
                weight="warning",
                head=f"{probe.name} does not settle on {row.pin} in {kind.settle_us:g} µs.",
                why=f"{ohm / 1000:.0f} kΩ feed it; {most / 1000:.1f} kΩ would settle to half a "
                "count.",
                mend="Wait longer after switching, or put 100 nF at the channel.",
                at=f"probe:{probe.id}",
                pins=((row.board, row.pin),),
            )


def source_of(probe: Probe) -> float:
    """About the resistance that an analog probe feeds its pin with, Ω: half its fixed resistor."""
    return getattr(probe.sensor, "fixed_ohm", 0.0) / 2


def codes_apart(plan: Plan) -> Iterator[Finding]:
    """Remote codes and selector positions that stand twice."""
    codes = Counter(code.code for c in plan.controls for code in c.codes)
    for control in plan.controls:
        for code in control.codes:
            if codes[code.code] > 1:
                yield Finding(
                    key=f"code-{control.id}-{code.name}",
                    weight="severe",
                    head=f"Code {code.code} of “{code.name}” stands twice.",
                    why="One press would do two things.",
                    mend="Capture one of the buttons again, or take one away.",
                    at=f"control:{control.id}",
                )
        patterns = Counter(position.pattern for position in control.positions)
        for position in control.positions:
            if patterns[position.pattern] > 1:
                yield Finding(
                    key=f"position-{control.id}-{position.name}",
                    weight="warning",
                    head=f"{control.name}: position {position.name} looks like another.",
                    why=f"The contacts show {position.pattern} in both.",
                    mend="Turn it through again; a contact may be loose.",
                    at=f"control:{control.id}",
                )


CIRCUIT_CHECKS: tuple[Check, ...] = (
    leak_tapes,
    two_way_sensed,
    drives_known,
    fans_in_steps,
    multiplexers_settle,
    codes_apart,
)
