"""What every trial bench is made of: what it asks, what it finds, what goes into the plan."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from aldea.core.errors import CalibrationError, InputError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan, Probe
from aldea.core.rehearse.trace import Trace
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_rows
from aldea.web.fields import Options
from aldea.web.forms import Fields
from aldea.web.views.sketch import Sketch

MOST_TEXT = 200_000
S = TypeVar("S")


@dataclass(frozen=True, slots=True, kw_only=True)
class Ask:
    """One thing asked: a figure, one of a list, or, with `rows`, lines of text."""

    name: str
    label: str
    unit: str = ""
    first: str = ""
    low: float = 0.0
    high: float = 1e9
    rows: int = 0
    options: Options = ()
    note: str = ""
    heading: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table of the findings; `figures` are the columns that are numbers."""

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    figures: frozenset[int] = frozenset()
    strong: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """What came out: the verdict, facts, tables, drawings, and the change of the plan, if any."""

    verdict: Verdict
    facts: tuple[tuple[str, str], ...] = ()
    tables: tuple[Table, ...] = ()
    sketches: tuple[Sketch, ...] = ()
    change: Callable[[Plan], Plan] | None = None
    taken: str = ""


Record = Callable[[str], Trace]


@dataclass(slots=True)
class Given:
    """What a trial works on: the plan, whose bench it is, what was typed, what is on record."""

    plan: Plan
    subject: str
    fields: Fields
    record: Record

    @property
    def probe(self) -> Probe:
        """The probe whose bench this is."""
        found = self.plan.probe(self.subject)
        if found is None:
            raise InputError("probe", got=repr(self.subject), allowed="a probe of this house")
        return found

    def number(self, ask: Ask) -> float:
        """A figure within the limits that its field names."""
        return self.fields.number(ask.name, low=ask.low, high=ask.high, unit=ask.unit)

    def whole(self, ask: Ask) -> int:
        """A whole figure within the limits that its field names; 0 after a refusal."""
        value = self.number(ask)
        if not math.isfinite(value):
            return 0
        if value != int(value):
            self.fields.refuse(ask.name, f"{value:g}", "a whole number")
        return int(value)

    def text(self, name: str) -> str:
        """Lines as they were pasted."""
        return self.fields.text(name, most=MOST_TEXT)

    def rows(self, name: str, width: int) -> list[list[float]]:
        """Rows of `width` numbers; a refusal at the field names the row."""
        try:
            rows = read_rows(self.text(name))
        except InputError as exc:
            self.fields.errors.setdefault(name, exc.sentence)
            return []
        if rows and len(rows[0]) != width:
            self.fields.refuse(name, f"{len(rows[0])} values in a row", f"{width} in a row")
            return []
        return rows

    def figures(self, name: str, *, low: float = 0.0, high: float = 1e9) -> list[float]:
        """Numbers with blanks or line ends between them."""
        figures: list[float] = []
        for word in self.text(name).replace(";", " ").split():
            try:
                value = float(word.replace("−", "-").replace(",", "."))
            except ValueError:
                self.fields.refuse(name, repr(word[:20]), "numbers, blanks between")
                return []
            if not low <= value <= high:
                self.fields.refuse(name, f"{value:g}", f"{low:g} to {high:g}")
                return []
            figures.append(value)
        return figures

    def refused(self, exc: CalibrationError, at: dict[str, str], first: str) -> CalibrationError:
        """Put a refusal of the core at the field that it is about; to be raised by the caller."""
        self.fields.refuse_error(at.get(exc.where, first), exc)
        return exc


def sensor_change(probe_id: str, **facts: Any) -> Callable[[Plan], Plan]:
    """A change of the plan that sets figures of how a probe is made."""

    def change(plan: Plan) -> Plan:
        probe = plan.probe(probe_id)
        if probe is None or probe.sensor is None:
            raise InputError("probe", got=repr(probe_id), allowed="a probe of this house")
        made = type(probe.sensor).model_validate({**probe.sensor.model_dump(), **facts})
        return put_part(plan, "probe", probe.model_copy(update={"sensor": made}))

    return change


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """One kind of bench: for which parts of a plan, what it asks and how it is worked out."""

    key: str
    called: str
    heading: str
    subjects: Callable[[Plan], tuple[tuple[str, str], ...]]
    asks: Callable[[Plan, str], tuple[Ask, ...]]
    work: Callable[[Given], Found]
    begin: str  # the bench before anything is typed: what to do first
    empty: str
    enough: Callable[[Mapping[str, str]], bool]  # whether there is something to work out
    in_plan: Callable[[Plan, str], str] = field(default=lambda _plan, _subject: "")
    caution: str = ""


def sensor_of(plan: Plan, subject: str, kind: type[S]) -> S:
    """How a probe is made, where it is made so."""
    probe = plan.probe(subject)
    if probe is None or not isinstance(probe.sensor, kind):
        raise InputError("probe", got=repr(subject), allowed="a probe of this kind")
    return probe.sensor


def filled(*names: str) -> Callable[[Mapping[str, str]], bool]:
    """Whether one of these fields holds anything."""
    return lambda typed: any(typed[name].strip() for name in names)


def probes_where(test: Callable[[Probe], bool]) -> Callable[[Plan], tuple[tuple[str, str], ...]]:
    """Every probe for which a bench of this kind makes sense, with its name."""
    return lambda plan: tuple((p.id, p.name) for p in plan.probes if test(p))
