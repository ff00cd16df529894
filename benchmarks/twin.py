"""Builds the C twin and calls it with the arrays of a program."""

import ctypes
import hashlib
import subprocess
import tempfile
from functools import cache
from pathlib import Path

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.replay import fresh_state
from aldea.core.readings.samples import Samples

SOURCE = Path(__file__).with_name("twin.c")
FLAGS = ("-O3", "-march=native", "-ffp-contract=off", "-fPIC", "-shared", "-lm")


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


def twin_replay(
    compiled: CompiledPlan,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: list[tuple[int, int]] | None = None,
    skipping: bool = True,
    room: int = 200_000,
) -> tuple[np.ndarray, np.ndarray]:
    """Rows and values of the events, as `run_replay` gives them."""
    plan = compiled.arrays
    probes, conditions, loads = len(plan.probe_ints), len(plan.marks), len(plan.loads)
    first = int(np.searchsorted(samples.t_ms, start_ms))
    sample_ms = np.ascontiguousarray(samples.t_ms[first:])
    sample_probe = np.ascontiguousarray(samples.probe[first:])
    sample_value = np.ascontiguousarray(samples.value[first:])
    cut_rows = np.array(cuts or [], dtype=np.int64).reshape(-1, 2)
    cut_rows = cut_rows[cut_rows[:, 1] > start_ms]
    rows = np.empty((room, lay.E_INTS), dtype=np.int64)
    values = np.empty(room)
    state = fresh_state(compiled)
    number = ctypes.c_int64
    count = library().replay(
        *(_pointer(array) for array in plan),
        *(number(n) for n in (probes, conditions, len(plan.claims), loads)),
        *(_pointer(a) for a in state),
        *(_pointer(a) for a in (sample_ms, sample_probe, sample_value)),
        number(len(sample_ms)),
        _pointer(cut_rows),
        number(len(cut_rows)),
        number(start_ms),
        number(end_ms),
        number(compiled.period_ms),
        ctypes.c_int(skipping),
        _pointer(rows),
        _pointer(values),
        number(room),
    )
    return rows[:count], values[:count]
