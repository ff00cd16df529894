"""Builds the C twin and calls it with the arrays of a program."""

import ctypes
import hashlib
import subprocess
import tempfile
from functools import cache
from pathlib import Path

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.program import Program
from aldea.core.engine.replay import Samples

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
    program: Program,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: list[tuple[int, int]] | None = None,
    skipping: bool = True,
    room: int = 200_000,
) -> tuple[np.ndarray, np.ndarray]:
    """Rows and values of the events, as `run_replay` gives them."""
    probes, conditions, loads = len(program.pf), len(program.cf), len(program.li)
    first = int(np.searchsorted(samples.t_ms, start_ms))
    sample_ms = np.ascontiguousarray(samples.t_ms[first:])
    sample_probe = np.ascontiguousarray(samples.probe[first:])
    sample_value = np.ascontiguousarray(samples.value[first:])
    cut_rows = np.array(cuts or [], dtype=np.int64).reshape(-1, 2)
    rows = np.empty((room, lay.E_INTS), dtype=np.int64)
    values = np.empty(room)
    state = [
        np.zeros((probes, lay.S_FLOATS)),
        np.zeros((probes, lay.S_INTS), dtype=np.int64),
        np.zeros((conditions, lay.B_INTS), dtype=np.int64),
        np.zeros((loads, lay.O_INTS), dtype=np.int64),
        np.zeros((probes, 2)),
    ]
    number = ctypes.c_int64
    count = library().replay(
        *(_pointer(a) for a in (program.pf, program.pi, program.cf, program.ci)),
        *(_pointer(a) for a in (program.ki, program.li)),
        *(number(n) for n in (probes, conditions, len(program.ki), loads)),
        *(_pointer(a) for a in state),
        *(_pointer(a) for a in (sample_ms, sample_probe, sample_value)),
        number(len(sample_ms)),
        _pointer(cut_rows),
        number(len(cut_rows)),
        number(start_ms),
        number(end_ms),
        number(program.period_ms),
        ctypes.c_int(skipping),
        _pointer(rows),
        _pointer(values),
        number(room),
    )
    return rows[:count], values[:count]
