"""Every engine case, compiled and skipping, and by plain Python at every tick.

Further files of the same format are named by the environment variable `ALDEA_ENGINE_CASES`,
separated as paths are.
"""

import json
import os
from pathlib import Path

import pytest
from tests.core.engine.cases.running import run_case
from tests.core.engine.runs import ENGINES

OWN = Path(__file__).parents[2] / "vectors/engine-cases.json"
FORMAT = "engine-cases/1"


def all_cases():
    """Our own cases, then those of the files that the environment names."""
    more = os.environ.get("ALDEA_ENGINE_CASES", "").split(os.pathsep)
    for path in [OWN, *(Path(name) for name in more if name)]:
        found = json.loads(path.read_text())
        assert found["format"] == FORMAT, path
        yield from found["cases"]


CASES = list(all_cases())


def alike(got, wanted):
    """Two rows of a channel, figures to a millionth."""
    if isinstance(wanted, list | tuple):
        return len(got) == len(wanted) and all(map(alike, got, wanted))
    if isinstance(wanted, float) or isinstance(got, float):
        number = isinstance(got, int | float) and isinstance(wanted, int | float)
        return number and abs(got - wanted) <= 1e-6
    return got == wanted


def in_order(rows):
    return sorted(rows, key=lambda row: (row[0], json.dumps(row, sort_keys=True)))


@pytest.mark.parametrize("engine", ["compiled, skipping", "plain, every tick"])
@pytest.mark.parametrize("case", CASES, ids=[case["name"] for case in CASES])
def test_engine_cases(case, engine):
    found = run_case(case, **ENGINES[engine])
    for kind in ("expected", "by_hand"):
        for channel, wanted in (case[kind] or {}).items():
            if channel not in case["observe"]:
                continue
            got, want = in_order(found[channel]), in_order(wanted)
            assert alike(got, want), f"{channel} ({kind})\n got {got}\nwant {want}"
