"""Every special circuit, drawn and computed."""

from fastapi import APIRouter, Request, Response

from aldea.core.wiring.circuits import circuits
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.wire.circuits.drawing import circuit_svg
from aldea.web.benches.wire.pages import wire_sub_page
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import (
    open_house_of,
)

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/wire/circuits")
def special(request: Request, state: State, access: MemberAccess) -> Response:
    """Every special circuit, drawn and computed."""
    opened = open_house_of(state, access)
    drawn = circuits(opened.plan)
    return wire_sub_page(
        request,
        state,
        opened,
        "wire/circuits/circuits.html",
        "circuits",
        verdict_words=_verdict(len(drawn)),
        circuits=[
            (circuit, circuit_svg(circuit.draws, circuit.values), _change_at(circuit.owner))
            for circuit in drawn
        ],
    )


def _verdict(count: int) -> Verdict:
    if not count:
        return Verdict(
            state="owed",
            sentence="0 special circuits.",
            rest="Fans in steps, drives, two-way circuits, tapes and dividers appear here.",
        )
    return Verdict(
        state="holds",
        sentence=f"{count} special circuit{'' if count == 1 else 's'}.",
        rest="Drawn and computed from the plan; figures are entered, not measured.",
    )


def _change_at(owner: str) -> str:
    """Where the figures of a circuit's owner are changed, below the house."""
    return f"/{'wire' if owner.startswith('relay:') else 'layout'}?part={owner}"
