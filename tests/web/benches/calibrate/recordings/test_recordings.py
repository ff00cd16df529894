"""The one way to work a recordings bench: ask, work out, refuse, take, keep, open again."""

import re

import pytest
from tests.web.benches.calibrate.recordings.recorded import (
    COMPARED,
    EMPTY,
    MILL,
    OCCUPIED,
    ONE_BATH,
    QUIET,
    THERMISTOR,
    bench_at,
    energies,
)
from tests.web.pages import H, draft, fix_of, found_in, plan_of, version_of

from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.demo.mill import mill_plan
from aldea.web.benches.calibrate.recordings.bench import sensor_of
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES

MILL_CODE = "28b1c74405000086"
Facts = dict[str, object] | None
# What the mill's recording says at each bench, and what the plan holds after taking it.
SAID: dict[str, tuple[str, Facts]] = {
    "hold": ("hold presence for", {"inner": None}),
    "doorway": ("counts 0 of 25 persons wrong", {"inner": "door_inner"}),
    "distance": ("occupied under 2.38", {}),
    "contact": ("inverted. Closed means off here", {"closed_means": "off"}),
    "light": ("on at 20 lx, off not under", {"fixed_ohm": 13000.0}),
    "air": ("mould grows in days", None),
    "gas": ("locked out for", {"alarm_ratio_1": 1.5}),
    "multiplexer": ("every sensor changed its own channel", None),
    "addresses": ("everything that the plan expects answers", None),
    "tape": ("False alarms by noise alone", {}),
    "radar": ("of the occupied room", {}),
    "curve": ("the plan’s curve misses by up to 0.55 K", None),
    "detective": ("the divider’s supply being 5 V would explain it", None),
    "difference": ("reads +0.305 K beside Drying room temperature", None),
}
# What is typed at a bench here: what the mill recorded, or something else that is made up.
TYPED = {
    ("filters", "drying_rh"): {"window": "9"},
    **{key: row.fields for key, row in MILL.items()},
    ("curve", "studio_temp"): {"points": THERMISTOR},
    ("detective", "studio_temp"): COMPARED,
    ("difference", "drying_temp"): {"other": "studio_temp", "pairs": ONE_BATH},
    ("tape", "manifold_tape"): {"readings": QUIET},
    ("radar", "stair_radar"): {"empty": EMPTY, "occupied": OCCUPIED},
}
# As they are typed here; what the multiplexer gives was taken by the test before.
GIVES_NOTHING = ("air", "detective", "difference", "multiplexer")


@pytest.mark.parametrize(("key", "subject"), MILL)
def test_the_mills_recording_opens_again_and_goes_into_the_plan(
    signed, module_database, key, subject
):
    client = signed("jon")
    blank = client.get(f"{bench_at(key, subject)}?anew=1").text
    assert RECORDINGS_BENCHES[key].nothing in blank
    newest = client.get(bench_at(key, subject)).text
    assert RECORDINGS_BENCHES[key].nothing not in newest
    assert "This is the last recording." in newest
    link = found_in(r'<ul id="recordings">\s*<li[^>]*>\s*<a href="([^"]+)"', blank)
    page = client.get(link).text
    said, facts = SAID[key]
    assert said.lower() in page.lower()
    assert MILL[key, subject].summary in page
    sent = {**MILL[key, subject].fields, "version": version_of(page)}
    sent |= dict.fromkeys(re.findall(r'name="(to-\w+)" value="1" checked', page), "1")
    # Another supply in the plan would change what the next ones find at the thermistor.
    gives = "Save the recording only" in page and key != "detective"
    action = "take" if gives else "keep"
    if action == "take":
        sent["take"] = found_in(r'name="take" value="(\w*)"', page)
    done = client.post(f"{bench_at(key, subject)}/{action}", data=sent)
    assert done.status_code == 200, found_in(r'id="refusal">([^<]+)', done.text)
    assert len(re.findall(r"\?recording=\d+", done.text)) == 2
    plan = plan_of(module_database)
    for name, value in (facts or {}).items():
        assert getattr(sensor_of(plan, subject, object), name) == value
    if key == "multiplexer":
        board = plan.board(subject)
        assert board is not None
        # Settled from 8 µs on, and half as long again: 12 µs.
        assert {t.id: t for t in plan.board_types}[board.board_type].settle_us == 12
    if key == "addresses":
        assert sensor_of(plan, "courtyard_temp", OneWireSensor).code == MILL_CODE


@pytest.mark.parametrize(
    ("key", "subject", "changed", "field", "said"),
    [
        ("hold", "door_outer", {"detections": "5 3 9"}, "detections", "rising"),
        ("hold", "door_outer", {"detections": "5 x 9"}, "detections", "blanks between"),
        ("doorway", "door_outer", {"passes": "1 A\n2 C"}, "passes", "Line 2: Found “2 C”"),
        ("doorway", "door_outer", {"passes": "1 A\n2 B 1"}, "passes", "one kind of rows"),
        ("doorway", "door_outer", {"passes": "3 A\n2 B"}, "passes", "rising"),
        ("doorway", "door_outer", {"entries": "-1"}, "entries", "0 to 10 000"),
        ("distance", "cart_distance", {"occupied": "3.1 3.1 3.1 3.1 3.1"}, "occupied", "changed"),
        ("distance", "cart_distance", {"empty": "284 284 285 284 284"}, "empty", "in metres?"),
        ("distance", "cart_distance", {"low_degc": "50"}, "low_degc", "colder one first"),
        ("contact", "skylight_shut", {"away": "open"}, "away", "magnet"),
        ("contact", "skylight_shut", {"edges": "-1"}, "edges", "0 to"),
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
        ("curve", "studio_temp", {"points": "0 32.65\n25 10"}, "points", "look like kΩ"),
        ("curve", "studio_temp", {"points": "32 32650\n77 10000"}, "points", "look like °F"),
        ("curve", "studio_temp", {"points": "0 32650\n25 cold"}, "points", "line 2"),
        ("curve", "studio_temp", {"points": "0 32650"}, "points", "2 or more"),
        ("curve", "studio_temp", {"points": "0 10000\n25 20000"}, "points", "less resistance"),
        (
            "curve",
            "studio_temp",
            {"points": "0 9000\n25 20", "ohm_unit": "counts"},
            "points",
            "4095",
        ),
        ("curve", "studio_temp", {"near_degc": "warm"}, "near_degc", "a number"),
        ("curve", "studio_temp", {"loss_mw_per_k": "0"}, "loss_mw_per_k", "0.05 to 1000"),
        ("curve", "studio_temp", {"points": "1 2\n" * 60_000}, "points", "200 000 fit"),
        ("detective", "studio_temp", {"counts": "many"}, "counts", "a number"),
        ("detective", "studio_temp", {"counts": "4095"}, "counts", "The sensor is open: unplugged"),
        ("detective", "studio_temp", {"known_degc": "400"}, "known_degc", "−40 to 120"),
        ("detective", "studio_temp", {"expanded_k": "0"}, "expanded_k", "0.001 to 20"),
        ("difference", "drying_temp", {"pairs": "20 20.1\n20 20.2"}, "pairs", "3 pairs"),
        ("difference", "drying_temp", {"pairs": "20 20.1\n20 warm"}, "pairs", "line 2"),
        ("difference", "drying_temp", {"own_1_k": "0"}, "own_1_k", "0.001 to 20"),
        ("difference", "drying_temp", {"common_k": "-1"}, "common_k", "0 to 20"),
        ("filters", "drying_rh", {"window": "0"}, "window", "1 to 61"),
        ("filters", "drying_rh", {"window": "2.5"}, "window", "a whole number"),
        ("filters", "drying_rh", {"window": "many"}, "window", "a number"),
        ("filters", "drying_rh", {"tau_s": "0"}, "tau_s", "0.1 to 86 400"),
        ("filters", "drying_rh", {"drawn": "wavelet"}, "drawn", "one of the list"),
        ("radar", "stair_radar", {"occupied": ""}, "occupied", "20 or more"),
        ("radar", "stair_radar", {"empty": "1 2\n3"}, "empty", "line 2"),
        ("radar", "stair_radar", {"empty": "a b\n1 x"}, "empty", "numbers only"),
        ("radar", "stair_radar", {"gaps": "4 long"}, "gaps", "numbers in s"),
        ("radar", "stair_radar", {"gaps": "-4"}, "gaps", "0 to 1 000 000 000 s"),
        ("radar", "stair_radar", {"quantile_pct": "20"}, "quantile_pct", "50 to 100"),
        ("radar", "stair_radar", {"margin": "wide"}, "margin", "a number"),
        (
            "radar",
            "stair_radar",
            {"occupied": energies(2, 70, gates=7)},
            "empty",
            "the same number",
        ),
        ("tape", "manifold_tape", {"readings": "1960 1961"}, "readings", "10 or more"),
        (
            "tape",
            "manifold_tape",
            {"readings": "1960 wet 1961"},
            "readings",
            "Reading 2: Found “wet”",
        ),
        ("tape", "manifold_tape", {"readings": "1960 9000"}, "readings", "0 to 4095"),
        ("tape", "manifold_tape", {"damp_pct": "0"}, "damp_pct", "0.01 to 1000"),
        ("tape", "manifold_tape", {"damp_pct": "30"}, "wet_pct", "wet beyond damp"),
        ("tape", "manifold_tape", {"wet_pct": "140"}, "wet_pct", "where the tape is short"),
        ("tape", "manifold_tape", {"samples": "2.5"}, "samples", "a whole number"),
        ("tape", "manifold_tape", {"interval_s": "0"}, "interval_s", "0.1 to 86 400"),
        ("tape", "manifold_tape", {"target": "1"}, "target", "0.9"),
    ],
)
def test_a_wrong_field_says_what_is_allowed_and_keeps_what_was_typed(
    signed, key, subject, changed, field, said
):
    sent = {**TYPED[key, subject], **changed}
    answer = signed("guest").post(f"{bench_at(key, subject)}/work", data=sent)
    assert answer.status_code == 422
    assert said in fix_of(answer.text, field)
    for name, value in changed.items():
        chosen = name == "drawn"  # a list shows what is in it alone
        assert chosen or value.split("\n")[0] in answer.text


def test_who_only_looks_tries_and_takes_nothing(signed):
    client = signed("guest")
    sent = MILL["hold", "door_outer"].fields
    page = client.post(f"{bench_at('hold', 'door_outer')}/work", data=sent).text
    assert "hold presence for" in page
    for (key, subject), typed in TYPED.items():
        page = client.post(f"{bench_at(key, subject)}/work", data=typed).text
        assert 'name="take"' not in page, key
        for action in ("take", "keep"):
            answer = client.post(f"{bench_at(key, subject)}/{action}", data=typed)
            assert answer.status_code == 403


@pytest.mark.parametrize(("key", "subject"), [k for k in TYPED if k[0] not in GIVES_NOTHING])
def test_another_version_of_the_draft_is_not_written_over(signed, key, subject):
    client = signed("jon")
    before = draft(client)
    page = client.post(f"{bench_at(key, subject)}/work", data=TYPED[key, subject]).text
    take = found_in(r'name="take" value="(\w*)"', page)
    stale = {**TYPED[key, subject], "version": str(before["version"] + 7), "take": take}
    answer = client.post(f"{bench_at(key, subject)}/take", data={**stale, f"to-{subject}": "1"})
    assert answer.status_code == 422
    assert "version" in found_in(r'id="refusal">([^<]+)', answer.text)
    assert draft(client) == before


def test_every_bench_that_the_mill_can_work_at_opens_with_a_recording():
    """Filters work on the log itself, and the mill has no photodiode."""
    plan = mill_plan()
    can = {key for key, bench in RECORDINGS_BENCHES.items() if bench.keeps and bench.subjects(plan)}
    assert can == {key for key, _ in MILL}


def test_the_list_has_every_bench_and_says_where_there_is_none(signed):
    page = signed("guest").get(f"{H}/calibrate").text
    for bench in RECORDINGS_BENCHES.values():
        assert bench.heading in page
        assert bench.takes in page or not bench.subjects(mill_plan()), bench.key
    assert "responsivity, full scale, for a photodiode" in page
    for key, subject in TYPED:
        assert bench_at(key, subject) in page


@pytest.mark.parametrize(
    ("key", "subject"),
    [
        ("hold", "drying_rh"),
        ("nothing", "door_outer"),
        ("multiplexer", "board_a"),
        ("detective", "drying_rh"),
        ("difference", "drying_rh"),
        ("filters", "nothing"),
    ],
)
def test_a_bench_that_is_not_is_said(signed, key, subject):
    answer = signed("guest").get(bench_at(key, subject))
    assert answer.status_code == 404
    assert "first page" in answer.text or "one of the list" in answer.text


def test_a_house_without_a_probe_is_told_to_add_one(signed):
    client = signed("jon")
    bare = {"name": "Bare", "time_zone": "Europe/Madrid", "mains_v": "230", "mains_hz": "50"}
    made = client.post("/houses/new", data=bare)
    assert made.status_code == 303, made.text
    house = "/h/" + made.headers["location"].split("/h/")[1].split("/")[0]
    page = client.get(f"{house}/calibrate").text
    assert "Nothing to calibrate yet." in page
    assert f"{house}/layout?add=probe" in page


def test_what_is_due_stands_first_with_its_bench_and_is_gone_once_it_holds(signed):
    page = signed("guest").get(f"{H}/calibrate").text
    due = page.split('id="due-first"')[1].split("</table>")[0]
    assert f'href="{H}/calibrate/drying_rh">Drying room RH' in due
    assert f'href="{H}/recordings/light/stair_light">Stair light' in due
    assert "8 more on the" in page, "sixteen probes that rules read have no certificate"
    assert "Vault air" not in due, "no rule reads it"
