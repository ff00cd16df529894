"""A drive is told where it stands by two contacts, by a distance, or by both; and by no light."""

import pytest
from tests.core.houses import pressed

from aldea.core.devices.sensors.mains_sense.model import MainsSense
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of, put_part
from aldea.core.wiring.circuits import circuits
from aldea.core.wiring.findings import findings
from aldea.demo.mill import mill_plan


def skylight(**update: object) -> Plan:
    load = part_of(mill_plan(), "load", "skylight")
    drive = load.drive.model_copy(update=update)
    return put_part(mill_plan(), "load", load.model_copy(update={"drive": drive}))


@pytest.mark.parametrize(
    ("update", "key", "weight"),
    [
        ({"shut_contact": "skylight_open"}, "one-contact-skylight", "severe"),
        ({"shut_contact": "stair_light"}, "told-by-skylight-shut_contact", "severe"),
        (
            {"position": "both", "open_at_m": 2.0, "shut_at_m": 0.5},
            "no-distance-skylight",
            "severe",
        ),
        ({"position": "both", "distance_probe": "cart_distance"}, "ends-skylight", "open"),
        (
            {
                "position": "distance",
                "distance_probe": "cart_distance",
                "open_at_m": 1.0,
                "shut_at_m": 1.02,
            },
            "ends-skylight",
            "severe",
        ),
    ],
)
def test_what_does_not_tell_where_it_stands_is_found(update, key, weight):
    assert key not in {f.key for f in findings(mill_plan())}
    found = {f.key: f for f in findings(skylight(**update))}
    assert found[key].weight == weight


def test_contacts_and_distance_together_hold_and_are_both_shown():
    plan = skylight(position="both", distance_probe="cart_distance", open_at_m=2.0, shut_at_m=0.5)
    assert not [f for f in findings(plan) if f.at == "load:skylight"]
    shown = next(c for c in circuits(plan) if c.owner == "load:skylight")
    facts = dict(shown.facts)
    assert facts["Open; shut"] == "2 m; 0.5 m"
    assert "Skylight open reed" in facts["End contacts"]


def test_a_detector_tied_to_neutral_is_refused_with_why():
    probe = part_of(mill_plan(), "probe", "night_sensed")
    tied = probe.model_copy(update={"sensor": MainsSense(isolation="tied_to_neutral")})
    plan = put_part(mill_plan(), "probe", tied)
    found = {f.key: f for f in findings(plan)}["at-mains-night_sensed"]
    assert found.weight == "severe"
    assert "computer" in found.why
    mended = pressed(plan, "at-mains-night_sensed").probe("night_sensed")
    assert mended is not None
    assert mended.sensor == MainsSense()
