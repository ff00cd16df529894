"""The thirty days of the mill house's plants as they were made, kept beside the code.

Making them runs the engine for thirty days, which a first start would have to wait for. A test
makes them anew and holds them against the file; `python -m aldea.demo.kept_days` writes it.
"""

from pathlib import Path

import numpy as np

from aldea.core.readings.trace import Trace

FILE = Path(__file__).with_name("mill_days.npz")
STEPS = 100  # of a unit: no sensor of the house resolves finer


def written(traces: dict[str, Trace]) -> dict[str, np.ndarray]:
    """Traces as whole numbers: gaps between instants in ms, readings in hundredths."""
    columns: dict[str, np.ndarray] = {}
    for probe, trace in traces.items():
        gaps = np.diff(trace.t_ms, prepend=0)
        columns[f"{probe}.first"] = gaps[:1]
        columns[f"{probe}.gaps"] = gaps[1:].astype(np.int32)
        columns[f"{probe}.raw"] = np.round(trace.raw * STEPS).astype(np.int32)
    return columns


def kept_days() -> dict[str, Trace]:
    """The traces of the file, by probe."""
    with np.load(FILE) as file:
        probes = [name.removesuffix(".raw") for name in file.files if name.endswith(".raw")]
        return {
            probe: Trace(
                t_ms=np.cumsum(
                    np.concatenate((file[f"{probe}.first"], file[f"{probe}.gaps"]))
                ).astype(np.int64),
                raw=file[f"{probe}.raw"] / STEPS,
            )
            for probe in probes
        }


if __name__ == "__main__":
    from aldea.demo.recorded import made_days

    np.savez_compressed(FILE, **written(made_days()))  # type: ignore[arg-type]
