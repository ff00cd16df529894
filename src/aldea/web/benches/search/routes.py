"""Search: a page, and its list while somebody types."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from aldea.core.words.search import Hit, plain_text, search_plan
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house_of, render, render_bench, timeline_now

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
LONGEST = 80
MOST_PAGES = 6
# The pages of the benches by what they are called, with words that people look for.
PAGES = (
    ("House", "", "overview open findings"),
    ("Lay out", "/layout", "places probes loads boards supplies controls must never"),
    ("Wire", "/wire", "pins relays wiring panel conductors print door sheet electrician"),
    ("Circuits", "/wire/circuits", "drawing schematic steps dividers"),
    ("Controls", "/wire/controls", "buttons remote codes selector dial press"),
    ("Boards", "/wire/boards", "pin table own board type"),
    ("Parts to order", "/wire/parts", "parts list stock price cable"),
    ("Calibrate", "/calibrate", "measure fit pairs"),
    ("Calibrate, by kind", "/calibrate", "detective tape gas light radar doorway"),
    ("Certificates", "/certificates", "due uncertainty signed"),
    ("How figures are calculated", "/computed", "formulas sources examples"),
    ("Tune", "/tune", "band thresholds hysteresis replay"),
    ("Rules", "/rule", "priority override interlock trip demand"),
    ("Failsafe", "/rule/failsafe", "sensor fault power cut minimum off time maximum on time"),
    ("Schedules and modes", "/rule/house", "schedule mode named condition doorway memory calendar"),
    ("All rules in words", "/rule/sentences", "print sentences"),
    ("Record", "/record", "import log readings history revisions publish plan file"),
    ("Glossary", "/words", "words terms"),
)
PATHS = {
    "probe": "/layout?part=probe:{id}",
    "load": "/rule?load={id}",
    "rule": "/rule?load={owner}&rule={id}",
    "pin": "/wire?part={owner}",
    "control": "/wire/controls#control-{id}",
    "board": "/layout?part=board:{id}",
    "supply": "/layout?part=supply:{id}",
    "place": "/layout?part=place:{id}",
    "schedule": "/rule/house?part=schedule:{id}",
    "mode": "/rule/house?part=mode:{id}",
    "condition": "/rule/house?part=condition:{id}",
    "signal": "/rule/house?part=signal:{id}",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A line of the list: its kind, name, what tells it from others, and where it leads."""

    kind: str
    name: str
    line: str
    path: str


def path_of(hit: Hit) -> str:
    """The page of a part, below the house."""
    return PATHS[hit.kind].format(id=hit.id, owner=hit.owner)


def pages_found(query: str) -> list[Found]:
    """The pages in whose name or words every word of a query stands."""
    words = plain_text(query).split()
    rows = [
        (name, path, more)
        for name, path, more in PAGES
        if words and all(word in plain_text(f"{name} {more}") for word in words)
    ]
    rows.sort(key=lambda row: not plain_text(row[0]).startswith(words[0]))
    return [
        Found(kind="page", name=name, line="page", path=path) for name, path, _ in rows[:MOST_PAGES]
    ]


@router.get("/search")
def search(request: Request, state: State, access: MemberAccess) -> Response:
    """What a query finds; the list alone where a page asks while somebody types."""
    opened = open_house_of(state, access)
    query = request.query_params.get("q", "")[:LONGEST].replace("\x00", "")
    hits = pages_found(query) + [
        Found(kind=hit.kind, name=hit.name, line=hit.line, path=path_of(hit))
        for hit in search_plan(opened.plan, query)
    ]
    if request.headers.get("HX-Request"):
        return render(request, "search/found.html", base=opened.base, query=query, found=hits)
    return render_bench(
        request,
        "search/search.html",
        opened,
        current="",
        timeline=timeline_now(request, state, opened),
        query=query,
        found=hits,
        base=opened.base,
    )
