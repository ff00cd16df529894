"""Two thermometers in one bath: their difference, and how well a ΔT between them is known."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from aldea.core.calibrate.difference import Difference, difference_of
from aldea.core.errors import CalibrationError, InputError, NotFoundError
from aldea.core.plan.document import Plan, Probe
from aldea.core.words.figures import figure, short, signed
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_pasted
from aldea.web.forms import Fields
from aldea.web.pages import open_bench, render_bench
from aldea.web.routes.record import rail_now
from aldea.web.security import AnyDoor, State

router = APIRouter(prefix="/h/{slug}/difference", include_in_schema=False)
MOST_TEXT = 8000


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceRow:
    """A line of the result."""

    name: str
    value: str
    words: str


def _thermometers(plan: Plan) -> list[Probe]:
    return [p for p in plan.probes if p.quantity == "air_temperature"]


def _pair(plan: Plan, probe_id: str, other_id: str) -> tuple[Probe, Probe | None]:
    known = {p.id: p for p in _thermometers(plan)}
    if probe_id not in known:
        raise NotFoundError("probe", got=repr(probe_id), allowed="a thermometer of this house")
    others = [p for p in known.values() if p.id != probe_id]
    other = known.get(other_id) if other_id != probe_id else None
    return known[probe_id], other or (others[0] if others else None)


def _worked(fields: Fields) -> Difference:
    text = fields.text("pairs", most=MOST_TEXT)
    common = fields.number("common_k", low=0, high=20, unit="K")
    own_1 = fields.number("own_1_k", low=0.001, high=20, unit="K")
    own_2 = fields.number("own_2_k", low=0.001, high=20, unit="K")
    fields.check()
    try:
        return difference_of(
            read_pasted(text),
            expanded_common_k=common,
            expanded_own_1_k=own_1,
            expanded_own_2_k=own_2,
        )
    except (InputError, CalibrationError) as exc:
        fields.errors.setdefault("pairs", exc.sentence)
        raise


def _verdict(first: Probe, second: Probe, found: Difference) -> Verdict:
    head = f"{second.name} reads {signed(found.mean_k, 3)} K beside {first.name}."
    rest = f"A ΔT between them is known to ±{figure(found.expanded_k, 2)} K (k=2)."
    if found.stands_out:
        return Verdict(mark="owed", sentence=head, rest=f"{rest} Take it out before using a ΔT.")
    return Verdict(mark="holds", sentence=head, rest=f"{rest} The bath scatters more than that.")


def _rows(found: Difference) -> tuple[DifferenceRow, ...]:
    return (
        DifferenceRow(
            name="Second minus first",
            value=f"{signed(found.mean_k, 3)} K",
            words=f"the mean of {found.count}",
        ),
        DifferenceRow(
            name="Scatter of one pair", value=f"{figure(found.sd_k, 3)} K", words="one sigma"
        ),
        DifferenceRow(
            name="The mean is known to", value=f"{figure(found.u_mean_k, 3)} K", words="one sigma"
        ),
        DifferenceRow(
            name="Correlation",
            value=figure(found.correlation_1, 3),
            words="by the reference that both were held against",
        ),
        DifferenceRow(
            name="In a ΔT, correlated",
            value=f"±{figure(2 * found.u_k, 3)} K",
            words="k=2; the reference cancels",
        ),
        DifferenceRow(
            name="In a ΔT, if it were not",
            value=f"±{figure(2 * found.u_uncorrelated_k, 3)} K",
            words="k=2; two certificates of two references",
        ),
    )


@router.get("/{probe_id}")
def difference_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The page, with the readings that the address carries."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    query = request.query_params
    first, second = _pair(bench.plan, probe_id, query.get("other", ""))
    own = [short(p.calibration.expanded_uncertainty) if p else "0.5" for p in (first, second)]
    base = {"pairs": "", "common_k": "0", "own_1_k": own[0], "own_2_k": own[1]}
    typed = {**base, **{key: query[key] for key in base if key in query}}
    fields = Fields(typed)
    found: Difference | None = None
    if typed["pairs"].strip():
        try:
            found = _worked(fields)
        except (InputError, CalibrationError):
            found = None
    return render_bench(
        request,
        "difference.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=422 if fields.errors else 200,
        probe=first,
        second=second,
        others=[(p.id, p.name) for p in _thermometers(bench.plan) if p.id != first.id],
        typed=typed,
        errors=fields.errors,
        rows=_rows(found) if found else (),
        verdict_said=_verdict(first, second, found)
        if found and second
        else Verdict(
            mark="owed",
            sentence=f"{first.name} and {second.name if second else 'another'}: not compared yet.",
            rest="Both in one stirred bath, read at one moment, three times or more.",
        ),
    )
