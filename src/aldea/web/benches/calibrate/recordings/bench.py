"""What every recordings bench is made of: what it asks, what it finds, what goes into the plan."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import exact, short
from aldea.core.base.numbers import number_of
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import put_part
from aldea.core.readings.trace import Trace
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_rows
from aldea.web.shell.form_fields import Options
from aldea.web.shell.forms import Fields
from aldea.web.shell.sketch import Sketch
from aldea.web.shell.window import Window

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
    """A table of the findings; `figures` are the columns that are numbers, `bold` ones stand out.

    So do `strong` rows. `fine` is said under it.
    """

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    figures: frozenset[int] = frozenset()
    bold: frozenset[int] = frozenset()
    strong: frozenset[int] = frozenset()
    fine: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A drawing of a bench's own: its template, and the finished values that it draws."""

    template: str
    view: object


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """A probe that may take a finding: what it goes by now, what would change."""

    probe: str
    name: str
    cells: tuple[str, ...]
    chosen: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Take:
    """Something that can be taken into the plan by one press, for some probes or for this one.

    `change` is given the ids of the chosen probes; none where there is nothing to choose.
    """

    label: str
    change: Callable[[Plan, frozenset[str]], Plan]
    key: str = "take"
    title: str = ""
    head: tuple[str, ...] = ()
    choices: tuple[Choice, ...] = ()
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """Facts that stand beside the form whatever is found."""

    title: str
    facts: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """What came out: the verdict, facts, tables, drawings, and what may go into the plan.

    `wide` is drawn over the whole width, `plot` and `sketches` in the left column. `empty` stands
    in place of all of it where there was nothing to work on.
    """

    verdict: Verdict
    facts: tuple[tuple[str, str], ...] = ()
    tables: tuple[Table, ...] = ()
    sketches: tuple[Sketch, ...] = ()
    wide: Drawing | None = None
    plot: Drawing | None = None
    takes: tuple[Take, ...] = ()
    empty: tuple[str, str] | None = None

    @property
    def drawn(self) -> bool:
        """Whether the left column has drawings; else the tables stand there."""
        return bool(self.plot or self.sketches)


Record = Callable[[str], Trace]


@dataclass(slots=True)
class Given:
    """What a bench works on: the plan, whose it is, what was typed, what is on record and shown."""

    plan: Plan
    subject: str
    fields: Fields
    record: Record
    window: Window

    @property
    def probe(self) -> Probe:
        """The probe whose bench this is."""
        own = self.plan.probe(self.subject)
        if own is None:
            raise InputError("probe", got=repr(self.subject), allowed="a probe of this house")
        return own

    def number(self, ask: Ask) -> float:
        """A figure within the limits that its field names."""
        return self.fields.number(ask.name, low=ask.low, high=ask.high, unit=ask.unit)

    def whole(self, ask: Ask) -> int:
        """A whole figure within the limits that its field names; 0 after a refusal."""
        value = self.number(ask)
        if not math.isfinite(value):
            return 0
        if value != int(value):
            self.fields.refuse(ask.name, f"{short(value)}", "a whole number")
        return int(value)

    def text(self, name: str) -> str:
        """Lines as they were pasted."""
        return self.fields.text(name, most=MOST_TEXT)

    def table(self, name: str) -> list[list[float]]:
        """Rows of numbers, as many in each; a refusal at the field names the row."""
        text = self.text(name)
        try:
            rows = read_rows(text)
        except InputError as exc:
            self.fields.errors.setdefault(name, exc.sentence)
            return []
        if text and not rows:
            self.fields.refuse(name, "a heading alone", "rows of numbers under it")
        return rows

    def rows(self, name: str, width: int) -> list[list[float]]:
        """Rows of `width` numbers; a refusal at the field names the row."""
        rows = self.table(name)
        if rows and len(rows[0]) != width:
            self.fields.refuse(name, f"{len(rows[0])} values in a row", f"{width} in a row")
            return []
        return rows

    def figures(self, name: str, unit: str, *, low: float = 0.0, high: float = 1e9) -> list[float]:
        """Numbers with blanks or line ends between them."""
        figures: list[float] = []
        for word in self.text(name).replace(";", " ").split():
            try:
                value = number_of(word)
            except ValueError:
                self.fields.refuse(name, repr(word[:20]), f"numbers in {unit}, blanks between")
                return []
            if not low <= value <= high:
                self.fields.refuse(
                    name, repr(f"{word[:20]} {unit}"), f"{exact(low)} to {exact(high)} {unit}"
                )
                return []
            figures.append(value)
        return figures

    def refused(self, exc: CalibrationError, at: dict[str, str], first: str) -> CalibrationError:
        """Put a refusal of the core at the field that it is about; to be raised by the caller."""
        self.fields.refuse_error(at.get(exc.where, first), exc)
        return exc


def sensor_take(label: str, probe_id: str, **facts: Any) -> tuple[Take, ...]:
    """One press that sets figures of how a probe is made."""

    def change(plan: Plan, _chosen: frozenset[str]) -> Plan:
        probe = plan.probe(probe_id)
        if probe is None or probe.sensor is None:
            raise InputError("probe", got=repr(probe_id), allowed="a probe of this house")
        changed = type(probe.sensor).model_validate({**probe.sensor.model_dump(), **facts})
        return put_part(plan, "probe", probe.model_copy(update={"sensor": changed}))

    return (Take(label=label, change=change),)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingsBench:
    """One kind of bench: for which parts of a plan, what it asks and how it is worked out.

    `does` and `takes` (how long it usually takes) stand on Calibrate's first page; `nothing`,
    `begin` and `empty` before anything is typed, `caution` where the work is done. `enough` tells
    whether there is something to work out. `links` lead to what lies near, as words and path below
    the house. `keeps` says whether what was typed is worth keeping. `beside` are facts that stand
    beside the form. `computed` is the kind of method (`core/words/methods`) that its figures come
    from.
    """

    key: str
    called: str
    heading: str
    does: str
    takes: str
    subjects: Callable[[Plan], tuple[tuple[str, str], ...]]
    asks: Callable[[Plan, str], tuple[Ask, ...]]
    work: Callable[[Given], Found]
    begin: str
    empty: str
    enough: Callable[[Mapping[str, str]], bool]
    nothing: str = "nothing tried yet."
    in_plan: Callable[[Plan, str], str] = field(default=lambda _plan, _subject: "")
    beside: Callable[[Given], tuple[Beside, ...]] = field(default=lambda _given: ())
    links: Callable[[str], tuple[tuple[str, str], ...]] = field(default=lambda _subject: ())
    caution: str = ""
    computed: str = ""
    action: str = "Calculate"
    keeps: bool = True


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


def probes_made_as(kind: str) -> Callable[[Plan], tuple[tuple[str, str], ...]]:
    """Every probe of a kind of sensor, with its name."""
    return probes_where(lambda p: p.sensor is not None and p.sensor.kind == kind)
