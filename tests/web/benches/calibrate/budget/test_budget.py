"""Rows of one’s own in a budget."""

import pytest
from tests.web.pages import H, found_in, sign_form

STUDIO, DRYING = f"{H}/calibrate/studio_temp", f"{H}/calibrate/drying_rh"


OWN = {"own_label_1": "Bath not stirred", "own_value_1": "0.6", "own_spread_1": "rectangular"}


def together(page):
    return float(found_in(r"<b>U = ([\d.]+)</b>", page))


def test_a_row_of_ones_own_widens_the_budget_and_is_signed(signed):
    client = signed("jon")
    before = together(client.get(f"{STUDIO}/budget").text)
    page = client.get(f"{STUDIO}/budget", params=OWN).text
    # 0.6 / √3 one sigma, doubled, added in squares.
    assert together(page) == pytest.approx((before**2 + (2 * 0.6 / 3**0.5) ** 2) ** 0.5, abs=0.002)
    assert "Bath not stirred" in page
    freedom = client.get(f"{STUDIO}/budget", params={**OWN, "own_freedom_1": "3"}).text
    k95 = float(found_in(r"95 % is k = (\d+\.\d+)", freedom))
    assert k95 > 2.05, "few degrees of freedom ask for a wider factor"
    bench = client.get(STUDIO, params=OWN).text
    assert 'name="own_value_1" value="0.6"' in bench, "carried to where it is signed"
    signed_page = client.post(f"{STUDIO}/sign", data=sign_form(client, "studio_temp", OWN))
    assert signed_page.status_code == 303
    certificate = client.get(signed_page.headers["location"]).text
    assert "Bath not stirred" in certificate


@pytest.mark.parametrize(
    ("changed", "field", "said"),
    [
        ({"own_value_1": "-1"}, "own_value_1", "0 to 1000"),
        ({"own_value_1": "wide"}, "own_value_1", "a number"),
        ({"own_spread_1": "flat"}, "own_spread_1", "one of the list"),
        ({"own_freedom_1": "0"}, "own_freedom_1", "1 to"),
        ({"own_sensitivity_1": ""}, "own_sensitivity_1", "a number"),
    ],
)
def test_a_wrong_own_row_is_named_and_left_out(signed, changed, field, said):
    page = signed("guest").get(f"{DRYING}/budget", params={**OWN, **changed}).text
    assert said in found_in(rf'id="fix-{field}">([^<]+)<', page)
    assert ">Bath not stirred<" not in page
