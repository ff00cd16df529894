"""The page of identical probes: the line beside theirs, carried to those that are chosen."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.calibrate.calibration_line import line_words
from aldea.core.calibrate.identical import CarriedLine, carried_line
from aldea.core.plan.document import Plan, Probe
from aldea.store.calibrations import certificates, open_pairs
from aldea.web.benches.calibrate.identical.view import identical_rows, to_carry
from aldea.web.benches.calibrate.pairs.page import probe_of, probe_page
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import refused_edit
from aldea.web.shell.page import OpenHouse, open_house
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/calibrate/{probe_id}", include_in_schema=False)


def _line(
    state: AppState, access: HouseAccess, probe_id: str
) -> tuple[OpenHouse, Probe, CarriedLine | None]:
    """The house, the probe, and the line that it would carry."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        probe, method = probe_of(opened.plan, probe_id)
        taken = [row.pair for row in open_pairs(connection, access.house.id, probe.id)]
        signed = [c for c in certificates(connection, access.house.id) if c.probe == probe.id]
    try:
        fit = method.fit(taken, method.defaults(probe)) if taken else None
    except CalibrationError:  # pairs that carry no line yet: what was signed last stands
        fit = None
    return opened, probe, to_carry(probe, fit, signed)


def _page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    probe: Probe,
    line: CarriedLine | None,
    *,
    errors: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    return probe_page(
        request,
        state,
        opened,
        probe_of(opened.plan, probe.id),
        template="calibrate/identical/identical.html",
        errors=errors,
        status=status,
        rows=identical_rows(opened.plan, probe, line) if line else (),
        equation=line_words(line.slope, line.intercept) if line else "",
    )


@router.get("/identical")
def identical_page(request: Request, state: State, access: MemberAccess, probe_id: str) -> Response:
    """The line of this probe beside what the identical probes have."""
    opened, probe, line = _line(state, access, probe_id)
    return _page(request, state, opened, probe, line)


@router.post("/identical")
def carry(
    request: Request, state: State, access: BuilderAccess, probe_id: str, form: Sent
) -> Response:
    """Carry the line to a chosen set at once; each keeps its own doubt, uncertified."""
    typed = {k: str(v) for k, v in form.items()}
    chosen = {key.removeprefix("to-") for key in typed if key.startswith("to-")}
    opened, probe, line = _line(state, access, probe_id)

    def change(plan: Plan) -> Plan:
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one of them")
        if line is None:
            raise InputError("line", got="none", allowed="a line", fix="Record pairs first.")
        return carried_line(plan, probe, line, chosen)

    refusal = refused_edit(
        state, access, typed, change, f"line of {probe.name} carried to {len(chosen)} probes"
    )
    if refusal:
        return _page(request, state, opened, probe, line, errors={"carry": refusal}, status=422)
    return RedirectResponse(f"{opened.base}/calibrate/{probe.id}/identical", status_code=303)
