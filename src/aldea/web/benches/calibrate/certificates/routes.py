"""Certificates: the due list, each as it was signed, on paper, and its label with a code."""

import io

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import InputError
from aldea.core.base.instants import local
from aldea.store.calibrations import Certificate, certificate, certificates
from aldea.store.houses import add_log_entry
from aldea.store.in_place import check_in_place, in_place_of
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.certificates.standing import not_standing
from aldea.web.benches.calibrate.certificates.view import certificate_view, in_place_words
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import OpenHouse, open_house, render_bench, timeline_now
from aldea.web.shell.state import AppState
from aldea.web.shell.templates import templates

FIRST_IN_PLACE = {"reference": "", "reference_expanded": "", "reading": ""}
router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def square_code(house: str, certificate: Certificate, zone: str) -> str:
    """What the label's code says, as SVG: house, number, due day, and the start of the sum."""
    import segno  # noqa: PLC0415  for labels alone

    due = local(certificate.due_ms, zone).date().isoformat()
    text = (
        f"aldea {house} certificate {certificate.number} due {due} sha256 {certificate.sha256[:16]}"
    )
    out = io.BytesIO()
    segno.make(text, error="m").save(
        out, kind="svg", scale=3, border=1, xmldecl=False, svgns=False, omitsize=False
    )
    return out.getvalue().decode()


@router.get("/certificates")
def due(request: Request, state: State, access: MemberAccess) -> Response:
    """Every probe that is read or certified, the most pressing first."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        signed = certificates(connection, access.house.id)
        checked = in_place_of(connection, access.house.id, signed)
    return render_bench(
        request,
        "calibrate/certificates/certificates.html",
        opened,
        current="calibrate",
        timeline=timeline_now(request, state, opened),
        due=due_list(opened.plan, signed, access.now_ms, checked),
    )


@router.get("/certificates/{number:int}")
def certificate_page(request: Request, state: State, access: MemberAccess, number: int) -> Response:
    """One certificate as it was signed, and as it was checked in place."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        shown = certificate(connection, access.house.id, number)
    return _page(request, state, opened, shown)


def _page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    shown: Certificate,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    zone = opened.plan.house.time_zone
    access = opened.access
    with state.database.begin() as connection:
        checked = in_place_of(connection, access.house.id, [shown]).get(shown.number)
        signed = certificates(connection, access.house.id)
    return render_bench(
        request,
        "calibrate/certificates/certificate.html",
        opened,
        current="calibrate",
        timeline=timeline_now(request, state, opened),
        status=status,
        certificate=certificate_view(
            shown, zone, not_standing(opened.plan, shown, signed, access.now_ms)
        ),
        in_place=in_place_words(checked, shown, zone) if checked else None,
        errors=errors or {},
        typed={**FIRST_IN_PLACE, **(typed or {})},
    )


@router.post("/certificates/{number:int}/in-place")
def in_place(
    request: Request, state: State, access: BuilderAccess, number: int, form: Sent
) -> Response:
    """The second stage: what a reference showed beside the probe where it hangs, once."""
    typed = typed_of(form)
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        checked_one = certificate(connection, access.house.id, number)
    unit = checked_one.document["unit"]
    low, high = checked_one.document["range"]
    margin = high - low + 10 * checked_one.document["expanded_uncertainty"]
    reference = fields.number("reference", low=low - margin, high=high + margin, unit=unit)
    reading = fields.number("reading", low=low - margin, high=high + margin, unit=unit)
    expanded = fields.number("reference_expanded", low=0.001, high=100, unit=unit)
    try:
        fields.check()
        with state.database.begin() as connection:
            check_in_place(
                connection, access.house.id, checked_one, reference=reference,
                reference_expanded=expanded, reading=reading, by=access.account,
                at_ms=access.now_ms,
            )  # fmt: skip
            what = f"Certificate {number} checked in place."
            add_log_entry(
                connection, access.house.id, account=access.account, at_ms=access.now_ms, what=what
            )
    except InputError:
        errors = fields.errors
        return _page(request, state, opened, checked_one, errors=errors, typed=typed, status=422)
    return RedirectResponse(f"{opened.base}/certificates/{number}", status_code=303)


@router.get("/certificates/{number:int}.pdf")
def certificate_sheet(state: State, access: MemberAccess, number: int) -> Response:
    """The certificate as A4."""
    return _printed(
        state, access, number, "calibrate/certificates/sheet.html", f"certificate-{number}.pdf"
    )


@router.get("/certificates/{number:int}/label.pdf")
def certificate_label(state: State, access: MemberAccess, number: int) -> Response:
    """The label for the probe, 62 by 29 mm."""
    return _printed(
        state,
        access,
        number,
        "calibrate/certificates/label.html",
        f"label-{number}.pdf",
        "calibrate/certificates/label.css",
    )


def _printed(
    state: AppState, access: HouseAccess, number: int, template: str, name: str, *styles: str
) -> Response:
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        shown = certificate(connection, access.house.id, number)
        checked = in_place_of(connection, access.house.id, [shown]).get(number)
        signed = certificates(connection, access.house.id)
    zone = opened.plan.house.time_zone
    house = opened.plan.house.name
    standing = not_standing(opened.plan, shown, signed, access.now_ms)

    def sheet() -> str:
        return templates.env.get_template(template).render(
            certificate=certificate_view(shown, zone, standing),
            in_place=in_place_words(checked, shown, zone) if checked else None,
            house=house,
            qr=square_code(access.house.slug, shown, zone),
        )

    key = (access.house.slug, template, number, shown.sha256, house, zone, checked, standing)
    return state.printer.answer(key, f"{access.house.slug}-{name}", sheet, *styles)
