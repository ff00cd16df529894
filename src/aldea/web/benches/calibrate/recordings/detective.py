"""The supply detective: counts and one known temperature in, suspects in order out."""

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import figure, ohms, short, signed
from aldea.core.calibrate.detective import Inquiry, Suspect, assumed_of, investigate, shift_k
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Choice,
    Found,
    Given,
    RecordingsBench,
    Table,
    Take,
    filled,
    probes_made_as,
)
from aldea.web.benches.calibrate.recordings.thermistors import (
    SIDES,
    assumed_here,
    taken_for_granted,
    thermistors,
)

IN_PLAN = ("fixed_ohm", "beta_k", "side", "supply_v")
CHECK_DEGC = 20.0
CARRIED_NOTE = (
    "A result from one is mostly valid for identical probes. Each still needs its own check point."
)
ASKS = (
    Ask(name="counts", label="The board shows", unit="counts", high=2**24),
    Ask(name="known_degc", label="It really is", unit="°C", low=-40, high=120),
    Ask(name="expanded_k", label="known to, k = 2", unit="± K", first="0.3", low=0.001, high=20),
)
BY_NAME = {ask.name: ask for ask in ASKS}


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return ASKS


def _calculate(given: Given) -> Found:
    counts = given.number(BY_NAME["counts"])
    known = given.number(BY_NAME["known_degc"])
    expanded = given.number(BY_NAME["expanded_k"])
    given.fields.check()
    try:
        inquiry = investigate(counts, known, expanded_k=expanded, assumed=assumed_here(given))
    except CalibrationError as exc:
        raise given.refused(exc, {}, "counts") from exc
    named = [s for s in inquiry.suspects if s.explains and not inquiry.innocent]
    return Found(
        verdict=_verdict(given.probe.name, inquiry),
        tables=(_suspects(inquiry),),
        takes=tuple(_take(given, suspect) for suspect in named if suspect.key in IN_PLAN),
    )


def _suspects(inquiry: Inquiry) -> Table:
    strong = frozenset(
        i for i, s in enumerate(inquiry.suspects) if s.explains and not inquiry.innocent
    )
    rows = "Rows with a bar are" if strong else "No row is"
    return Table(
        bold=frozenset({0}),
        title="Suspects, each alone; the least unexplained first",
        head=(
            "Assumption",
            "was taken for",
            "would have to be",
            "usual value",
            "left unexplained",
            "To decide",
        ),
        rows=tuple(
            (
                suspect.name,
                suspect.assumed,
                suspect.would_be,
                suspect.usual,
                "impossible" if suspect.left_k is None else f"{signed(suspect.left_k, 2)} K",
                suspect.measure,
            )
            for suspect in inquiry.suspects
        ),
        figures=frozenset({4}),
        strong=strong,
        fine=f"{rows} explained within the {figure(inquiry.can_tell_k, 2)} K that this comparison "
        "can tell (U of the known temperature and one count). One temperature cannot prove a "
        "cause. Measure, then change.",
    )


def _verdict(name: str, inquiry: Inquiry) -> Verdict:
    if inquiry.innocent:
        return Verdict(
            state="holds",
            sentence=f"{name} reads right, {signed(inquiry.error_k or 0.0, 2)} K off.",
            rest=f"This comparison resolves {figure(inquiry.can_tell_k, 2)} K.",
        )
    if inquiry.reads_degc is None or inquiry.error_k is None:
        head = f"{name}: that reading is impossible with these assumptions."
    else:
        head = f"{name} reads {figure(inquiry.reads_degc)} °C, {signed(inquiry.error_k)} K off."
    named = [s for s in inquiry.suspects if s.explains]
    if named:
        rest = f"The {named[0].name} being {named[0].usual} would explain it"
        rest += f", and so would {len(named) - 1} more." if len(named) > 1 else "."
        return Verdict(state="fails", sentence=head, rest=rest)
    return Verdict(
        state="not_shown",
        sentence=head,
        rest="No usual value explains it alone: look at contact, position and wires.",
    )


def _take(given: Given, suspect: Suspect) -> Take:
    """What was measured on one thermistor is mostly true of those like it: carry it to some."""
    value = getattr(suspect.instead, suspect.key)

    def change(plan: Plan, chosen: frozenset[str]) -> Plan:
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one thermistor")
        for probe, sensor in thermistors(plan):
            if probe.id in chosen:
                changed = Thermistor.model_validate({**sensor.model_dump(), suspect.key: value})
                plan = put_part(plan, "probe", probe.model_copy(update={"sensor": changed}))
        return plan

    choices = [_choice(given, suspect, probe_id) for probe_id, _ in _subjects(given.plan)]
    return Take(
        key=suspect.key,
        title=f"Copy the {suspect.name} of {suspect.usual}",
        label="Carry it",
        change=change,
        head=("Probe", "before", "after", "moves at 20 °C"),
        choices=tuple(sorted(choices, key=lambda row: not row.chosen)),
        notes=(CARRIED_NOTE,),
    )


def _choice(given: Given, suspect: Suspect, probe_id: str) -> Choice:
    probe, sensor = next(row for row in thermistors(given.plan) if row[0].id == probe_id)
    old = assumed_of(given.plan, probe, sensor)
    value = getattr(suspect.instead, suspect.key)
    moved = shift_k(old, old.having(suspect.key, value), CHECK_DEGC)
    return Choice(
        probe=probe.id,
        name=probe.name,
        cells=(
            _words(suspect.key, getattr(old, suspect.key)),
            _words(suspect.key, value),
            "impossible" if moved is None else f"{signed(moved, 2)} K",
        ),
        chosen=probe.id == given.subject,
    )


def _words(key: str, value: object) -> str:
    if isinstance(value, float):
        return ohms(value) if key == "fixed_ohm" else f"{short(value)} {_UNITS[key]}"
    return SIDES[str(value)]


_UNITS = {"supply_v": "V", "beta_k": "K"}
_subjects = probes_made_as("thermistor")


DETECTIVE = RecordingsBench(
    key="detective",
    computed="thermistor",
    called="a thermistor in a divider",
    heading="Supply detective",
    does="which assumption explains an error",
    takes="5 min: one or two readings",
    subjects=_subjects,
    asks=_fields_of,
    work=_calculate,
    begin="Ice water, or a clamp on each side; one known temperature is enough to start.",
    nothing="its reading and the true value",
    empty="Enter the counts that the board shows and the true temperature at the probe. A wrong "
    "supply, reference, resistor, B value, bit count or side each gives a different error.",
    enough=filled("counts"),
    beside=lambda given: (taken_for_granted(given),),
    links=lambda subject: (("Its curve", f"/recordings/curve/{subject}"),),
    caution="Ice bath: crushed ice with just enough water, stirred, the probe in its middle. Keep "
    "the board and its mains side out of the water.",
    action="Who was it?",
)
