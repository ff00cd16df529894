"""The radar's page: two recordings compared, refusals, thresholds and hold into the plan."""

import re

import numpy as np
import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of
from tests.web.test_web import H

from aldea.core.plan.sensors import SerialSensor
from aldea.store.plans import read_draft

RADAR = f"{H}/radar/stair_radar"


def recording(seed, middle, rows=120, gates=8, mark="\t"):
    """Energies as a board would log them."""
    values = np.random.default_rng(seed).gamma(4.0, middle / 4.0, (rows, gates))
    return "\n".join(mark.join(f"{v:.1f}" for v in row) for row in values)


EMPTY, OCCUPIED = recording(1, 8), recording(2, 70)
GAPS = "4 7 9 12 15 15 18 22 25 31 33 40 41 55 62 75 90 110 150 240"


def test_two_recordings_are_compared(signed):
    client = signed("guest")
    page = client.post(f"{RADAR}/compare", data={"empty": EMPTY, "occupied": OCCUPIED}).text
    assert len(re.findall(r"<tr><td>\d</td>", page)) == 8
    assert "misses 0.0 % of the occupied room" in page
    assert "Take 8 thresholds" not in page, "who only looks takes nothing"
    narrow, wide = (
        float(
            found_in(
                r"<b>([\d.]+)</b></td><td class=\"n\">",
                client.post(
                    f"{RADAR}/compare",
                    data={"empty": EMPTY, "occupied": OCCUPIED, "margin": margin},
                ).text,
            )
        )
        for margin in ("5", "30")
    )
    assert wide == pytest.approx(narrow + 25, abs=0.11)


def test_a_radar_that_sees_nobody_is_said(signed):
    same = {"empty": EMPTY, "occupied": recording(9, 8)}
    page = signed("guest").post(f"{RADAR}/compare", data=same).text
    assert "another place for the radar" in page


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"empty": EMPTY, "occupied": ""}, "occupied", "20 or more"),
        ({"empty": "1 2\n3", "occupied": OCCUPIED}, "empty", "row 2"),
        ({"empty": EMPTY, "occupied": recording(2, 70, gates=7)}, "empty", "the same number"),
        ({"empty": "a b\n1 x", "occupied": OCCUPIED}, "empty", "numbers only"),
        ({"empty": EMPTY, "occupied": OCCUPIED, "gaps": "4 long"}, "gaps", "seconds"),
        ({"empty": EMPTY, "occupied": OCCUPIED, "gaps": "-4"}, "gaps", "0 s or longer"),
        ({"empty": EMPTY, "occupied": OCCUPIED, "quantile_pct": "20"}, "quantile_pct", "50 to 100"),
        ({"empty": EMPTY, "occupied": OCCUPIED, "margin": "wide"}, "margin", "a number"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, sent, field, said):
    answer = signed("guest").post(f"{RADAR}/compare", data=sent)
    assert answer.status_code == 422
    assert said in found_in(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)
    assert sent["empty"].split("\n")[-1] in answer.text


def test_thresholds_and_hold_go_into_the_plan_and_a_form_does_not_lose_them(
    signed, module_database
):
    client = signed("jon")
    sent = {"empty": EMPTY, "occupied": OCCUPIED, "gaps": GAPS}
    page = client.post(f"{RADAR}/compare", data=sent).text
    assert "150 s, the 19. of the gaps" in page.replace("2 min 30 s", "150 s")
    assert "59 are needed" in page
    version = found_in(r'name="version" value="(\d+)"', page)
    answer = client.post(f"{RADAR}/take", data={**sent, "version": version})
    assert answer.status_code == 200
    assert "The plan’s thresholds" in answer.text

    def radar():
        with module_database.begin() as connection:
            plan = read_draft(connection, house_of(module_database)).plan
        sensor = next(p.sensor for p in plan.probes if p.id == "stair_radar")
        assert isinstance(sensor, SerialSensor)
        return sensor

    assert len(radar().gates) == 8
    assert radar().hold_s == 150
    before = radar().gates
    form = client.get(f"{H}/layout", params={"part": "probe:stair_radar"}).text
    fields = dict(re.findall(r'<input[^>]*name="([a-z_0-9]+)"[^>]*value="([^"]*)"', form))
    chosen = {
        name: found_in(r'value="([^"]*)" selected', body)
        for name, body in re.findall(r'<select[^>]*name="([a-z_]+)"(.*?)</select>', form, re.DOTALL)
    }
    kept = client.post(
        f"{H}/layout/part",
        data={**fields, **chosen, "part": "probe:stair_radar", "supply_ma": "90"},
    )
    assert kept.status_code == 303, kept.text
    assert radar().supply_ma == 90
    assert radar().gates == before
    stale = client.post(f"{RADAR}/take", data={**sent, "version": version})
    assert stale.status_code == 422
    assert signed("guest").post(f"{RADAR}/take", data=sent).status_code == 403
