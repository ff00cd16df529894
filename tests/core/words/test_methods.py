"""How figures are computed: JCGM 100, H.3, to its printed digits; and an example of each kind."""

import numpy as np
import pytest

from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.words.method_examples import (
    EXAMPLES,
    H3_AT_DEGC,
    H3_CORRECTIONS,
    H3_READINGS,
    thermometer_example,
)
from aldea.core.words.methods import TEXTS, computed_at, methods


def test_the_thermometer_of_the_guide_is_reproduced_to_its_printed_digits():
    """JCGM 100:2008, H.3.3 and H.3.4, by the line that certificates are signed with."""
    told = dict(thermometer_example())
    assert told["Intercept at 20 °C, y1"] == "−0.1712 °C"
    assert told["Slope, y2"] == "0.00218"
    assert told["Correlation of both"] == "−0.930"
    assert told["Correction at 30 °C"] == "−0.1494 °C"
    line = fit_line(np.array(H3_READINGS) - H3_AT_DEGC, np.array(H3_CORRECTIONS))
    assert f"{line.se_intercept:.4f}" == "0.0029"
    assert f"{line.se_slope:.5f}" == "0.00067"
    assert f"{line.residual_sd:.4f}" == "0.0035"
    assert f"{line.residual_sd * line.leverage_1(10.0):.4f}" == "0.0041"
    # Without the correlation of intercept and slope it would come out otherwise (H.3.5, note).
    blind = np.hypot(line.se_intercept, 10.0 * line.se_slope)
    assert blind > 1.5 * line.residual_sd * line.leverage_1(10.0)


@pytest.mark.parametrize("key", TEXTS)
def test_each_kind_has_formulas_sources_and_an_example_of_numbers(key):
    method = next(method for method in methods() if method.key == key)
    assert method.formulas
    assert method.sources
    assert len(method.example) >= 2
    assert all(what and value for what, value in method.example)
    assert not [value for _, value in method.example if "nan" in value or "inf" in value]


def test_worked_examples_by_hand():
    """γ = ln 5 / ln 10; α = 1 − e^(−1/6); 1 − 0.05^(1/120); 100 000 / (0.97 · 365.25)."""
    told = {what: value for method in methods() for what, value in method.example}
    assert told["20 kΩ at 10 lx, 4 kΩ at 100 lx"] == "γ = 0.699"
    assert told["A reading each 10 s, τ 60 s"] == "α = 0.1535"
    assert told["0 of 120 seen"] == "under 2.5 %"
    assert told["100 000 starts at that rate"] == "282 years"
    assert told["σ of one sample 4 counts, 4 averaged"] == "σ of a reading 2.0 counts"
    assert told["20 °C and 60 %RH"] == "dew point 12.00 °C"
    assert told["10 kΩ and 100 Ω into 20 pF, 12 bits"] == "1.82 µs"
    assert told["0.5 A/W, 1 mm², 10 W/m²"] == "5.002 µA", "and 2 nA in the dark"
    assert told["The longest bounce"] == "2.6 ms"
    assert told["4 m there and back at −5 °C, and 10 ms"] == "34.4 ms"


def test_a_figure_is_found_by_its_words_and_no_two_formulas_of_a_kind_rule_one():
    assert computed_at("tape", "False alarms by noise alone") == "tape-run"
    assert computed_at("thermometer", "Contact ±0.05 K") == "thermometer-spread"
    assert computed_at("hold", "Recorded") == ""
    assert set(TEXTS) == set(EXAMPLES)
    for method in methods():
        keys = [formula.key for formula in method.formulas]
        words = [word for formula in method.formulas for word in formula.figures]
        assert len(set(keys)) == len(keys)
        assert len(set(words)) == len(words)
        for formula in method.formulas:
            for word in formula.figures:
                assert computed_at(method.key, word) == f"{method.key}-{formula.key}"
