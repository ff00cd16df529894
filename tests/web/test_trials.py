"""Benches on what was recorded by hand: each with the mill's recording, and with refusals."""

import re

import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of
from tests.web.test_web import H

from aldea.core.plan.sensors import OneWireSensor
from aldea.demo.hand_recordings import hand_recordings
from aldea.store.plans import read_draft
from aldea.web.trials import TRIALS
from aldea.web.trials.base import sensor_of

MILL = {(r.bench, r.subject): r for r in hand_recordings()}
MILL_CODE = "28b1c74405000086"
ON_TRIAL = [key for key in MILL if key[0] in TRIALS]
Plan = dict[str, object] | None
# What the mill's recording says at each bench, and what the plan holds after taking it.
SAID: dict[str, tuple[str, Plan]] = {
    "hold": ("hold presence for", {"inner": None}),
    "doorway": ("counts 0 of 25 persons wrong", {"inner": "door_inner"}),
    "distance": ("occupied under 2.38", {}),
    "contact": ("inverted. Closed means off here", {"closed_means": "off"}),
    "light": ("on at 20 lx, off not under", {"fixed_ohm": 13000.0}),
    "air": ("mould grows in days", None),
    "gas": ("locked out for", {"alarm_ratio_1": 1.5}),
    "multiplexer": ("every sensor moved its own channel", None),
    "addresses": ("everything that the plan expects answers", None),
}


def page_of(key, subject):
    return f"{H}/trial/{key}/{subject}"


@pytest.mark.parametrize(("key", "subject"), ON_TRIAL)
def test_the_mills_recording_opens_again_and_goes_into_the_plan(
    signed, module_database, key, subject
):
    client = signed("jon")
    house = house_of(module_database)
    blank = client.get(page_of(key, subject)).text
    assert "nothing tried yet" in blank
    link = found_in(r'<ul id="recordings">\s*<li[^>]*><a href="([^"]+)"', blank)
    page = client.get(link).text
    said, plan = SAID[key]
    assert said.lower() in page.lower()
    assert MILL[key, subject].found in page
    version = found_in(r'name="version" value="(\d+)"', page)
    sent = {**MILL[key, subject].fields, "version": version}
    action = "take" if "Keep the recording only" in page else "keep"
    done = client.post(f"{page_of(key, subject)}/{action}", data=sent)
    assert done.status_code == 200, found_in(r'id="refusal">([^<]+)', done.text)
    assert len(re.findall(r"\?recording=\d+", done.text)) == 2
    with module_database.begin() as connection:
        draft = read_draft(connection, house)
    for name, value in (plan or {}).items():
        assert getattr(sensor_of(draft.plan, subject, object), name) == value
    if key == "multiplexer":
        kinds = {kind.id: kind for kind in draft.plan.board_types}
        board = draft.plan.board(subject)
        assert board is not None
        # Settled from 8 µs on, and half as long again: 12 µs.
        assert kinds[board.board_type].settle_us == 12
    if key == "addresses":
        coded = sensor_of(draft.plan, "courtyard_temp", OneWireSensor)
        assert coded.code == MILL_CODE
    again = client.post(f"{page_of(key, subject)}/take", data=sent)
    if plan:
        assert again.status_code == 422
        assert "version" in again.text.lower() or "moved" in again.text.lower()


@pytest.mark.parametrize(
    ("key", "subject", "changed", "field", "said"),
    [
        ("hold", "door_outer", {"detections": "5 3 9"}, "detections", "rising"),
        ("hold", "door_outer", {"detections": "5 x 9"}, "detections", "blanks between"),
        ("hold", "door_outer", {"source": "record"}, "source", "or type them"),
        ("doorway", "door_outer", {"passes": "1 A\n2 C"}, "passes", "line 2"),
        ("doorway", "door_outer", {"passes": "1 A\n2 B 1"}, "passes", "one kind of rows"),
        ("doorway", "door_outer", {"passes": "3 A\n2 B"}, "passes", "rising"),
        ("doorway", "door_outer", {"entries": "-1"}, "entries", "0 to 10000"),
        ("distance", "cart_distance", {"occupied": "3.1 3.1 3.1 3.1 3.1"}, "occupied", "changed"),
        ("distance", "cart_distance", {"empty": "284 284 285 284 284"}, "empty", "in metres?"),
        ("distance", "cart_distance", {"low_degc": "50"}, "low_degc", "colder one first"),
        ("contact", "skylight_shut", {"away": "open"}, "away", "magnet"),
        ("contact", "skylight_shut", {"edges": "nan"}, "edges", "0 to"),
        ("light", "stair_light", {"ohm_1": "4150", "ohm_2": "21400"}, "ohm_2", "changed over"),
        ("light", "stair_light", {"lux_2": "10"}, "lux_2", "two different"),
        ("light", "stair_light", {"lamp_on": "8 8"}, "lamp_on", "three or more"),
        ("air", "drying_rh", {"reading": "120"}, "reading", "0 to 100"),
        ("air", "drying_rh", {"surface": "measured"}, "surface_degc", "a number"),
        ("gas", "studio_gas", {"curve": "0 1\n10 2"}, "curve", "10 or more"),
        ("gas", "studio_gas", {"curve": "0 1 2\n10 2 3"}, "curve", "2 in a row"),
        ("gas", "studio_gas", {"ratio": "0.5"}, "ratio", "1.01 to 100"),
        ("multiplexer", "rack_inputs", {"touches": "1 2 3"}, "touches", "8 in a row"),
        ("multiplexer", "rack_inputs", {"swing_counts": "0"}, "swing_counts", "move the neighbour"),
        ("addresses", "board_b", {"scan": "0x88"}, "scan", "read/write bit"),
        ("addresses", "board_b", {"scan": "0x03"}, "scan", "reserved"),
        ("addresses", "board_b", {"codes": "28b1c74405000087"}, "codes", "checksum"),
        ("addresses", "board_b", {"codes": "28b1c74405000086 Attic"}, "codes", "Courtyard"),
    ],
)
def test_a_wrong_field_says_what_is_allowed(signed, key, subject, changed, field, said):
    client = signed("guest")
    sent = {**MILL[key, subject].fields, **changed}
    answer = client.post(f"{page_of(key, subject)}/work", data=sent)
    assert answer.status_code == 422
    assert said in found_in(rf'id="mend-{field}">([^<]+)<', answer.text)
    for name, value in changed.items():
        if len(value) < 30 and "\n" not in value:
            assert value in answer.text, name


def test_who_only_looks_tries_and_takes_nothing(signed):
    client = signed("guest")
    sent = MILL["hold", "door_outer"].fields
    page = client.post(f"{page_of('hold', 'door_outer')}/work", data=sent).text
    assert "hold presence for" in page
    assert "into the plan</button>" not in page
    for action in ("take", "keep"):
        answer = client.post(f"{page_of('hold', 'door_outer')}/{action}", data=sent)
        assert answer.status_code == 403


def test_the_list_has_every_bench_and_says_where_there_is_none(signed):
    page = signed("guest").get(f"{H}/benches").text
    for trial in TRIALS.values():
        assert trial.heading in page
    assert "for a photodiode; add one at" in page
    for key, subject in ON_TRIAL:
        assert f"{H}/trial/{key}/{subject}" in page


@pytest.mark.parametrize(
    "path", ["/trial/hold/drying_rh", "/trial/nothing/door_outer", "/trial/multiplexer/board_a"]
)
def test_a_bench_that_is_not_is_said(signed, path):
    answer = signed("guest").get(f"{H}{path}")
    assert answer.status_code == 404
    assert "list of benches" in answer.text or "one of the list" in answer.text


def test_the_other_way_round_is_noticed(signed):
    passes = MILL["doorway", "door_outer"].fields["passes"]
    swapped = passes.translate(str.maketrans("AB", "BA"))
    sent = {**MILL["doorway", "door_outer"].fields, "passes": swapped}
    page = signed("jon").post(f"{page_of('doorway', 'door_outer')}/work", data=sent).text
    assert "the order is the other way round" in page
    assert "into the plan</button>" not in page


def test_a_tape_and_a_radar_open_their_recordings_again(signed):
    client = signed("guest")
    for bench, subject, said in (
        ("tape", "manifold_tape", "False alarms by noise alone"),
        ("radar", "stair_radar", "of the occupied room"),
    ):
        blank = client.get(f"{H}/{bench}/{subject}").text
        page = client.get(found_in(r'<ul id="recordings">\s*<li[^>]*><a href="([^"]+)"', blank))
        assert said in page.text


def test_a_house_without_a_thermometer_begins_at_the_list(signed):
    client = signed("jon")
    bare = {"name": "Bare", "time_zone": "Europe/Madrid", "mains_v": "230", "mains_hz": "50"}
    made = client.post("/houses/new", data=bare)
    assert made.status_code == 303, made.text
    house = "/h/" + made.headers["location"].split("/h/")[1].split("/")[0]
    answer = client.get(f"{house}/calibrate")
    assert answer.headers["location"] == f"{house}/benches"
    page = client.get(f"{house}/benches").text
    assert "0 have something to work on" in page
