"""A law over every formula: an answer that is a number, or a refusal that says the range.

Drawn from the signatures: all public functions of the rooms below whose arguments are numbers or
rows of them. Whatever finite goes in, no NaN comes out and nothing but an `AldeaError` is raised.
"""

import dataclasses
import inspect
import math
import pkgutil
from collections.abc import Sequence
from importlib import import_module
from typing import Any, get_type_hints

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import aldea.core.calibrate
import aldea.core.devices.sensors
import aldea.core.physics
from aldea.core.base.errors import AldeaError

SMALLEST = 1e-12  # of no quantity in a house is there less, or more than the inverse
ROOMS = (aldea.core.physics, aldea.core.calibrate, aldea.core.devices.sensors)
ODD = [0.0, 1.0, -1.0, 0.5, 1e-12, 1e12, -1e12, 1e-6, 25.0, 100.0, -273.15, 1e6]
MEASURED = st.floats(-200, 200).filter(lambda value: value == 0 or abs(value) >= SMALLEST)
FLOATS = st.sampled_from(ODD) | MEASURED
KINDS: dict[Any, st.SearchStrategy[Any]] = {
    float: FLOATS,
    int: st.integers(-5, 200),
    Sequence[float]: st.lists(FLOATS, max_size=12),
    tuple[float, float]: st.tuples(FLOATS, FLOATS),
}


def formulas() -> dict[str, Any]:
    """Public functions with numbers alone for arguments, by their names."""
    found = {}
    for room in ROOMS:
        for module in pkgutil.walk_packages(room.__path__, f"{room.__name__}."):
            whole = import_module(module.name)
            for name, function in inspect.getmembers(whole, inspect.isfunction):
                if name.startswith("_") or function.__module__ != module.name:
                    continue
                hints = get_type_hints(inspect.unwrap(function))
                hints.pop("return", None)
                if hints and all(kind in KINDS for kind in hints.values()):
                    found[f"{module.name.removeprefix('aldea.core.')}.{name}"] = function
    return found


FORMULAS = formulas()


def numbers_in(answer: Any) -> list[float]:
    """Every number of an answer, through rows, arrays and dataclasses."""
    if isinstance(answer, bool | str | None):
        return []
    if isinstance(answer, int | float):
        return [float(answer)]
    if isinstance(answer, np.ndarray):
        return [float(value) for value in answer.ravel()]
    if isinstance(answer, tuple | list):
        return [number for one in answer for number in numbers_in(one)]
    if dataclasses.is_dataclass(answer):
        fields = dataclasses.fields(answer)
        return [number for f in fields for number in numbers_in(getattr(answer, f.name))]
    return []


def test_the_law_is_over_many_formulas():
    assert len(FORMULAS) > 60


@pytest.mark.parametrize("name", sorted(FORMULAS))
@settings(max_examples=150, deadline=None)
@given(data=st.data())
def test_a_formula_answers_with_a_number_or_refuses_in_words(name, data):
    function = FORMULAS[name]
    plain = inspect.unwrap(function)
    hints = get_type_hints(plain)
    given_by_name = {
        key: data.draw(KINDS[hints[key]], label=key) for key in inspect.signature(plain).parameters
    }
    by_place = [
        given_by_name.pop(key)
        for key, parameter in inspect.signature(plain).parameters.items()
        if parameter.kind is not parameter.KEYWORD_ONLY
    ]
    try:
        answer = function(*by_place, **given_by_name)
    except AldeaError:
        return
    numbers = numbers_in(answer)
    assert not any(map(math.isnan, numbers)), answer
    if not any(word in (function.__doc__ or "") for word in ("nfinite", "inf ", "never")):
        assert not any(map(math.isinf, numbers)), answer
