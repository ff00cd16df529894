"""Certificates: the due list, each as it was signed, on paper, and its label with a code."""

import io

from fastapi import APIRouter, Request, Response

from aldea.core.calibrate.salts import SALTS
from aldea.core.calibrate.thermometer import WAYS
from aldea.core.words.times import local
from aldea.store.calibrations import Certificate, certificate, certificates
from aldea.web.pages import open_bench, render_bench, templates
from aldea.web.routes.record import rail_now
from aldea.web.security import AnyDoor, Door, State
from aldea.web.state import AppState
from aldea.web.views.certificates import due_list
from aldea.web.views.sheets import pdf_answer

MEDIA = {**{key: salt.name for key, salt in SALTS.items()}, **WAYS}
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
def due(request: Request, state: State, door: AnyDoor) -> Response:
    """Every probe that is read or certified, the most pressing first."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        signed = certificates(connection, door.house.id)
    return render_bench(
        request,
        "certificates.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        due=due_list(bench.plan, signed, door.now_ms),
    )


@router.get("/certificates/{number:int}")
def certificate_page(request: Request, state: State, door: AnyDoor, number: int) -> Response:
    """One certificate as it was signed."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        found = certificate(connection, door.house.id, number)
    return render_bench(
        request,
        "certificate.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        certificate=found,
        media=MEDIA,
    )


@router.get("/certificates/{number:int}.pdf")
def certificate_sheet(state: State, door: AnyDoor, number: int) -> Response:
    """The certificate as A4."""
    return _printed(state, door, number, "certificate_sheet.html", f"certificate-{number}.pdf")


@router.get("/certificates/{number:int}/label.pdf")
def certificate_label(state: State, door: AnyDoor, number: int) -> Response:
    """The label for the probe, 62 by 29 mm."""
    return _printed(state, door, number, "certificate_label.html", f"label-{number}.pdf")


def _printed(state: AppState, door: Door, number: int, template: str, name: str) -> Response:
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        found = certificate(connection, door.house.id, number)
    zone = bench.plan.house.time_zone
    html = templates.env.get_template(template).render(
        certificate=found,
        zone=zone,
        house=bench.plan.house.name,
        media=MEDIA,
        qr=square_code(door.house.slug, found, zone),
    )
    return pdf_answer(html, f"{door.house.slug}-{name}")
