"""The supply detective's page: counts and one known temperature in, suspects in order out."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.calibrate.detective import Assumptions, Verdict, investigate, shift_k
from aldea.core.errors import CalibrationError, ConflictError, InputError, NotFoundError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import Thermistor
from aldea.core.wire.circuit import reader_of
from aldea.core.wire.conductors import ohms
from aldea.core.words.figures import figure, signed
from aldea.core.words.verdicts import Verdict as Sentence
from aldea.web.editing import edit_draft, version_of
from aldea.web.forms import Fields, typed_of
from aldea.web.pages import Bench, open_bench, render_bench
from aldea.web.routes.record import rail_now
from aldea.web.security import AnyDoor, BuilderDoor, Door, Sent, State
from aldea.web.state import AppState

router = APIRouter(prefix="/h/{slug}/detective", include_in_schema=False)
IN_PLAN = ("fixed_ohm", "beta_k", "side", "supply_v")
CHECK_DEGC = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sister:
    """Another probe of this make: what a correction does to it."""

    probe: Probe
    before: str
    after: str
    shift: str


def thermistors(plan: Plan) -> list[tuple[Probe, Thermistor]]:
    """Every probe that is made as a thermistor."""
    return [(p, p.sensor) for p in plan.probes if isinstance(p.sensor, Thermistor)]


def assumed_of(plan: Plan, probe: Probe, sensor: Thermistor) -> Assumptions:
    """What the plan takes for granted about a thermistor, and its board's converter."""
    kind = reader_of(plan, f"probe:{probe.id}.sense")
    volts = kind.converter_v if kind and kind.converter_v else 3.3
    return Assumptions(
        side=sensor.side,
        fixed_ohm=sensor.fixed_ohm,
        supply_v=sensor.supply_v or volts,
        reference_v=volts,
        bits=kind.converter_bits if kind and kind.converter_bits else 12,
        r25_ohm=sensor.r25_ohm,
        beta_k=sensor.beta_k,
    )


def subject(plan: Plan, probe_id: str) -> tuple[Probe, Thermistor]:
    """The thermistor that an address names."""
    for probe, sensor in thermistors(plan):
        if probe.id == probe_id:
            return probe, sensor
    raise NotFoundError(
        "probe",
        got=repr(probe_id),
        allowed="a probe that is made as a thermistor",
        mend="Choose how it is made at Lay out.",
    )


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    probe_id: str,
    typed: dict[str, str],
    *,
    refusal: str = "",
    status: int = 200,
) -> Response:
    plan = bench.plan
    probe, sensor = subject(plan, probe_id)
    assumed = assumed_of(plan, probe, sensor)
    fields = Fields(typed)
    found: Verdict | None = None
    if typed.get("counts"):
        try:
            found = _investigated(fields, assumed)
        except (InputError, CalibrationError):
            status = 422
    return render_bench(
        request,
        "detective.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=status,
        probe=probe,
        probes=[p for p, _ in thermistors(plan)],
        assumed=assumed,
        typed={"counts": "", "known_degc": "", "expanded_k": "0.3", **typed},
        errors=fields.errors,
        found=found,
        sentence=_sentence(probe, found),
        sisters=_sisters(plan, probe, found),
        in_plan=IN_PLAN,
        refusal=refusal,
        version=bench.draft.version,
    )


def _investigated(fields: Fields, assumed: Assumptions) -> Verdict:
    counts = fields.number("counts", low=0, high=2**24)
    known = fields.number("known_degc", low=-40, high=120, unit="°C")
    expanded = fields.number("expanded_k", low=0.001, high=20, unit="K")
    fields.check()
    try:
        return investigate(counts, known, expanded_k=expanded, assumed=assumed)
    except CalibrationError as exc:
        fields.refuse_error("counts", exc)
        raise


def _sentence(probe: Probe, found: Verdict | None) -> Sentence:
    if found is None:
        return Sentence(
            mark="owed",
            sentence=f"{probe.name}: what does it read, and what is it really?",
            rest="Ice water, or a clamp on each side; one known temperature is enough to begin.",
        )
    if found.innocent:
        return Sentence(
            mark="holds",
            sentence=f"{probe.name} reads right, {signed(found.error_k or 0.0, 2)} K off.",
            rest=f"This comparison can tell {figure(found.can_tell_k, 2)} K.",
        )
    if found.reads_degc is None or found.error_k is None:
        head = f"{probe.name}: that reading is impossible under what is assumed."
    else:
        head = f"{probe.name} reads {figure(found.reads_degc)} °C, {signed(found.error_k)} K off."
    named = [s for s in found.suspects if s.explains]
    if named:
        rest = f"The {named[0].name} being {named[0].usual} would explain it"
        rest += f", and so would {len(named) - 1} more." if len(named) > 1 else "."
        return Sentence(mark="fails", sentence=head, rest=rest)
    return Sentence(
        mark="not_shown",
        sentence=head,
        rest="No usual value explains it alone: look at contact, position and wires.",
    )


def _sisters(plan: Plan, probe: Probe, found: Verdict | None) -> dict[str, list[Sister]]:
    """By suspect that stands in the plan: every thermistor with its own before and after."""
    made: dict[str, list[Sister]] = {}
    for suspect in found.suspects if found else ():
        if suspect.key not in IN_PLAN:
            continue
        rows = []
        for other, sensor in thermistors(plan):
            old = assumed_of(plan, other, sensor)
            value = getattr(suspect.instead, suspect.key)
            moved = shift_k(old, old.having(suspect.key, value), CHECK_DEGC)
            rows.append(
                Sister(
                    probe=other,
                    before=_words(suspect.key, getattr(old, suspect.key)),
                    after=_words(suspect.key, value),
                    shift="impossible" if moved is None else f"{signed(moved, 2)} K",
                )
            )
        made[suspect.key] = sorted(rows, key=lambda row: row.probe.id != probe.id)
    return made


def _words(key: str, value: object) -> str:
    if isinstance(value, float):
        if key == "fixed_ohm":
            return ohms(value)
        return f"{value:g} {'V' if key == 'supply_v' else 'K'}"
    return {"sensor_low": "between pin and 0 V", "sensor_high": "between pin and +"}[str(value)]


@router.get("/{probe_id}")
def detective(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The page, with what the address asks."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    typed = {k: v for k, v in request.query_params.items() if k in FIELDS}
    return _page(request, state, bench, probe_id, typed)


FIELDS = ("counts", "known_degc", "expanded_k")


@router.post("/{probe_id}/carry")
def carry(request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent) -> Response:
    """Carry one correction to a chosen set of thermistors at once."""
    typed = typed_of(form)
    chosen = {key.removeprefix("to-") for key in typed if key.startswith("to-")}
    key = typed.get("key", "")

    def change(plan: Plan) -> Plan:
        if key not in IN_PLAN:
            raise InputError("key", got=repr(key), allowed=", ".join(IN_PLAN))
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one thermistor")
        fields = Fields(typed)
        wanted: object = (
            fields.choice("value", ("sensor_low", "sensor_high"))
            if key == "side"
            else fields.number("value", low=0.5 if key == "supply_v" else 1, high=1e7)
        )
        fields.check()
        for probe, sensor in thermistors(plan):
            if probe.id in chosen:
                made = Thermistor.model_validate({**sensor.model_dump(), key: wanted})
                plan = put_part(plan, "probe", probe.model_copy(update={"sensor": made}))
        return plan

    try:
        edit_draft(state, door, version_of(typed), change, f"{key} carried to {len(chosen)} probes")
    except (InputError, ConflictError) as exc:
        return _refused(request, state, door, probe_id, typed, exc.sentence)
    query = "&".join(f"{name}={typed[name]}" for name in FIELDS if typed.get(name))
    return RedirectResponse(f"/h/{door.house.slug}/detective/{probe_id}?{query}", status_code=303)


def _refused(
    request: Request, state: AppState, door: Door, probe_id: str, typed: dict[str, str], said: str
) -> Response:
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    kept = {name: typed[name] for name in FIELDS if typed.get(name)}
    return _page(request, state, bench, probe_id, kept, refusal=said, status=422)
