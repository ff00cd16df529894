"""Filters beside one another on the recorded trace: noise left, lag, spikes, the line itself."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.bounded import BoundedCache
from aldea.core.base.figures import figure, short
from aldea.core.base.instants import span
from aldea.core.base.quantities import unit_of
from aldea.core.plan.document import Plan, Smoothing
from aldea.core.plan.edits import part_of, put_part
from aldea.core.readings.filters import (
    LONGEST_WINDOW,
    Ground,
    alpha_of,
    exponential,
    ground_of,
    median_step_readings,
    moving_mean,
    moving_median,
    ramp_lag_s,
    step_readings,
    tried,
)
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Drawing,
    Found,
    Given,
    RecordingsBench,
    Table,
    Take,
    probes_where,
)
from aldea.web.shell.plot import GridLine, Scale, trace_path

WIDTH, HEIGHT, LEFT = 880, 240, 46
MOST_READINGS = 100_000
SHARE_1 = 0.9
TOO_FEW = (
    "Too few readings stand in the window of the timeline below: import a log at Record, or choose "
    "another span with [ and ]."
)
NAMES = (("mean", "mean"), ("median", "median"), ("exponential", "exponential"))
ASKS = (
    Ask(
        name="window",
        label="Mean and median of",
        unit="readings",
        first="9",
        low=1,
        high=LONGEST_WINDOW,
    ),
    Ask(name="tau_s", label="Exponential, τ", unit="s", first="60", low=0.1, high=86_400),
    Ask(name="drawn", label="Drawn", first="median", options=NAMES),
)
BY_NAME = {ask.name: ask for ask in ASKS}
Filter = Callable[[FloatArray], FloatArray]


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceDrawing:
    """The recorded trace and the filtered one."""

    drawn: str
    raw_path: str
    filtered_path: str
    grid: tuple[GridLine, ...]
    count: int
    interval: str


@dataclass(frozen=True, slots=True, kw_only=True)
class _Tried:
    """A filter with what it costs: readings until a step is there, seconds behind a ramp."""

    name: str
    run: Filter
    step: int
    ramp_s: float


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return ASKS


@dataclass(frozen=True, slots=True, kw_only=True)
class _Steady:
    """What stays of a trace while the filters are tried on it."""

    ground: Ground
    y: Scale
    raw_path: str
    grid: tuple[GridLine, ...]


_kept: BoundedCache[_Steady] = BoundedCache(16_000_000)


def _calculate(given: Given) -> Found:
    window, tau_s = given.whole(BY_NAME["window"]), given.number(BY_NAME["tau_s"])
    drawn = given.fields.choice("drawn", dict(NAMES))
    given.fields.check()
    probe = given.probe
    trace = given.record(probe.id).between(given.window.start_ms, given.window.end_ms)
    good = np.isfinite(trace.raw)
    t_ms, raw = trace.t_ms[good][-MOST_READINGS:], trace.raw[good][-MOST_READINGS:]
    if len(raw) < 2 * window + 3:
        return Found(
            verdict=Verdict(
                state="owed",
                sentence=f"{probe.name}: too few readings in this window.",
                rest="Import a log at Record, or move the window of the timeline.",
            ),
            empty=("Nothing to try on.", TOO_FEW),
            takes=_takes(given, tau_s),
        )
    t_s = (t_ms - t_ms[0]) / 1000
    interval_s = float(np.median(np.diff(t_s)))
    filters = _filters(t_s, window, tau_s, interval_s)
    steady = _steady_of(t_ms, raw, interval_s)
    ground = steady.ground
    unit = unit_of(probe.quantity)
    spikes = int(ground.spikes.sum())
    return Found(
        verdict=_verdict(probe.name, unit, ground.noise, spikes),
        wide=Drawing(
            template="calibrate/recordings/filters.html",
            view=TraceDrawing(
                drawn=drawn,
                raw_path=steady.raw_path,
                filtered_path=_path(t_ms, filters[drawn].run(raw), steady.y, interval_s),
                grid=steady.grid,
                count=len(raw),
                interval=span(interval_s),
            ),
        ),
        tables=(
            Table(
                bold=frozenset({0}),
                title="What each costs and what remains",
                head=(
                    "Filter",
                    "Noise left",
                    "of what was there",
                    "90 % of a step after",
                    "Behind a ramp",
                    "Outlying spikes",
                ),
                rows=tuple(_row(one, ground, window, interval_s, unit) for one in filters.values()),
                figures=frozenset({1, 2, 3, 4, 5}),
                strong=frozenset({list(filters).index(drawn)}),
                fine="The panel runs the exponential one; mean and median are here to compare.",
            ),
        ),
        takes=_takes(given, tau_s),
    )


def _filters(t_s: FloatArray, window: int, tau_s: float, interval_s: float) -> dict[str, _Tried]:
    alpha = alpha_of(interval_s, tau_s)
    lag_s = ramp_lag_s(interval_s, window=window)
    return {
        "mean": _Tried(
            name=f"mean of {window}",
            run=lambda values: moving_mean(values, window),
            step=step_readings(share=SHARE_1, window=window),
            ramp_s=lag_s,
        ),
        "median": _Tried(
            name=f"median of {window}",
            run=lambda values: moving_median(values, window),
            step=median_step_readings(window),
            ramp_s=lag_s,
        ),
        "exponential": _Tried(
            name=f"τ {short(tau_s)} s",
            run=lambda values: exponential(t_s, values, tau_s),
            step=step_readings(share=SHARE_1, alpha=alpha),
            ramp_s=ramp_lag_s(interval_s, alpha=alpha),
        ),
    }


def _row(one: _Tried, ground: Ground, window: int, interval_s: float, unit: str) -> tuple[str, ...]:
    row = tried(one.run, ground, max(1, min(window, 9)))
    share = f"{figure(100 * row.noise / ground.noise, 0)} %" if ground.noise else "–"
    return (
        one.name,
        f"{figure(row.noise, 3)} {unit}",
        share,
        span(one.step * interval_s),
        span(one.ramp_s),
        f"{row.passed} of {int(ground.spikes.sum())}",
    )


def _steady_of(t_ms: IntArray, raw: FloatArray, interval_s: float) -> _Steady:
    digest = hashlib.blake2b(np.ascontiguousarray(t_ms).data, digest_size=16)
    digest.update(np.ascontiguousarray(raw).data)
    key = digest.digest()
    steady = _kept.get(key)
    if steady is None:
        low, high = float(raw.min()), float(raw.max())
        pad = max(0.05 * (high - low), 1e-6)
        y = Scale(low=low - pad, high=high + pad, pixel_low=HEIGHT - 4, pixel_high=4)
        steps = np.linspace(low, high, 5).tolist()
        steady = _Steady(
            ground=ground_of(raw),
            y=y,
            raw_path=_path(t_ms, raw, y, interval_s),
            grid=tuple(GridLine(at=round(y(value), 1), text=figure(value, 1)) for value in steps),
        )
        _kept.put(key, steady, 2 * raw.nbytes + len(steady.raw_path))
    return steady


def _path(t_ms: IntArray, values: FloatArray, y: Scale, interval_s: float) -> str:
    return trace_path(
        t_ms,
        values,
        start_ms=int(t_ms[0]),
        end_ms=int(t_ms[-1]) + 1,
        width=WIDTH - LEFT - 8,
        y=y,
        gap_ms=round(interval_s * 6000),
    )


def _verdict(name: str, unit: str, noise: float, spikes: int) -> Verdict:
    many = "" if spikes == 1 else "s"
    return Verdict(
        state="owed" if spikes else "holds",
        sentence=f"{name} scatters by {figure(noise, 3)} {unit} and has {spikes or 'no'} "
        f"spike{many} here.",
        rest="A median stops a lone spike; a mean and a memory only spread it."
        if spikes
        else "Every filter reduces noise and adds delay.",
    )


def _takes(given: Given, tau_s: float) -> tuple[Take, ...]:
    def smoothed(by: Smoothing | None) -> Callable[[Plan, frozenset[str]], Plan]:
        def change(plan: Plan, _chosen: frozenset[str]) -> Plan:
            probe = part_of(plan, "probe", given.subject)
            return put_part(plan, "probe", probe.model_copy(update={"smoothing": by}))

        return change

    note = "Every threshold on this probe uses the smoothed reading. Check Tune afterwards."
    by = Smoothing(tau_s=tau_s)
    takes = (Take(label=f"Use τ {short(tau_s)} s", change=smoothed(by), notes=(note,)),)
    if given.probe.smoothing is None:
        return takes
    return (*takes, Take(key="out", label="Remove the filter", change=smoothed(None)))


def _in_plan(plan: Plan, subject: str) -> str:
    probe = plan.probe(subject)
    if probe is None or probe.smoothing is None:
        return "In the plan: not smoothed."
    return f"In the plan: smoothed with τ {short(probe.smoothing.tau_s)} s."


FILTERS = RecordingsBench(
    key="filters",
    computed="filters",
    called="a working probe",
    heading="Filters",
    does="mean, median, exponential on the record",
    takes="at once, from the log",
    subjects=probes_where(lambda probe: probe.stage == "working"),
    asks=_fields_of,
    work=_calculate,
    begin="",
    empty="",
    enough=lambda _typed: True,
    in_plan=_in_plan,
    links=lambda subject: (("To the bench", f"/calibrate/{subject}"),),
    action="Try it",
    keeps=False,
)
