"""The Wire bench: the drawing, the schedule, what is wrong, and which pin a chosen part sits on."""

from dataclasses import dataclass

from aldea.core.engine.lines import LineProgram, compile_lines, conducting_at, run_lines
from aldea.core.errors import PlanError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import Board, Pin
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.wire.budget import supply_budget
from aldea.core.wire.candidates import usable
from aldea.core.wire.conductors import conductors
from aldea.core.wire.findings import Finding, findings
from aldea.core.wire.mains import Conductor
from aldea.core.wire.power import SupplyBudget
from aldea.core.wire.signals import Signal, signals
from aldea.core.words.figures import UNIT, figure
from aldea.core.words.verdicts import Verdict
from aldea.web.desk import Replayed
from aldea.web.views.panel_drawing import PanelDrawing, boot_marks, draw_panel
from aldea.web.views.rail import Window

MOST_ROWS = 150  # of a schedule on a page that was not asked for all of it
SETTLED_MS = 3_600_000  # longer than every dead time and travel
SHORT_CAN = {
    "digital_in": "in",
    "digital_out": "out",
    "pull_up": "pull-up",
    "analog_in": "analog",
    "pulse_in": "pulses",
    "serial_rx": "rx",
    "serial_tx": "tx",
    "bus_data": "data",
    "bus_clock": "clock",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleRow:
    """A conductor with the warning that rings one of its ends, and what should be measured."""

    wire: Conductor
    tag: str
    weight: str
    measured: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PinChoice:
    """A line of the chosen part with the pins it may sit on."""

    signal: Signal
    line: str
    board: str
    pin: str
    by: str
    reason: str
    options: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PinRow:
    """A row of a board's pin table."""

    pin: Pin
    can: str
    marks: str
    used_by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """A supply with what it must give."""

    name: str
    volts: str
    budget: SupplyBudget


@dataclass(frozen=True, slots=True, kw_only=True)
class WireView:
    """The whole bench."""

    verdict: Verdict
    drawing: PanelDrawing | None
    rows: tuple[ScheduleRow, ...]
    count: int
    findings: tuple[tuple[str, Finding], ...]
    open: tuple[Finding, ...]
    choices: tuple[PinChoice, ...]
    pins: tuple[PinRow, ...]
    budgets: tuple[Budget, ...]
    note: str


def warning_tags(found: tuple[Finding, ...]) -> dict[str, str]:
    """W1, W2, … for what is severe or a warning, in that order."""
    shown = [f for f in found if f.weight != "open"]
    return {finding.key: f"W{i + 1}" for i, finding in enumerate(shown)}


def lines_at(
    plan: Plan, replayed: Replayed | None, t_ms: int
) -> tuple[LineProgram | None, dict[str, bool], str]:
    """The compiled wiring and what conducts at an instant; a note where it cannot be compiled."""
    try:
        lines = compile_lines(plan)
    except PlanError as exc:
        return None, {}, f"{exc.where}: {exc.got}. {exc.mend}"
    if replayed is None:
        return lines, conducting_at(lines, [], t_ms), ""
    run = replayed.rehearsal.run
    since_ms = max(run.start_ms, t_ms - SETTLED_MS)
    events = run_lines(lines, run, since_ms=since_ms, until_ms=t_ms + 1)
    return lines, conducting_at(lines, events, t_ms), ""


def make_wire_view(
    plan: Plan,
    *,
    board: Board | None,
    chosen: str,
    replayed: Replayed | None,
    window: Window,
    only: str,
    draft_version: int,
) -> WireView:
    """The bench for one board, or for all rows where there is none."""
    found = findings(plan)
    tags = warning_tags(found)
    wires = conductors(plan)
    lines, conducting, note = lines_at(plan, replayed, window.at_ms)
    ranks = {}
    for load in plan.loads:
        timeline = replayed.rehearsal.timelines.get(load.id) if replayed else None
        stretch = stretch_at(timeline, window.at_ms) if timeline else None
        if stretch is not None:
            ranks[load.id] = stretch.rank
    readings = _readings(plan, replayed, window.at_ms)
    drawing = None
    if board is not None:
        drawing = draw_panel(
            plan,
            board,
            found=found,
            tags=tags,
            lines=lines,
            conducting=conducting,
            ranks=ranks,
            readings=readings,
            numbers={wire.signal: wire.number for wire in wires if wire.signal},
        )
    ringed = {pin: tags[f.key] for f in reversed(found) if f.key in tags for pin in f.pins}
    names = {b.id: b.name for b in plan.boards}
    weights = {tags[f.key]: f.weight for f in found if f.key in tags}
    at_node = {f"{names[b]}:{p}": tag for (b, p), tag in ringed.items() if b in names}
    owners = {f.at: tags[f.key] for f in reversed(found) if f.key in tags}
    tagged = [
        (wire, at_node.get(wire.start, "" if at_node else owners.get(wire.owner, "")))
        for wire in wires
    ]
    shown = _chosen_rows(tagged, only, board, chosen, plan)
    severe = [f for f in found if f.weight == "severe"]
    return WireView(
        verdict=_verdict(plan, found, severe, draft_version),
        drawing=drawing,
        rows=tuple(
            ScheduleRow(
                wire=wire,
                tag=tag,
                weight=weights.get(tag, ""),
                measured=(readings.get(wire.owner) if wire.signal else None)
                or _expect(expected(wire, plan)),
            )
            for wire, tag in (shown if only == "all" else shown[:MOST_ROWS])
        ),
        count=len(wires),
        findings=tuple((tags[f.key], f) for f in found if f.key in tags),
        open=tuple(f for f in found if f.weight == "open"),
        choices=pin_choices(plan, chosen),
        pins=_pin_table(plan, chosen),
        budgets=tuple(
            Budget(name=s.name, volts=f"{s.volts:g} V", budget=supply_budget(plan, s))
            for s in plan.supplies
        ),
        note=note,
    )


def _verdict(
    plan: Plan,
    found: tuple[Finding, ...],
    severe: list[Finding],
    version: int,
) -> Verdict:
    owed = sum(f.weight == "open" for f in found)
    warned = sum(f.weight == "warning" for f in found)
    rest = f"{warned} warning{'' if warned == 1 else 's'}, {owed} still open."
    if severe:
        count = len(severe)
        things = "One thing needs" if count == 1 else f"{count} things need"
        return Verdict(
            mark="fails",
            sentence=f"{things} mending before draft {version} may go to the panel.",
            rest=rest,
        )
    if not plan.boards:
        return Verdict(
            mark="owed",
            sentence="There is no board yet.",
            rest="Put one into a place at Lay out; then pins are assigned here.",
        )
    if owed or warned:
        things = f"{owed} thing{'' if owed == 1 else 's'} still open at the panel"
        words = f"{warned} warning{'' if warned == 1 else 's'}"
        sentence = f"{things}, {words}." if owed else f"Every line has its pin; {words}."
        return Verdict(mark="owed", sentence=sentence)
    return Verdict(mark="holds", sentence="Every line has its pin and nothing clashes.")


Tagged = tuple[Conductor, str]


def _chosen_rows(
    rows: list[Tagged], only: str, board: Board | None, chosen: str, plan: Plan
) -> list[Tagged]:
    if only == "all":
        return rows
    if chosen:
        owners = {chosen}
        relay = next((r for r in plan.relays if f"relay:{r.id}" == chosen), None)
        if relay is not None:
            owners.add(f"load:{relay.load}")
        mine = [row for row in rows if row[0].owner in owners]
        if mine:
            return mine
    if only == "warned":
        return [row for row in rows if row[1]]
    if board is None:
        return rows
    here = f"{board.name}:"
    owners = {row.signal.split(".")[0] for row in plan.assignments if row.board == board.id}
    owners |= {f"load:{r.load}" for r in plan.relays if f"relay:{r.id}" in owners}
    return [
        (wire, tag)
        for wire, tag in rows
        if wire.owner in owners or wire.start.startswith(here) or wire.end.startswith(here)
    ]


def expected(wire: Conductor, plan: Plan) -> str:
    """What an instrument should show on a conductor, where that can be said beforehand."""
    probe = plan.probe(wire.owner.removeprefix("probe:")) if wire.signal else None
    sensor = probe.sensor if probe else None
    kind = getattr(sensor, "kind", "")
    if kind == "leak_tape" and wire.signal.endswith(".sense"):
        far = sensor.end_of_line_ohm  # type: ignore[union-attr]
        return f"{far / 1000:g} kΩ dry" if far else "open: cannot be told"
    if kind == "thermistor" and wire.signal.endswith(".sense"):
        return f"{sensor.r25_ohm / 1000:g} kΩ at 25 °C"  # type: ignore[union-attr]
    if kind == "contact":
        return "0 Ω closed"
    return f"{wire.current_a:.1f} A" if wire.feed == "mains" and wire.current_a else ""


def _expect(text: str) -> str:
    return f"expect {text}" if text else ""


def _readings(plan: Plan, replayed: Replayed | None, t_ms: int) -> dict[str, str]:
    if replayed is None:
        return {}
    found = {}
    for probe in plan.probes:
        trace = replayed.traces.get(probe.id)
        at = trace.at(t_ms) if trace is not None else None
        if at is not None:
            value = probe.calibration.intercept + probe.calibration.slope * at[1]
            found[f"probe:{probe.id}"] = f"{figure(value)} {UNIT[probe.quantity]}"
    return found


def pin_choices(plan: Plan, chosen: str) -> tuple[PinChoice, ...]:
    """The lines of a chosen part, each with every pin that could serve and what is on it."""
    rows = {row.signal: row for row in plan.assignments}
    types = board_types(plan)
    holders: dict[tuple[str, str], str] = {}
    known = {s.id: s for s in signals(plan)}
    for name, held in rows.items():
        if name in known:
            holders.setdefault((held.board, held.pin), known[name].name)
    found = []
    for signal in known.values():
        if signal.owner != chosen:
            continue
        row = rows.get(signal.id)
        options = [("", "no pin")]
        for board in plan.boards:
            kind = types[board.board_type]
            for pin in kind.pins:
                mine = row is not None and (row.board, row.pin) == (board.id, pin.name)
                why = usable(board, kind, pin, signal)
                if signal.needs - set(pin.can) and not mine:
                    continue
                holder = holders.get((board.id, pin.name))
                words = f"{board.name}, {pin.name}"
                marks = boot_marks(pin, board)
                if marks:
                    words += f" · {marks}"
                if why and not signal.needs - set(pin.can):
                    words += " · not advised"
                if holder and not mine:
                    words += f" · {holder}"
                options.append((f"{board.id}/{pin.name}", words))
        found.append(
            PinChoice(
                signal=signal,
                line=signal.id.rsplit(".", 1)[1],
                board=row.board if row else "",
                pin=row.pin if row else "",
                by=row.by if row else "",
                reason=row.reason if row else "",
                options=tuple(options),
            )
        )
    return tuple(found)


def _pin_table(plan: Plan, chosen: str) -> tuple[PinRow, ...]:
    board = plan.board(chosen.removeprefix("board:")) if chosen.startswith("board:") else None
    if board is None:
        return ()
    names = {s.id: s.name for s in signals(plan)}
    on: dict[str, list[str]] = {}
    for row in plan.assignments:
        if row.board == board.id and row.signal in names:
            name = names[row.signal]
            if name not in on.setdefault(row.pin, []):
                on[row.pin].append(name)
    return tuple(
        PinRow(
            pin=pin,
            can=", ".join(SHORT_CAN[can] for can in pin.can),
            marks=boot_marks(pin, board),
            used_by=", ".join(on.get(pin.name, [])),
        )
        for pin in board_types(plan)[board.board_type].pins
    )
