"""A drive is told where it stands by two contacts, by a distance, or by both; and by no light."""

import pytest
from tests.core.houses import pressed

from aldea.core.devices.sensors.mains_sense.model import MainsSense
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan, Range
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
    fixed = pressed(plan, "at-mains-night_sensed").probe("night_sensed")
    assert fixed is not None
    assert fixed.sensor == MainsSense()


def test_pings_are_as_far_apart_as_the_reach_of_their_probe_asks():
    """6 m and back at 20 °C is 35 ms, and 10 ms of guard: 45; of a reach of 4 m it is 33."""
    plan = mill_plan()
    probe = new_probe(probe_id="echo", name="Echo", place="loft", quantity="distance")
    shown = {}
    for reach_m in (6.0, 4.0):
        ranged = probe.model_copy(update={"range": Range(low=0.0, high=reach_m)})
        made = put_part(plan, "probe", ranged)
        load = part_of(made, "load", "skylight")
        drive = load.drive.model_copy(update={"distance_probe": "echo", "position": "both"})
        made = put_part(made, "load", load.model_copy(update={"drive": drive}))
        circuit = next(c for c in circuits(made) if c.owner == "load:skylight")
        shown[reach_m] = dict(circuit.facts)["Pings apart"].split(" ")[0]
    assert shown == {6.0: "45", 4.0: "33"}
