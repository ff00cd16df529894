"""The sheets that are printed, and the schedule as a file."""

from typing import Any

from fastapi import APIRouter, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import NotFoundError
from aldea.core.base.instants import stamp
from aldea.core.plan.text import plan_text
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.numbers import issued, since_issue
from aldea.core.words.work_order import work_order
from aldea.formats.tables_csv import netlist_csv, points_csv, schedule_csv
from aldea.web.benches.wire.panel.drawing import PanelState, draw_panel
from aldea.web.benches.wire.panel.view import contacts_at, warning_tags
from aldea.web.benches.wire.sheets.view import PAPER, make_sheet
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.files import csv_file
from aldea.web.shell.forms import typed_of
from aldea.web.shell.page import OpenHouse, open_house
from aldea.web.shell.templates import templates

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/wire/schedule.csv")
def schedule_file(state: State, access: MemberAccess) -> Response:
    """The wiring schedule as CSV."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return csv_file(schedule_csv(conductors(opened.plan)), f"{access.house.slug}-schedule.csv")


@router.get("/wire/netlist.csv")
def netlist_file(state: State, access: MemberAccess) -> Response:
    """The nets below mains, for those who make a circuit board."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return csv_file(netlist_csv(conductors(opened.plan)), f"{access.house.slug}-netlist.csv")


@router.get("/wire/points.csv")
def points_file(state: State, access: MemberAccess) -> Response:
    """The conductors below mains from point to point, for perforated board."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return csv_file(points_csv(conductors(opened.plan)), f"{access.house.slug}-points.csv")


@router.post("/wire/issue")
def issue(state: State, access: BuilderAccess, form: Sent) -> Response:
    """Issue the sheet anew: what it shows now is what hangs at the panel."""
    typed = typed_of(form)
    edit_draft(state, access, version_of(typed), issued, "the wiring sheet issued again")
    return RedirectResponse(f"/h/{access.house.slug}/wire", status_code=303)


@router.get("/wire/{sheet}.pdf")
def printed(state: State, access: MemberAccess, sheet: str) -> Response:
    """The door sheet, or the electrician's part alone, as A4."""
    if sheet not in ("door-sheet", "electrician"):
        raise NotFoundError("sheet", got=repr(sheet), allowed="door-sheet or electrician")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    running = opened.revision.sha256 if opened.revision else ""
    name = f"{access.house.slug}-{sheet}.pdf"
    return state.printer.answer(
        (access.house.slug, sheet, opened.draft.version, opened.draft.text, running),
        name,
        lambda: _sheet(opened, sheet),
    )


def _sheet(opened: OpenHouse, sheet: str) -> str:
    plan, now_ms = opened.plan, opened.access.now_ms
    all_findings = findings(plan)
    tags = warning_tags(all_findings)
    lines, _, note = contacts_at(plan, None, now_ms)
    at_rest = lines.unpowered if lines else {}
    wires = conductors(plan)
    drawings = [
        draw_panel(
            plan,
            board,
            findings=all_findings,
            tags=tags,
            shown=PanelState(lines=lines, conducting=at_rest, priorities={}, readings={}),
            numbers={wire.signal: wire.number for wire in wires if wire.signal},
        )
        for board in plan.boards
        if any(row.board == board.id for row in plan.assignments)
    ]
    same = opened.revision is not None and plan_text(opened.revision.plan) == opened.draft.text
    values: dict[str, Any] = {
        "plan": plan,
        "sheet": make_sheet(plan, tuple((tags[f.key], f) for f in all_findings if f.key in tags)),
        "drawings": drawings,
        "wires": wires,
        "c": PAPER,
        "draft": opened.draft.version,
        "revision": opened.revision.number if opened.revision else None,
        "drawn": "this is it" if same else f"draft {opened.draft.version} is drawn, and is not",
        "issue": plan.sheet.number if plan.sheet else None,
        "changes": since_issue(plan),
        "order": work_order(plan),
        "when": stamp(now_ms, plan.house.time_zone),
        "note": note,
    }
    return templates.env.get_template(f"wire/sheets/{sheet.replace('-', '_')}.html").render(values)
