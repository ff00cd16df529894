"""Numbers of rows in an address: what the database can hold and nothing beyond it."""

import pytest
from tests.web.pages import H

pytestmark = pytest.mark.reads
LAST = 2**63 - 1


@pytest.mark.parametrize(
    ("number", "status"),
    [(LAST, 404), (LAST + 1, 422), (0, 422), (-1, 422), ("1e3", 422), ("one", 422)],
)
def test_a_row_that_cannot_be_is_refused_and_one_that_is_not_there_is_not_found(
    signed, number, status
):
    answer = signed("jon").get(f"{H}/record/readings/{number}")
    assert answer.status_code == status
    assert ("There is no import" in answer.text) is (status == 404)
    assert ("Enter " in answer.text) is (status == 422)
