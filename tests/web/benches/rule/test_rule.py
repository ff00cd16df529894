"""The Rule bench: stack, claims put in, moved, switched off, taken out; failsafe, schedules."""

import re

import pytest
from tests.web.pages import H, draft

RULE = f"{H}/rule"
PAGES = [
    "?load=panel_heater",
    "?load=extractor&claim=ex_damp",
    "?load=skylight&add=band",
    "?load=skylight&add=probe",
    "/failsafe?load=panel_heater",
    "/house",
    "/house?part=schedule:dark_hours",
    "/house?part=mode:house_mode",
    "/house?part=signal:over_courtyard",
    "/house?part=condition:water",
    "/house?part=memory",
    "/sentences",
]


@pytest.mark.parametrize("page", PAGES)
@pytest.mark.parametrize("who", ["jon", "guest"])
def test_every_page_of_the_bench_stands_for_builder_and_viewer(signed, page, who):
    answer = signed(who).get(f"{RULE}{page}")
    assert answer.status_code == 200, answer.text[:2000]
    assert ("Keep" in re.sub(r"<dialog.*?</dialog>", "", answer.text, flags=re.DOTALL)) <= (
        who == "jon"
    )


def test_draft_is_read(signed):
    assert draft(signed("jon"))["version"]
