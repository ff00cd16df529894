"""The curve page of a thermistor: points pasted in, curves out, B and R25 put into the plan."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.calibrate.detective import Assumptions
from aldea.core.calibrate.thermistor_curve import BetaCurve, CurvePoint
from aldea.core.errors import CalibrationError, InputError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan
from aldea.core.plan.sensors import Thermistor
from aldea.core.sensing.thermistor import thermistor_ohm
from aldea.core.words.figures import figure, short
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_pasted
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields, number_of, typed_of
from aldea.web.pages import Bench, render_bench
from aldea.web.routes.detective import assumed_of, subject, thermistors
from aldea.web.routes.record import rail_now
from aldea.web.routes.wire_pages import opened
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.curve import (
    CurveSister,
    CurveView,
    NearView,
    coefficients,
    curve_sisters,
    make_curve_view,
    near_view,
    plan_curve,
)

router = APIRouter(prefix="/h/{slug}/curve", include_in_schema=False)
FIRST = {
    "points": "",
    "temp_unit": "degc",
    "ohm_unit": "ohm",
    "near_degc": "20",
    "loss_mw_per_k": "1.5",
    "duty_pct": "100",
    "input_mohm": "10",
    "leakage_na": "50",
    "which": "three",
}
TEMP_UNITS = {"degc": "°C", "degf": "°F"}
OHM_UNITS = {"ohm": "Ω", "kiloohm": "kΩ", "counts": "counts"}
WHICH = {"three": "Steinhart–Hart, three coefficients", "b": "B and 25 °C alone"}
NEAR = ("near_degc", "loss_mw_per_k", "duty_pct", "input_mohm", "leakage_na")
MOST_TEXT = 6000
THOUSAND, TWICE = 1000.0, 2.5  # a factor of a thousand is a unit, a factor of two another part


def _points(fields: Fields, assumed: Assumptions) -> list[CurvePoint]:
    temp_unit = fields.choice("temp_unit", TEMP_UNITS)
    ohm_unit = fields.choice("ohm_unit", OHM_UNITS)
    text = fields.text("points", most=MOST_TEXT)
    fields.check()
    points = []
    for first, second in read_pasted(text):
        temp = (first - 32) / 1.8 if temp_unit == "degf" else first
        ohm: float | None = second * (THOUSAND if ohm_unit == "kiloohm" else 1)
        if ohm_unit == "counts":
            ohm = assumed.divider.sensor_ohm(second)
            if ohm is None or ohm <= 0:
                raise InputError(
                    "points",
                    got=f"{second:g} counts",
                    allowed=f"0 to {assumed.divider.full_scale_counts}, between open and short",
                )
        points.append(CurvePoint(temp, ohm if ohm is not None else 0.0))
    _doubt_units(points, assumed, temp_unit, ohm_unit)
    return points


def _doubt_units(
    points: list[CurvePoint], assumed: Assumptions, temp_unit: str, ohm_unit: str
) -> None:
    """Refuse points that make sense in another unit only, and say which."""

    def off(temp_degc: float, ohm: float) -> float:
        if not (-60 < temp_degc < 200 and ohm > 0):
            return float("inf")
        wanted = thermistor_ohm(temp_degc, r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
        return max(ohm / wanted, wanted / ohm)

    if not points or all(off(p.temp_degc, p.ohm) < TWICE for p in points):
        return
    first = points[0]
    if ohm_unit == "ohm" and all(off(p.temp_degc, p.ohm * THOUSAND) < TWICE for p in points):
        raise InputError(
            "points",
            got=f"{short(first.ohm)} Ω at {short(first.temp_degc)} °C",
            allowed="ohms",
            mend="These look like kΩ: choose kΩ above the points.",
        )
    if temp_unit == "degc" and all(off((p.temp_degc - 32) / 1.8, p.ohm) < TWICE for p in points):
        raise InputError(
            "points",
            got=f"{short(first.temp_degc)} °C with {short(first.ohm)} Ω",
            allowed="degrees Celsius",
            mend="These look like °F: choose °F above the points.",
        )


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    probe_id: str,
    sent: dict[str, str],
    *,
    refusal: str = "",
    status: int = 200,
) -> Response:
    probe, sensor = subject(bench.plan, probe_id)
    assumed = assumed_of(bench.plan, probe, sensor)
    typed = {**FIRST, **sent}
    fields = Fields(typed)
    view: CurveView | None = None
    if typed["points"].strip():
        try:
            view = make_curve_view(probe.name, _points(fields, assumed), plan_curve(sensor))
        except (InputError, CalibrationError) as exc:
            fields.errors.setdefault("points", exc.sentence)
            status = 422
    curve = view.beta if view else BetaCurve(r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
    near = _near(fields, assumed, curve)
    if fields.errors:
        status = 422
    return render_bench(
        request,
        "curve.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=status,
        probe=probe,
        probes=[p for p, _ in thermistors(bench.plan)],
        assumed=assumed,
        typed=typed,
        errors=fields.errors,
        view=view,
        near=near,
        verdict_said=view.verdict
        if view
        else Verdict(
            mark="owed",
            sentence=f"{probe.name}: no points yet.",
            rest="Two temperatures give B, three the curve of three coefficients.",
        ),
        temp_units=list(TEMP_UNITS.items()),
        ohm_units=list(OHM_UNITS.items()),
        which=list(WHICH.items()),
        sisters=_sisters(bench.plan, view, typed) if view and near else (),
        coefficients=sensor.curve,
        refusal=refusal,
        version=bench.draft.version,
    )


def _sisters(plan: Plan, view: CurveView, typed: dict[str, str]) -> tuple[CurveSister, ...]:
    three = view.steinhart if typed["which"] == "three" else None
    return curve_sisters(thermistors(plan), three or view.beta, number_of(typed["near_degc"]))


def _near(fields: Fields, assumed: Assumptions, curve: BetaCurve) -> NearView | None:
    near = fields.number("near_degc", low=-55, high=150, unit="°C")
    loss = fields.number("loss_mw_per_k", low=0.05, high=1000, unit="mW/K")
    duty = fields.number("duty_pct", low=0, high=100, unit="%")
    input_mohm = fields.number("input_mohm", low=0.001, high=1e6, unit="MΩ")
    leakage = fields.number("leakage_na", low=-1e5, high=1e5, unit="nA")
    if any(name in fields.errors for name in NEAR):
        return None
    return near_view(
        assumed,
        curve,
        near,
        loss_mw_per_k=loss,
        duty=duty / 100,
        input_mohm=input_mohm,
        leakage_na=leakage,
    )


@router.get("/{probe_id}")
def curve_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The page, with the points that the address carries."""
    bench = opened(state, door)
    sent = {k: v for k, v in request.query_params.items() if k in FIRST}
    return _page(request, state, bench, probe_id, sent)


@router.post("/{probe_id}/take")
def take_curve(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Put the fitted curve into the plan, for a chosen set of thermistors at once."""
    typed = typed_of(form)
    chosen = {key.removeprefix("to-") for key in typed if key.startswith("to-")}
    sent = {key: typed[key] for key in FIRST if key in typed}
    bench = opened(state, door)
    probe, sensor = subject(bench.plan, probe_id)
    assumed = assumed_of(bench.plan, probe, sensor)

    def change(plan: Plan) -> Plan:
        fields = Fields({**FIRST, **sent})
        view = make_curve_view(probe.name, _points(fields, assumed), plan_curve(sensor))
        fitted = view.beta
        three = fields.choice("which", WHICH) == "three" and view.steinhart is not None
        fields.check()
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one thermistor")
        if not 1000 <= fitted.beta_k <= 8000:
            raise InputError(
                "points",
                got=f"B {figure(fitted.beta_k, 0)} K",
                allowed="1000 to 8000 K",
                mend="No thermistor is like that: look for a slip in the points.",
            )
        for other, made in thermistors(plan):
            if other.id in chosen:
                facts = {
                    "r25_ohm": round(fitted.r25_ohm, 1),
                    "beta_k": round(fitted.beta_k, 1),
                    "curve": coefficients(view.steinhart) if three else None,
                }
                new = Thermistor.model_validate({**made.model_dump(), **facts})
                plan = put_part(plan, "probe", other.model_copy(update={"sensor": new}))
        return plan

    refusal = refused_edit(state, door, typed, change, f"curve taken by {len(chosen)} probes")
    if refusal:
        bench = opened(state, door)
        return _page(request, state, bench, probe_id, sent, refusal=refusal, status=422)
    return RedirectResponse(
        f"/h/{door.house.slug}/curve/{probe_id}?{urlencode(sent)}", status_code=303
    )
