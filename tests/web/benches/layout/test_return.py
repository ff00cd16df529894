"""What a load does after a power cut follows its class, whichever way it is put in."""

import pytest
from tests.web.test_new_house import begun

# kind, class that is typed ("" leaves the form's), class and return that the plan has then
PUT_IN = [
    ("relay", "", "air", "follow_rules"),
    ("relay", "heat", "heat", "off"),
    ("relay", "light", "light", "follow_rules"),
    ("outlet", "water", "water", "off"),
    ("valve", "", "water", "off"),
    ("pulse_drive", "", "motion", "off"),
    ("two_way", "", "light", "follow_rules"),
]


def plan_of(client, home):
    slug = home.rsplit("/", 1)[1]
    return client.get(f"/api/v1/houses/{slug}/plan").json()


def keep(client, home, **sent):
    version = str(plan_of(client, home)["version"])
    answer = client.post(f"{home}/layout/part", data={"version": version, **sent})
    assert answer.status_code == 303, answer.text[:500]


@pytest.mark.parametrize(("kind", "typed", "of_class", "policy"), PUT_IN)
def test_a_load_that_is_put_in_returns_as_its_class_does(signed, kind, typed, of_class, policy):
    client = signed("jon")
    home = begun(client, f"Return of {kind} {typed}")
    keep(client, home, part_kind="place", part_id="", name="Room", kind="room")
    more = {"load_class": typed} if typed else {}
    keep(client, home, part_kind="load", part_id="", name="It", place="room", kind=kind, **more)
    (load,) = plan_of(client, home)["plan"]["loads"]
    assert (load["load_class"], load["power_return"]["policy"]) == (of_class, policy)
    page = client.get(f"{home}/layout?part=load:it").text
    again = (
        "follows its rules again"
        if policy == "follow_rules"
        else ("stays", "moves only on command")
    )
    told = page.split("Without supply</h2>")[1].split("</p>")[0]
    assert again in told if isinstance(again, str) else any(word in told for word in again)


def test_another_class_brings_its_return_and_what_was_chosen_stays(signed):
    client = signed("jon")
    home = begun(client, "Return of another class")
    keep(client, home, part_kind="place", part_id="", name="Room", kind="room")
    keep(client, home, part_kind="load", part_id="", name="It", place="room", kind="relay")
    keep(client, home, part_kind="load", part_id="it", load_class="heat")
    assert plan_of(client, home)["plan"]["loads"][0]["power_return"]["policy"] == "off"
    keep(client, home, part_kind="load", part_id="it", load_class="air")
    assert plan_of(client, home)["plan"]["loads"][0]["power_return"]["policy"] == "follow_rules"
    sent = {"load": "it", "policy": "off", "reason": "it blows on paper", "fault_state": "off",
            "fault_each": "rule", "default_state": "off",
            "ends_by": "time", "version": str(plan_of(client, home)["version"])}  # fmt: skip
    numbers = {"after_s": "900", "delay_s": "0", "min_on_s": "0", "min_off_s": "0", "max_on_s": "",
               "max_on_rest_s": "0", "starts_per_hour": "", "for_s": "7200"}  # fmt: skip
    assert client.post(f"{home}/rule/failsafe", data={**sent, **numbers}).status_code == 303
    keep(client, home, part_kind="load", part_id="it", load_class="light")
    back = plan_of(client, home)["plan"]["loads"][0]["power_return"]
    assert (back["policy"], back["reason"]) == ("off", "it blows on paper")
