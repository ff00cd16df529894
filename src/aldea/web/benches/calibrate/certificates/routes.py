"""Certificates: the due list, each as it was signed, on paper, and its label with a code."""

import io

from fastapi import APIRouter, Request, Response

from aldea.core.base.instants import local
from aldea.store.calibrations import Certificate, certificate, certificates
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.certificates.view import certificate_view
from aldea.web.shell.access import HouseAccess, MemberAccess, State
from aldea.web.shell.page import open_house, rail_now, render_bench
from aldea.web.shell.state import AppState
from aldea.web.shell.templates import templates

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def square_code(house: str, found: Certificate, zone: str) -> str:
    """What the label's code says, as SVG: house, number, due day, and the start of the sum."""
    import segno  # noqa: PLC0415  for labels alone

    due = local(found.due_ms, zone).date().isoformat()
    text = f"aldea {house} certificate {found.number} due {due} sha256 {found.sha256[:16]}"
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
    return render_bench(
        request,
        "calibrate/certificates/certificates.html",
        opened,
        current="calibrate",
        rail=rail_now(request, state, opened),
        due=due_list(opened.plan, signed, access.now_ms),
    )


@router.get("/certificates/{number:int}")
def certificate_page(request: Request, state: State, access: MemberAccess, number: int) -> Response:
    """One certificate as it was signed."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        found = certificate(connection, access.house.id, number)
    return render_bench(
        request,
        "calibrate/certificates/certificate.html",
        opened,
        current="calibrate",
        rail=rail_now(request, state, opened),
        certificate=certificate_view(found, opened.plan.house.time_zone),
    )


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
        found = certificate(connection, access.house.id, number)
    zone = opened.plan.house.time_zone
    house = opened.plan.house.name

    def sheet() -> str:
        return templates.env.get_template(template).render(
            certificate=certificate_view(found, zone),
            house=house,
            qr=square_code(access.house.slug, found, zone),
        )

    key = (access.house.slug, template, number, found.sha256, house, zone)
    return state.printer.answer(key, f"{access.house.slug}-{name}", sheet, *styles)
