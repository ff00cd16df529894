"""Reference cases: inputs, expected values, their tolerances; and who works them out.

A family of cases has one adaptor or more: functions that put a case's inputs into ours and assert
what comes out. Further files of the same format are named by the environment variable
`ALDEA_REFERENCE_CASES`, separated as paths are.
"""

import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

Case = dict[str, Any]
Adaptor = Callable[[Case], None]
VECTORS = Path(__file__).resolve().parents[1] / "vectors/reference.json"
ADAPTORS: dict[str, list[Adaptor]] = {}


def adaptor(*families: str) -> Callable[[Adaptor], Adaptor]:
    """Work out the cases of some families."""

    def registered(function: Adaptor) -> Adaptor:
        for family in families:
            ADAPTORS.setdefault(family, []).append(function)
        return function

    return registered


def read_cases(path: Path) -> list[Case]:
    """Every case of a file: a list of them, or lists of them under names."""
    found = json.loads(path.read_text())
    lists = [found] if isinstance(found, list) else found.values()
    return [case for rows in lists if isinstance(rows, list) for case in rows]


def all_cases() -> list[Case]:
    """Our own cases, then those of the files that the environment names."""
    more = os.environ.get("ALDEA_REFERENCE_CASES", "").split(os.pathsep)
    paths = [VECTORS, *(Path(name) for name in more if name)]
    return [case for path in paths for case in read_cases(path)]


def given(case: Case, name: str) -> Any:
    """An input's value."""
    return case["inputs"][name]["value"]


def agrees(case: Case, name: str, got: float) -> bool:
    """Whether a result lies inside the case's tolerance."""
    row = case["expected"][name]
    return bool(
        abs(got - row["value"])
        <= max(row.get("tol_abs", 0.0), row.get("tol_rel", 0.0) * abs(row["value"]), 1e-12)
    )
