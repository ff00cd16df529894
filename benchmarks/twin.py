"""Builds the C twin and calls it: bands, delays, faults, shortest times; nothing else.

It has tables of its own, made from the plan and not from what the engine compiles, so that it leans
on nothing that it is held against. It does less than the engine in each scan: the ratios against it
are a bound, not a match.
"""

import ctypes
import hashlib
import subprocess
import tempfile
from functools import cache
from pathlib import Path

import numpy as np

from aldea.core.engine.layout import POLICY_CODES, PRIORITY_DEFAULT, PRIORITY_DEMAND, PRIORITY_FAULT
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.readings.samples import Samples

SOURCE = Path(__file__).with_name("twin.c")
FLAGS = ("-O3", "-march=native", "-ffp-contract=off", "-fPIC", "-shared", "-lm")
PROBE_FLOATS, PROBE_INTS, STATE_FLOATS, STATE_INTS = 6, 3, 3, 7
CONDITION_STATE, LOAD_STATE, EVENT = 5, 7, 8
EVENT_LOAD = 0
T_MS, KIND, WHO, FROM, TO = range(5)


@cache
def library() -> ctypes.CDLL:
    """The compiled twin; built once per version of its source."""
    digest = hashlib.sha256(SOURCE.read_bytes() + " ".join(FLAGS).encode()).hexdigest()[:16]
    path = Path(tempfile.gettempdir()) / f"aldea-twin-{digest}.so"
    if not path.exists():
        partial = path.with_suffix(".part")
        subprocess.run(
            ["gcc", str(SOURCE), "-o", str(partial), *FLAGS], check=True, capture_output=True
        )
        partial.replace(path)
    lib = ctypes.CDLL(str(path))
    lib.replay.restype = ctypes.c_int64
    return lib


def _pointer(array: np.ndarray) -> ctypes.c_void_p:
    return ctypes.c_void_p(array.ctypes.data)


def _ms(seconds: float) -> int:
    return round(seconds * 1000)


def _probe(probe: Probe) -> tuple[list[float], list[int]]:
    figures = [
        probe.calibration.slope,
        probe.calibration.intercept,
        probe.range.low,
        probe.range.high,
        probe.smoothing.tau_s if probe.smoothing else 0.0,
        probe.stuck.band if probe.stuck else 0.0,
    ]
    times = [_ms(probe.stale_after_s), _ms(probe.stuck.after_s) if probe.stuck else 0]
    return figures, [*times, probe.good_run]


def twin_tables(plan: Plan) -> tuple[np.ndarray, ...]:
    """Probes, marks, conditions, rules and loads of a plan that has nothing but bands."""
    probes = {probe.id: row for row, probe in enumerate(plan.probes)}
    rules: list[list[int]] = []
    spans: dict[str, tuple[int, int]] = {}
    for index, load in enumerate(plan.loads):
        first = len(rules)
        for read in dict.fromkeys(rule.band.probe for rule in plan.rules_of(load.id)):
            want = int(load.on_sensor_fault.state == "on")
            rules.append(
                [index, PRIORITY_FAULT, want, -1, probes[read], _ms(load.on_sensor_fault.after_s)]
            )
        for rule in plan.rules_of(load.id):
            row = plan.rules.index(rule)
            rules.append([index, PRIORITY_DEMAND, 1, row, probes[rule.band.probe], 0])
        rules.append([index, PRIORITY_DEFAULT, 0, -1, -1, 0])
        spans[load.id] = (first, len(rules))
    bands = [rule.band for rule in plan.rules]
    rows = [_probe(probe) for probe in plan.probes]
    return (
        np.array([row[0] for row in rows], dtype=np.float64),
        np.array([row[1] for row in rows], dtype=np.int64),
        np.array([[band.on_threshold, band.off_threshold] for band in bands], dtype=np.float64),
        np.array(
            [
                [
                    probes[band.probe],
                    int(band.direction == "rising"),
                    _ms(band.delay_on_s),
                    _ms(band.delay_off_s),
                ]
                for band in bands
            ],
            dtype=np.int64,
        ),
        np.array(rules, dtype=np.int64),
        np.array([_load(load, *spans[load.id]) for load in plan.loads], dtype=np.int64),
    )


def _load(load: Load, first: int, end: int) -> list[int]:
    back = load.power_return
    return [
        first,
        end,
        _ms(load.min_on_s),
        _ms(load.min_off_s),
        POLICY_CODES[back.policy],
        _ms(back.delay_s),
    ]


def twin_replay(
    plan: Plan,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    skipping: bool = True,
    room: int = 200_000,
) -> list[tuple[int, int, int]]:
    """Every change of a load's state: instant, row of the load, state."""
    tables = twin_tables(plan)
    counts = (len(plan.probes), len(plan.rules), len(tables[4]), len(plan.loads))
    probes, conditions, _, loads = counts
    state = (
        np.zeros((probes, STATE_FLOATS)),
        np.zeros((probes, STATE_INTS), dtype=np.int64),
        np.zeros((conditions, CONDITION_STATE), dtype=np.int64),
        np.zeros((loads, LOAD_STATE), dtype=np.int64),
        np.zeros((probes, 2)),
    )
    first = int(np.searchsorted(samples.t_ms, start_ms))
    columns = [
        np.ascontiguousarray(column[first:])
        for column in (samples.t_ms, samples.probe, samples.value)
    ]
    no_cuts = np.zeros((0, 2), dtype=np.int64)
    rows = np.empty((room, EVENT), dtype=np.int64)
    values = np.empty(room)
    number = ctypes.c_int64
    count = library().replay(
        *(_pointer(table) for table in tables),
        *(number(n) for n in counts),
        *(_pointer(part) for part in state),
        *(_pointer(column) for column in columns),
        number(len(columns[0])),
        _pointer(no_cuts),
        number(0),
        number(start_ms),
        number(end_ms),
        number(plan.scan_period_ms),
        ctypes.c_int(skipping),
        _pointer(rows),
        _pointer(values),
        number(room),
    )
    return [
        (row[T_MS], row[WHO], row[TO])
        for row in rows[:count].tolist()
        if row[KIND] == EVENT_LOAD and row[FROM] != row[TO]
    ]
