"""Odd requests, some hundreds: no mistake of ours; `./aldea requests` sends more."""

import pytest
from tests.web.generated import answered

SEED, COUNT = 11, 350


@pytest.mark.repeats
def test_no_odd_request_ends_in_a_mistake(signed):
    statuses, failed = answered(signed("jon"), SEED, COUNT)
    assert failed == []
    assert statuses.total() == COUNT
    assert min(statuses[200], statuses[303], statuses[404], statuses[422]) > COUNT / 40, (
        "the requests reach what they are about"
    )
