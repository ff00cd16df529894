"""The sheets that are printed: panel door, and the electrician's part alone; A4 by weasyprint."""

from dataclasses import dataclass
from pathlib import Path

from fastapi import Response

from aldea.core.errors import AldeaError
from aldea.core.plan.document import Load, Plan
from aldea.core.wire.conductors import conductors
from aldea.core.wire.contacts import contact_of, has_contactor, load_current_a
from aldea.core.wire.findings import Finding
from aldea.core.wire.mains import Conductor, terminals
from aldea.core.words.times import span

STATIC = Path(__file__).parents[1] / "static"
PAPER = {
    "ink": "#000000",
    "ink2": "#333333",
    "plate": "#ffffff",
    "lit": "#ffffff",
    "sunk": "#f3f3f3",
    "fail": "#000000",
    "fault": "#000000",
}
SCREEN = {key: f"var(--{key})" for key in PAPER}
RETURNS = {"off": "off, stays", "decide": "decides anew", "last": "as it was"}


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayRow:
    """What the relays of one load do, for the door."""

    relays: str
    terminals: str
    load: str
    feed: str
    power_return: str
    probe_lost: str
    longest: str
    current: str
    contact: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DoorSheet:
    """Everything on the door sheet that is not the drawing."""

    feeds: str
    isolation: tuple[str, ...]
    rows: tuple[RelayRow, ...]
    warnings: tuple[tuple[str, Finding], ...]
    mains: tuple[Conductor, ...]
    elv_count: int


def make_sheet(plan: Plan, warnings: tuple[tuple[str, Finding], ...]) -> DoorSheet:
    """Isolation steps first, then a row a load, then what is still wrong."""
    wires = conductors(plan)
    feeds = sorted({load.feed for load in plan.loads if load.feed and plan.relays_of(load.id)})
    return DoorSheet(
        feeds=_spoken(feeds),
        isolation=tuple(_isolation(plan)),
        rows=tuple(_row(load, plan) for load in plan.loads if plan.relays_of(load.id)),
        warnings=warnings,
        mains=tuple(wire for wire in wires if wire.feed == "mains"),
        elv_count=sum(wire.feed == "ELV" for wire in wires),
    )


def _spoken(names: list[str]) -> str:
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} and {names[-1]}"


def _isolation(plan: Plan) -> list[str]:
    lines = []
    by_feed: dict[str, list[str]] = {}
    for load in plan.loads:
        if load.feed and plan.relays_of(load.id) and load.kind != "pulse_drive":
            by_feed.setdefault(load.feed, []).append(load.name)
    lines += [
        f"{feed} feeds {len(names)} loads: {_spoken(names)}."
        for feed, names in by_feed.items()
        if len(names) > 1
    ]
    for load in plan.loads:
        labels = [t.label for t in terminals(plan) if t.load == load.id]
        if load.kind == "two_way" and labels:
            lines.append(
                f"{_spoken([f'X1:{x}' for x in labels])} can be live from the wall switch of "
                f"{load.name} with its relay at rest."
            )
        if load.stepped and load.stepped.capacitors and plan.relays_of(load.id):
            lines.append(f"{load.name}: the capacitors hold charge; wait, discharge, prove dead.")
        if load.valve is not None:
            rest = "shuts" if load.valve.at_rest == "shut" else "opens"
            lines.append(f"{load.name} {rest} by itself without supply.")
    lines.append(f"Everything below the double line in the drawing is {plan.house.mains_v:g} V.")
    return lines


def _row(load: Load, plan: Plan) -> RelayRow:
    relays = plan.relays_of(load.id)
    labels = [t.label for t in terminals(plan) if t.load == load.id]
    runs = [
        i.rule.at_most_s
        for i in plan.invariants
        if i.rule.form == "at_most" and i.rule.load == load.id
    ]
    back = load.power_return
    bears: dict[str, list[str]] = {}
    for relay in relays:
        words = f"{relay.rated_a:g} A, bears {contact_of(relay, load, plan).allowed_a:.1f} A"
        if has_contactor(relay, load):
            words += " of its contactor’s coil"
        bears.setdefault(words, []).append(relay.id.upper())
    return RelayRow(
        relays=", ".join(r.id.upper() for r in relays),
        terminals="volt-free" if load.kind == "pulse_drive" else f"X1:{', '.join(labels)}",
        load=load.name,
        feed="–" if load.kind == "pulse_drive" else load.feed or "to be named",
        power_return=f"{RETURNS[back.policy]}{f', {span(back.delay_s)}' if back.delay_s else ''}",
        probe_lost=f"{load.silent.state} in {span(load.silent.after_s)}"
        if load.silent.after_s
        else load.silent.state,
        longest=span(min(runs)) if runs else "not said",
        current=f"{load_current_a(load, plan):.1f} A",
        contact="; ".join(
            words if len(bears) == 1 else f"{', '.join(names)}: {words}"
            for words, names in bears.items()
        ),
    )


def pdf_of(html: str) -> bytes:
    """A page of HTML as PDF; nothing is fetched but files of this machine, which are our fonts."""
    from weasyprint import HTML  # noqa: PLC0415  half a second, for prints alone
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    fetcher = URLFetcher(allowed_protocols=("file",), allow_redirects=False)
    made: bytes = HTML(string=html, base_url=f"{STATIC.as_uri()}/", url_fetcher=fetcher).write_pdf()
    return made


def pdf_answer(html: str, name: str) -> Response:
    """A PDF to look at or to keep; `AldeaError` with the mend where a library is missing."""
    try:
        made = pdf_of(html)
    except OSError as exc:
        raise AldeaError(
            "printing",
            got=f"a library that is missing ({exc})",
            allowed="libpango and libharfbuzz-subset",
            mend="As root: apt-get install libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0",
        ) from exc
    return Response(
        made,
        media_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}"'},
    )
