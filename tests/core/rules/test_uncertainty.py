"""Uncertainty carried through derived signals, against formulas worked out by hand."""

import math
from typing import Any

import pytest
from tests.core.plans import one_band

from aldea.core.plan.derived import (
    Derived,
    EchoDistance,
    LessThan,
    Lux,
    MoistAir,
    RateOf,
    Statistic,
)
from aldea.core.plan.document import Plan, Probe
from aldea.core.rules.findings import rule_findings
from aldea.core.rules.uncertainty import expanded_uncertainty, where_taken


def with_signal(made) -> Plan:
    """Two temperatures of ±0.3 and ±0.4 K, a humidity of ±3 %RH, and one signal made of them."""
    base = one_band()
    rows = [("a", "air_temperature", 0.3), ("b", "air_temperature", 0.4), ("rh", "", 3.0)]
    probes = tuple(
        Probe.model_validate(
            {**base.probes[0].model_dump(), "id": key,
             "quantity": quantity or "relative_humidity",
             "calibration": {"expanded_uncertainty": u}}
        )
        for key, quantity, u in rows
    )  # fmt: skip
    signal = Derived(id="made", name="Made", made=made)
    return base.model_copy(update={"probes": probes, "derived": (signal,)})


def dew_slopes() -> tuple[float, float]:
    """∂Td/∂T and ∂Td/∂RH of Magnus' formula at 20 °C and 50 %RH, by hand (a 17.62, b 243.12)."""
    a, b, t, rh = 17.62, 243.12, 20.0, 50.0
    y = math.log(rh / 100) + a * t / (b + t)
    by_y = a * b / (a - y) ** 2
    return by_y * a * b / (b + t) ** 2, by_y / rh


BY_T, BY_RH = dew_slopes()
BY_HAND: list[tuple[Any, float]] = [
    (Statistic(kind="mean", of=("a", "b")), 0.25),  # √(0.09 + 0.16) / 2
    (Statistic(kind="highest", of=("a", "b")), 0.4),
    (LessThan(probe="a", less="b"), 0.5),  # 3, 4, 5
    (RateOf(probe="b", over_s=600.0), math.sqrt(2) * 0.4 / 10),
    (MoistAir(kind="dew_point", temperature="a", humidity="rh"),
     math.hypot(BY_T * 0.3, BY_RH * 3.0)),
    # √T: a metre changes by half of 0.3 K in 293.15 K
    (EchoDistance(echo="a", temperature="b"), math.hypot(0.3, 0.4 / (2 * 293.15))),
    # R = R₁₀ at 10 lx; dlnE/ds = (1/γ)/(s(1−s)), s = 10/(10 + 20)
    (Lux(share="a"), 10 * 0.3 / 0.7 / (1 / 3 * 2 / 3)),
]  # fmt: skip


@pytest.mark.parametrize(("made", "expanded"), BY_HAND, ids=[row[0].kind for row in BY_HAND])
def test_it_is_what_the_formula_says(made, expanded):
    assert expanded_uncertainty(with_signal(made), "made") == pytest.approx(expanded, rel=1e-4)


def test_absolute_humidity_by_a_wide_difference():
    plan = with_signal(MoistAir(kind="absolute_humidity", temperature="a", humidity="rh"))
    # 8.64 g/m³ at 20 °C and 50 %RH: 1/50 of it for each %RH; near 5.8 % of it for each K.
    found = expanded_uncertainty(plan, "made")
    assert found == pytest.approx(math.hypot(8.64 / 50 * 3, 8.64 * 0.058 * 0.3), rel=0.02)
    assert where_taken(plan.derived[0]) == "at 20 °C and 50 %RH"


def test_signals_of_signals_and_what_is_not_there():
    plan = with_signal(LessThan(probe="a", less="b"))
    of_it = Derived(id="mean", name="Mean", made=Statistic(kind="mean", of=("made", "made")))
    plan = plan.model_copy(update={"derived": (*plan.derived, of_it)})
    assert expanded_uncertainty(plan, "mean") == pytest.approx(0.5 / math.sqrt(2))
    assert expanded_uncertainty(plan, "gone") is None


def test_a_band_on_a_difference_is_held_against_both_probes():
    plan = with_signal(LessThan(probe="a", less="b"))
    rule = plan.rules[0]

    def heads(off: float) -> list[str]:
        band = rule.band.model_copy(
            update={"probe": "made", "on_threshold": 3.0, "off_threshold": off}
        )
        made = plan.model_copy(update={"rules": (rule.model_copy(update={"condition": band}),)})
        return [f.why for f in rule_findings(made) if f.key == f"close-{rule.id}"]

    assert heads(1.9) == []
    assert heads(2.1) == ["Made can tell 1 °C apart (twice ±0.5)."]
