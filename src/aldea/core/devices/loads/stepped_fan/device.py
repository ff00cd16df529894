"""A fan in steps in a plan: which relays each step closes, what flows, how long a charge stays."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, ClassVar

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.finding import Finding, put_changed
from aldea.core.devices.loads.device import ContactPlan, LoadDevice, Roles
from aldea.core.devices.loads.mains import MainsWires
from aldea.core.devices.loads.stepped_fan.capacitors import (
    closes_onto_charge,
    role_loads,
    slowest_bleed,
    step_running,
)
from aldea.core.devices.loads.stepped_fan.model import STEPPED_FAN, SteppedFan
from aldea.core.devices.part_count import PartCount
from aldea.core.physics.steps import percent_of_step
from aldea.core.plan.document import House, Load, Plan

USUAL_BLEED_OHM = 470_000.0
USUAL_SURGE_OHM = 10.0
CAPACITOR_RATINGS_V = (250, 400, 450, 500, 630)
MOST_SHARE_PCT = 110.0  # of the direct current: more is on the way to resonance


def fans_in_steps(plan: Plan) -> Iterator[Finding]:
    """A step that no allowed combination makes, a charge that stays, capacitors near resonance."""
    for load in plan.loads:
        if load.kind == STEPPED_FAN.kind and load.stepped is not None:
            yield from _fan(load, load.stepped, plan.house)


def _fan(load: Load, fan: SteppedFan, house: House) -> Iterator[Finding]:
    at = f"load:{load.id}"
    yield from _steps_told(load, fan)
    for step in fan.steps:
        if not fan.reachable(step):
            yield Finding(
                key=f"step-{load.id}-{step.name}",
                weight="warning",
                head=f"{load.name}: step {step.name} cannot be reached.",
                why=f"It closes {' and '.join(step.closed)}, which must never close together.",
                fix="Remove the step, or keep it: the program skips it.",
                at=at,
            )
    if fan.capacitors and fan.bleed_ohm is None:
        fixed = fan.model_copy(update={"bleed_ohm": USUAL_BLEED_OHM})
        yield Finding(
            key=f"bleed-{load.id}",
            weight="severe",
            head=f"{load.name}: the capacitors stay charged.",
            why="Without a bleed resistor a switched-off capacitor keeps up to its peak voltage.",
            fix="Put 470 kΩ, mains-rated, across each capacitor.",
            at=at,
            press="Fit Fit 470 kΩ across each",
            apply=put_changed("load", load.model_copy(update={"stepped": fixed})),
        )
    charge = slowest_bleed(fan, mains_v=house.mains_v, mains_hz=house.mains_hz)
    waits = charge is not None and fan.dead_time_s >= charge.to_safe_s
    for step in closes_onto_charge(fan) if fan.surge_ohm is None and not waits else ():
        softer = fan.model_copy(update={"surge_ohm": USUAL_SURGE_OHM})
        yield Finding(
            key=f"charge-{load.id}-{step.name}",
            weight="warning",
            head=f"{load.name}, step {step.name}: a capacitor may close onto another’s charge.",
            why=f"{' and '.join(step.closed)} are joined with nothing between; charged unequally, "
            "the current between them welds a contact.",
            fix=f"Put {ohms(USUAL_SURGE_OHM)}, 5 W, in the line of each capacitor"
            + (f", or wait {figure(charge.to_safe_s, 0)} s between steps." if charge else "."),
            at=at,
            press=f"Fit {ohms(USUAL_SURGE_OHM)} in each line",
            apply=put_changed("load", load.model_copy(update={"stepped": softer})),
        )
    if fan.basis == "estimated":
        known = fan.model_copy(update={"basis": "measured"})
        usual = SteppedFan()  # figures that nobody touched cannot be measured ones
        touched = (fan.motor_ohm, fan.motor_henry) != (usual.motor_ohm, usual.motor_henry)
        yield Finding(
            key=f"motor-{load.id}",
            weight="open",
            head=f"{load.name}: the motor’s figures are assumed.",
            why="Currents and voltages of every step hang on them.",
            fix="Dead and unplugged, measure the winding’s ohms; running direct, volts and "
            "amperes: the inductance is √((V/A)² − Ω²) / (2 π f). Then set them at Lay out.",
            at=at,
            press="Mark as measured" if touched else "",
            apply=put_changed("load", load.model_copy(update={"stepped": known}))
            if touched
            else None,
        )
    for step in fan.steps:
        state = step_running(fan, step, mains_v=house.mains_v, mains_hz=house.mains_hz)
        if state is None or not state.capacitive_ohm:
            continue
        if state.near_resonance or state.share_pct > MOST_SHARE_PCT:
            yield Finding(
                key=f"resonance-{load.id}-{step.name}",
                weight="severe",
                head=f"{load.name}, step {step.name}: {figure(state.motor_v, 0)} V at the motor.",
                why=f"The capacitors’ {figure(state.capacitive_ohm, 0)} Ω and the motor’s "
                f"{figure(state.inductive_ohm, 0)} Ω nearly cancel: more capacitance is not "
                "always more speed.",
                fix="Use smaller capacitors, and measure the motor’s inductance.",
                at=at,
            )


def _steps_told(load: Load, fan: SteppedFan) -> Iterator[Finding]:
    """A step that stands twice; a relay that is neither a capacitor's nor the direct one."""
    names = Counter(step.name for step in fan.steps)
    for name in (name for name, count in names.items() if count > 1):
        yield Finding(
            key=f"step-twice-{load.id}-{name}",
            weight="severe",
            head=f"{load.name}: step {name} stands twice.",
            why="The two cannot be told apart.",
            fix="Give one of them another name, at Lay out.",
            at=f"load:{load.id}",
            field="steps",
        )
    known = {cap.role for cap in fan.capacitors} | {"direct"}
    for role in (role for role in fan.roles if role not in known and fan.capacitors):
        yield Finding(
            key=f"role-{load.id}-{role}",
            weight="warning",
            head=f"{load.name}: {role} has no capacitor.",
            why=f"A step closes {role}; no capacitor has that name; it would run direct.",
            fix="Set its capacitor, or set it to “direct” at Lay out.",
            at=f"load:{load.id}",
            field="capacitors",
        )


def _pieces(line: str, sign: str) -> list[str]:
    return [piece.strip() for piece in line.split(sign) if piece.strip()]


def _capacitors(line: str) -> list[dict[str, Any]]:
    rows = (row.split() for row in _pieces(line, ","))
    return [{"role": role, "capacitance_uf": float(value)} for role, value in rows]


def _steps(line: str) -> list[dict[str, Any]]:
    rows = (row.split(":") for row in _pieces(line, ";"))
    return [{"name": name.strip(), "closed": tuple(_pieces(end, "+"))} for name, end in rows]


def _pairs(line: str) -> tuple[tuple[str, str], ...]:
    rows = [tuple(_pieces(row, "+")) for row in _pieces(line, ",")]
    return tuple((first, second) for first, second in rows)


class SteppedFanDevice(LoadDevice):
    """Each step is a combination of relays; some must never close together."""

    facts = STEPPED_FAN
    title = "Steps"
    checks = (fans_in_steps,)
    asks: ClassVar[Asks] = {
        "motor_ohm": Asked(label="Motor", unit="Ω"),
        "motor_henry": Asked(label="Inductance", unit="H"),
        "capacitors": Asked(
            label="Capacitors",
            note="role and µF",
            write=lambda caps: ", ".join(f"{c.role} {short(c.capacitance_uf)}" for c in caps),
            read=_capacitors,
            example="c1 2.2, c2 3.3",
        ),
        "steps": Asked(
            label="Steps",
            note="what each closes",
            write=lambda steps: "; ".join(f"{s.name}: {'+'.join(s.closed)}" for s in steps),
            read=_steps,
            example="1: c1; 2: c2; 3: c1+c2; 4: direct",
        ),
        "never_together": Asked(
            label="Never together",
            write=lambda pairs: ", ".join("+".join(pair) for pair in pairs),
            read=_pairs,
            example="c1+direct, c2+direct",
        ),
        "dead_time_s": Asked(label="Dead time", unit="s"),
        "bleed_ohm": Asked(label="Bleed resistor", unit="Ω"),
        "safe_v": Asked(label="Charge is safe under", unit="V"),
        "surge_ohm": Asked(label="In each capacitor’s line", unit="Ω"),
        "basis": Asked(
            label="Motor’s figures are",
            options=(("estimated", "estimated"), ("measured", "measured on it")),
        ),
    }

    def roles(self, load: Load) -> Roles:
        """Every relay that a step names."""
        return load.stepped.roles if load.stepped else ()

    def states(self, load: Load) -> tuple[Roles, ...]:
        """Off, then each step that an allowed combination makes."""
        if load.stepped is None:
            return ((), ("on",))
        steps = load.stepped.steps
        return ((), *(step.closed for step in steps if load.stepped.reachable(step)))

    def contacts(self, load: Load) -> ContactPlan:
        """Break before make, and pairs that never conduct together."""
        fan = load.stepped
        if fan is None:
            return ContactPlan()
        return ContactPlan(dead_s=fan.dead_time_s, exclusive=fan.never_together)

    def current_a(self, load: Load, house: House) -> float:
        """The highest current that its motor and capacitors let flow in any step."""
        if load.stepped is None:
            return 0.0
        states = (
            step_running(load.stepped, step, mains_v=house.mains_v, mains_hz=house.mains_hz)
            for step in load.stepped.steps
        )
        return max((state.current_a for state in states if state is not None), default=0.0)

    def role_share_1(self, load: Load, role: str, house: House) -> float:
        """What one of its relays carries of its current: of parallel capacitors each its share."""
        whole = self.current_a(load, house)
        if load.stepped is None or not whole:
            return 1.0
        loads = role_loads(load.stepped, mains_v=house.mains_v, mains_hz=house.mains_hz)
        return loads[role].current_a / whole if role in loads else 0.0

    def mains(self, load: Load, plan: Plan, wires: MainsWires) -> Iterator[Conductor]:
        """Each relay to its capacitor, and on to the motor."""
        caps = {c.role: c for c in load.stepped.capacitors} if load.stepped else {}
        for relay, label in zip(plan.relays_of(load.id), wires.labels, strict=True):
            share = self.role_share_1(load, relay.role, plan.house)
            own = replace(wires, current_a=share * wires.current_a)
            start = yield from own.through(relay, wires.live, label)
            if relay.role not in caps:
                yield from own.to_load(start, label)
                continue
            role = relay.role.upper()
            note = f"series capacitor {short(caps[relay.role].capacitance_uf)} µF; holds charge"
            yield from own.to_load(start, label, f"{role} in", note)
            yield own.wire(
                f"{label}″",
                f"{load.name}:{role} out",
                f"{load.name}:L",
                wires.colours.switched,
                "capacitor to motor",
            )

    def circuit(self, load: Load, plan: Plan) -> Circuit | None:
        """What each step closes, what flows then, and how long a charge stays."""
        fan = load.stepped
        if fan is None:
            return None
        caps = {c.role: c.capacitance_uf for c in fan.capacitors}
        names = {r.role: r.id.upper() for r in plan.relays_of(load.id)}
        house = plan.house
        facts = [
            ("Mains", f"{short(house.mains_v)} V, {short(house.mains_hz)} Hz"),
            (
                "Never together",
                "; ".join(" with ".join(pair) for pair in fan.never_together) or "–",
            ),
            ("Dead time between steps", f"{short(fan.dead_time_s)} s, break before make"),
        ]
        assumed = "" if fan.basis == "measured" else ", assumed: measure them"
        facts.append(("Motor", f"{ohms(fan.motor_ohm)}, {short(fan.motor_henry)} H{assumed}"))
        charge = slowest_bleed(fan, mains_v=house.mains_v, mains_hz=house.mains_hz)
        if charge is not None:
            safe = f"after {figure(charge.to_safe_s)} s through {ohms(fan.bleed_ohm or 0)}"
            peak = f"from {figure(charge.from_v, 0)} V, their own peak"
            facts.append((f"Charge under {short(fan.safe_v)} V", f"{safe}, {peak}"))
        return Circuit(
            owner=f"load:{load.id}",
            title=f"{load.name}: {len(self.states(load)) - 1} steps by combination",
            draws="stepped",
            facts=tuple(facts),
            head=("Step", "Closed", "Reactance", "Current", "Motor / capacitor"),
            rows=tuple(_step_rows(fan, names, house)),
            caution="Capacitors hold charge after switching off: wait, discharge, prove dead. More "
            "capacitance is not always more speed.",
            values={"load": load.name, **{role: f"{short(uf)} µF" for role, uf in caps.items()}},
        )

    def parts(self, load: Load) -> Iterator[PartCount]:
        """Its capacitors, each with its bleed resistor."""
        fan = load.stepped
        for cap in fan.capacitors if fan else ():
            rated = _rating_v(fan, cap.role) if fan else CAPACITOR_RATINGS_V[-1]
            name = f"motor-run capacitor {short(cap.capacitance_uf)} µF, {rated} V AC"
            yield PartCount(group="Small parts", part=name)
            if fan and fan.surge_ohm:
                surge = f"resistor {ohms(fan.surge_ohm)}, 5 W"
                yield PartCount(group="Small parts", part=surge)
            if fan and fan.bleed_ohm:
                bleeder = f"resistor {ohms(fan.bleed_ohm)}, mains-rated"
                yield PartCount(group="Small parts", part=bleeder)

    def isolation(self, load: Load, labels: list[str]) -> Iterator[str]:
        """Its capacitors hold charge."""
        if labels and load.stepped and load.stepped.capacitors:
            yield f"{load.name}: the capacitors hold charge; wait, discharge, prove dead."


def _rating_v(fan: SteppedFan, role: str) -> int:
    """The usual rating over what a capacitor gets at 230 V and 50 Hz and a tenth more."""
    loads = role_loads(fan, mains_v=253.0, mains_hz=50.0)
    across = loads[role].capacitor_v if role in loads else 0.0
    return next((rated for rated in CAPACITOR_RATINGS_V if rated >= across), 1000)


def _step_rows(
    fan: SteppedFan, names: dict[str, str], house: House
) -> Iterator[tuple[str, str, str, str, str]]:
    reached = [step.name for step in fan.steps if fan.reachable(step)]
    shares = {name: percent_of_step(n, len(reached)) for n, name in enumerate(reached, 1)}
    for step in fan.steps:
        closed = " + ".join(names.get(role, role) for role in step.closed) or "none"
        state = step_running(fan, step, mains_v=house.mains_v, mains_hz=house.mains_hz)
        if state is None:
            yield step.name, closed, "–", "–", "unreachable" if step.closed else "off"
            continue
        yield (
            f"{step.name} ({shares[step.name]} %)" if step.name in shares else step.name,
            closed,
            f"{figure(state.capacitive_ohm, 0)} Ω" if state.capacitive_ohm else "none",
            f"{figure(state.current_a, 2)} A",
            f"{figure(state.motor_v, 0)} / {figure(state.capacitor_v, 0)} V",
        )


DEVICES = (SteppedFanDevice(),)
