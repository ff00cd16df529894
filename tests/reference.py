"""Reading the reference cases: inputs, expected values, their tolerances."""

import json
from pathlib import Path
from typing import Any

CASES: list[dict[str, Any]] = json.loads(
    (Path(__file__).parent / "vectors/reference.json").read_text()
)["cases"]


def cases(*families: str) -> list[dict[str, Any]]:
    """All cases of some families."""
    found = [case for case in CASES if case["family"] in families]
    assert found, families
    return found


def given(case: dict[str, Any], name: str) -> Any:
    """An input's value."""
    return case["inputs"][name]["value"]


def agrees(case: dict[str, Any], name: str, got: float) -> bool:
    """Whether a result lies inside the case's tolerance."""
    row = case["expected"][name]
    return bool(
        abs(got - row["value"])
        <= max(row.get("tol_abs", 0.0), row.get("tol_rel", 0.0) * abs(row["value"]), 1e-12)
    )
