"""The leak tape's page: what it says of a baseline, what it refuses, what the plan takes."""

import random
import re
from itertools import pairwise

import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of
from tests.web.test_web import H

from aldea.core.plan.sensors import LeakTape
from aldea.core.wire.findings import findings
from aldea.store.plans import read_draft

TAPE = f"{H}/tape/manifold_tape"


def dry(seed: int, sd: float) -> str:
    """Sixty readings of a dry tape."""
    noise = random.Random(seed)
    return " ".join(str(round(noise.gauss(1960, sd))) for _ in range(60))


QUIET, NOISY = dry(3, 6), dry(4, 60)


def rows(page, table):
    body = found_in(rf'id="{table}".*?<tbody>(.*?)</tbody>', page)
    return [
        [re.sub(r"<[^>]+>", "", cell).strip() for cell in re.findall(r"<td.*?</td>", row)]
        for row in re.findall(r"<tr>.*?</tr>", body)
    ]


def test_states_join_from_end_to_end(signed):
    page = signed("guest").get(TAPE, params={"readings": QUIET}).text
    states = rows(page, "states")
    assert [row[0] for row in states] == ["open", "dry", "damp", "wet", "short"]
    edges = [tuple(map(int, row[1].split(" to "))) for row in states]
    assert edges[0][0] == 0
    assert edges[-1][1] == 4095
    assert all(a[1] == b[0] for a, b in pairwise(edges))
    assert "less than once in 10⁹ years" in page
    assert "60 readings, 0 of them beyond dry" in page
    assert "Take wet at" not in page, "who only looks takes nothing"


def test_an_unplugged_tape_without_an_end_resistor_reads_dry(signed):
    page = signed("guest").get(f"{H}/tape/drain_tape", params={"readings": "20 21 " * 10}).text
    assert [row[0] for row in rows(page, "states")] == ["dry", "damp", "wet", "short"]
    assert "unplugged reads dry" in page


def test_noise_wants_a_wider_margin_or_more_readings(signed):
    client = signed("guest")
    noisy = client.get(TAPE, params={"readings": NOISY, "in_a_row": "1"}).text
    assert "noise alone would alarm" in noisy
    assert int(found_in(r"(\d+) of them beyond dry", noisy)) > 0
    needed = float(found_in(r"a year wants ([\d.]+) %", noisy))
    wide = client.get(
        TAPE,
        params={"readings": NOISY, "in_a_row": "1", "damp_pct": str(needed + 0.1), "wet_pct": "60"},
    ).text
    assert "noise alone would alarm" not in wide
    patient = client.get(TAPE, params={"readings": NOISY, "in_a_row": "5", "samples": "16"}).text
    assert "noise alone would alarm" not in patient
    assert "5 min" in patient, "patience is paid for in time"


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"readings": "1960 1961"}, "readings", "10 or more"),
        ({"readings": "1960 wet 1961"}, "readings", "the 2. reading"),
        ({"readings": "1960 9000"}, "readings", "0 to 4095"),
        ({"readings": QUIET, "damp_pct": "0"}, "damp_pct", "0.01 to 1000"),
        ({"readings": QUIET, "damp_pct": "30"}, "wet_pct", "wet beyond damp"),
        ({"readings": QUIET, "wet_pct": "140"}, "wet_pct", "where the tape is short"),
        ({"readings": QUIET, "samples": "2.5"}, "samples", "a whole number"),
        ({"readings": QUIET, "interval_s": "0"}, "interval_s", "0.1 to 86400"),
        ({"readings": QUIET, "target": "1"}, "target", "0.9"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, sent, field, said):
    answer = signed("guest").get(TAPE, params=sent)
    assert answer.status_code == 422
    found = re.search(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)
    assert found
    assert said in found[1]
    assert sent["readings"] in answer.text


def test_the_plan_takes_the_wet_threshold(signed, module_database):
    client = signed("jon")
    page = client.get(TAPE, params={"readings": QUIET}).text
    offered = found_in(r"Take wet at ([\d.]+) kΩ", page)
    version = found_in(r'name="version" value="(\d+)"', page)
    answer = client.post(f"{TAPE}/take", data={"readings": QUIET, "version": version})
    assert answer.status_code == 303, answer.text
    assert f"The plan says {offered} kΩ, damp at" in client.get(answer.headers["location"]).text
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    tape = next(p.sensor for p in plan.probes if p.id == "manifold_tape")
    assert isinstance(tape, LeakTape)
    assert tape.wet_ohm == pytest.approx(float(offered) * 1000)
    assert tape.damp_ohm is not None
    assert tape.wet_ohm < tape.damp_ohm
    # Wet is far above half of the far end now, and rightly so: it was measured.
    assert not [f for f in findings(plan) if f.key == "overlap-manifold_tape"]
    circuit = client.get(f"{H}/wire/circuits").text
    assert f"{offered} kΩ to {tape.damp_ohm / 1000:g} kΩ" in circuit, "damp has a span of its own"
    stale = client.post(f"{TAPE}/take", data={"readings": QUIET, "version": version})
    assert stale.status_code == 422
    assert signed("guest").post(f"{TAPE}/take", data={"readings": QUIET}).status_code == 403
