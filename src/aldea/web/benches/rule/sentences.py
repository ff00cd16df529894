"""Every rule of the house as a document, to be read and printed."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from aldea.core.base.instants import local, stamp
from aldea.core.devices.finding import Finding
from aldea.core.plan.document import Load
from aldea.core.rules.findings import load_of, rule_findings
from aldea.core.words.house_rules import shared_rules
from aldea.core.words.house_summary import house_summary, load_summary
from aldea.core.words.rules import load_sentences
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house, render_bench, timeline_now

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadInWords:
    """A load with its paragraph, its rules in order and what was found about them."""

    load: Load
    place: str
    summary: str
    lines: tuple[tuple[str, str], ...]
    findings: tuple[Finding, ...]


@router.get("/rule/sentences")
def sentences(request: Request, state: State, access: MemberAccess) -> Response:
    """Every rule of the house as plain sentences, to be read and printed."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    plan = opened.plan
    places = {place.id: place.name for place in plan.places}
    zone = plan.house.time_zone
    all_findings = rule_findings(plan, local(access.now_ms, zone).date())
    return render_bench(
        request,
        "rule/sentences.html",
        opened,
        current="rule",
        timeline=timeline_now(request, state, opened),
        load=None,
        summary=house_summary(plan),
        rows=[
            LoadInWords(
                load=load,
                place=places.get(load.place, ""),
                summary=load_summary(plan, load),
                lines=tuple(load_sentences(plan, load)),
                findings=tuple(f for f in all_findings if load_of(plan, f) == load.id),
            )
            for load in plan.loads
        ],
        house_findings=[f for f in all_findings if load_of(plan, f) is None],
        shared=shared_rules(plan),
        same=opened.revision is not None and opened.revision.plan == plan,
        printed=stamp(access.now_ms, zone),
        here=f"{opened.base}/rule",
    )
