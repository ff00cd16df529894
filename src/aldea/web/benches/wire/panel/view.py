"""The Wire bench: the drawing, the schedule, what is wrong, and which pin a chosen part sits on."""

from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import figure, places_of, short
from aldea.core.base.quantities import state_of, unit_of
from aldea.core.devices.finding import Finding
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Supply
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.lines import conducting_at
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.contacts import WiredContacts, wired_contacts
from aldea.core.wiring.findings import offered
from aldea.core.wiring.standby import standby
from aldea.core.wiring.supply_budget import supply_budget
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.wire.panel.drawing import PanelState, draw_panel
from aldea.web.benches.wire.panel.pins import PinChoice, PinRow, pin_choices, pin_table
from aldea.web.benches.wire.panel.schedule import ScheduleRow, Shown, schedule_rows
from aldea.web.benches.wire.panel.spots import PanelDrawing
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.window import Window

MOST_OPEN = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyRow:
    """A supply with what it must give at once."""

    name: str
    words: str
    sum_ma: float
    rating_ma: float
    share_words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WireView:
    """The whole bench; `open_left` counts the open findings that are not listed."""

    verdict: Verdict
    drawing: PanelDrawing | None
    rows: tuple[ScheduleRow, ...]
    count: int
    findings: tuple[tuple[str, Finding], ...]
    open: tuple[Finding, ...]
    open_count: int
    open_left: int
    choices: tuple[PinChoice, ...]
    pins: tuple[PinRow, ...]
    supplies: tuple[SupplyRow, ...]
    standby: str
    next_issue: int
    note: str


def warning_tags(findings: tuple[Finding, ...]) -> dict[str, str]:
    """!1, !2, … for what is severe or a warning, in that order."""
    shown = [f for f in findings if f.weight != "open"]
    return {finding.key: f"!{i + 1}" for i, finding in enumerate(shown)}


def contacts_at(
    plan: Plan, replayed: Replayed | None, t_ms: int
) -> tuple[WiredContacts | None, dict[str, bool], str]:
    """The wiring and what conducts at an instant; a note where the wiring cannot work."""
    try:
        lines = wired_contacts(plan)
    except PlanError as exc:
        return None, {}, exc.sentence
    conducting = dict(lines.unpowered)
    if replayed is not None:
        for load_id in replayed.loads:
            rehearsal = replayed.of(load_id)
            if rehearsal is not None:
                conducting |= conducting_at(rehearsal.run, t_ms)
    return lines, conducting, ""


def make_wire_view(
    plan: Plan,
    *,
    shown: Shown,
    replayed: Replayed | None,
    traces: Mapping[str, Trace],
    window: Window,
    draft_version: int,
) -> WireView:
    """The bench for one board, or for all rows where there is none."""
    fixes = offered(plan)
    tags = warning_tags(fixes)
    lines, conducting, note = contacts_at(plan, replayed, window.at_ms)
    readings = _readings(plan, traces, window.at_ms)
    drawing = None
    if shown.board is not None:
        drawing = draw_panel(
            plan,
            shown.board,
            findings=fixes,
            tags=tags,
            shown=PanelState(
                lines=lines,
                conducting=conducting,
                priorities=_priorities(plan, replayed, window.at_ms),
                readings=readings,
            ),
            numbers={wire.signal: wire.number for wire in conductors(plan) if wire.signal},
        )
    still_open = tuple(f for f in fixes if f.weight == "open")
    return WireView(
        verdict=_verdict(plan, fixes, draft_version),
        drawing=drawing,
        rows=schedule_rows(plan, fixes, tags, readings, shown),
        count=len(conductors(plan)),
        findings=tuple((tags[f.key], f) for f in fixes if f.key in tags),
        open=still_open[:MOST_OPEN],
        open_count=len(still_open),
        open_left=max(0, len(still_open) - MOST_OPEN),
        choices=pin_choices(plan, shown.part),
        pins=pin_table(plan, shown.part),
        supplies=tuple(_supply_row(plan, supply) for supply in plan.supplies),
        standby=_standby_words(plan),
        next_issue=plan.sheet.number + 1 if plan.sheet else 1,
        note=note,
    )


def _priorities(plan: Plan, replayed: Replayed | None, t_ms: int) -> dict[str, int]:
    """Who decides about each load, by its priority."""
    priorities = {}
    for load in plan.loads:
        stretch = stretch_at(replayed.stretches(load.id), t_ms) if replayed else None
        if stretch is not None:
            priorities[load.id] = stretch.priority
    return priorities


def _standby_words(plan: Plan) -> str:
    """What it takes while nothing is switched, with what that rests on."""
    idle = standby(plan)
    cost = f", {figure(idle.cost, 2)} {plan.house.currency}" if idle.cost else ""
    return (
        f"While nothing is switched: {figure(idle.watts, 1)} W, "
        f"{figure(idle.kwh_a_year, 0)} kWh a year{cost} (supplies assumed at 75 %)."
    )


def _supply_row(plan: Plan, supply: Supply) -> SupplyRow:
    budget = supply_budget(plan, supply)
    return SupplyRow(
        name=supply.name,
        words=f"{figure(budget.sum_ma, 0)} of {short(budget.rating_ma)} mA",
        sum_ma=budget.sum_ma,
        rating_ma=budget.rating_ma,
        share_words=f"{supply.name}: {figure(budget.share_pct, 0)} % at once",
    )


def _verdict(
    plan: Plan,
    findings: tuple[Finding, ...],
    version: int,
) -> Verdict:
    severe = [f for f in findings if f.weight == "severe"]
    owed = sum(f.weight == "open" for f in findings)
    warned = sum(f.weight == "warning" for f in findings)
    rest = f"{warned} warning{'' if warned == 1 else 's'}, {owed} still open."
    if severe:
        count = len(severe)
        things = "One thing needs" if count == 1 else f"{count} things need"
        return Verdict(
            state="fails",
            sentence=f"{things} fixing before draft {version} can be built.",
            rest=rest,
        )
    if not plan.boards:
        return Verdict(
            state="owed",
            sentence="There is no board yet.",
            rest="Add one at Lay out. Then pins are assigned here.",
        )
    if owed or warned:
        things = f"{owed} thing{'' if owed == 1 else 's'} still open at the panel"
        words = f"{warned} warning{'' if warned == 1 else 's'}"
        sentence = f"{things}, {words}." if owed else f"Every line has its pin; {words}."
        return Verdict(state="owed", sentence=sentence)
    return Verdict(state="holds", sentence="Every line has its pin and nothing clashes.")


def _readings(plan: Plan, traces: Mapping[str, Trace], t_ms: int) -> dict[str, str]:
    readings = {}
    for probe in plan.probes:
        trace = traces.get(probe.id)
        at = trace.at(t_ms) if trace is not None else None
        if at is not None:
            value = probe.calibration.at(at[1])
            readings[f"probe:{probe.id}"] = (
                state_of(probe.quantity, value)
                or f"{figure(value, places_of(probe.resolution))} {unit_of(probe.quantity)}"
            )
    return readings
