"""What every fit rests on: the scatter of one reading, and how far a check may lie off."""

import math

import numpy as np
import pytest

from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.calibrate.fit import Pair, scatter
from aldea.core.calibrate.thermometer import ThermometerConditions, fit_thermometer


def point(reference: float, reading: float, approach: str = "point", expanded: float = 0.1) -> Pair:
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=reference,
        reference_expanded=expanded,
        medium="beside",
    )


def test_the_scatter_about_a_line_is_that_of_readings_and_not_of_values():
    """A probe of half the true span: an error of 1 in the value is 2 in the reading."""
    readings = np.array([0.0, 10.0, 20.0, 30.0])
    off = np.array([1.0, -1.0, -1.0, 1.0])
    line = fit_line(readings, 0.5 * readings + off)
    assert line.slope == pytest.approx(0.5)
    sd, dof = scatter([], line, assumed=9.0)
    assert sd == pytest.approx(math.sqrt(4 / 2) / 0.5)
    assert dof == 2


def test_what_was_repeated_tells_its_own_scatter():
    """Two groups, pooled by hand: (0.5² + 0.5² + 1² + 1²) / 2 degrees of freedom."""
    line = fit_line(np.array([0.0, 10.0]), np.array([0.0, 10.0]))
    sd, dof = scatter([[1.0, 2.0], [3.0, 5.0], []], line, assumed=9.0)
    assert sd == pytest.approx(math.sqrt((0.5 + 2.0) / 2))
    assert dof == 2
    assert scatter([[1.0], [2.0]], line, assumed=9.0) == (9.0, math.inf)


def test_a_check_may_lie_off_by_both_doubts_combined_and_not_by_their_sum():
    """By the root of the squares (JCGM 100, k = 2): 3 and 4 make 5."""
    points = [point(0.0, 0.0, expanded=0.1), point(40.0, 40.0, expanded=0.1)]
    alone = fit_thermometer(points, ThermometerConditions())
    checked = fit_thermometer(
        [*points, point(20.0, 20.0, "check", expanded=4 / 3 * alone.expanded)],
        ThermometerConditions(),
    )
    limit = checked.check_limit(checked.checks[0])
    assert limit == pytest.approx(math.hypot(checked.expanded, 4 / 3 * alone.expanded))
    assert limit == pytest.approx(5 / 3 * checked.expanded, rel=0.01)
