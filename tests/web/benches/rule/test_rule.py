"""The Rule bench: pages for builder and viewer, forms refused at their fields, what is kept."""

import re
from html import unescape

import pytest
from tests.web.pages import H, draft, plan_of

from aldea.core.base.figures import figure
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.plan.conditions import OnValue
from aldea.core.plan.document import Plan, PowerReturn
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_text
from aldea.core.rehearse.rehearsal import rehearse
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days

pytestmark = pytest.mark.watched
RULE = f"{H}/rule"
PAGES = [
    "?load=panel_heater",
    "?load=inlet_valve",
    "?load=extractor&rule=ex_damp",
    "?load=extractor&rule=ex_steam",
    "?load=panel_heater&rule=ph_lost",
    "?load=skylight&add=band",
    "?load=skylight&add=probe",
    "?load=night_lights&rule=nobody",
    "/failsafe?load=panel_heater",
    "/failsafe?load=inlet_valve",
    "/house",
    "/house?part=schedule:dark_hours",
    "/house?part=schedule:",
    "/house?part=mode:house_mode",
    "/house?part=signal:over_courtyard",
    "/house?part=signal:rack_mean",
    "/house?part=condition:water",
    "/house?part=condition:away",
    "/house?part=doorway:hall_door",
    "/house?part=memory",
    "/house?part=mode:gone",
    "/sentences",
]


@pytest.mark.parametrize("page", PAGES)
@pytest.mark.parametrize("who", ["jon", "guest"])
def test_every_page_of_the_bench_stands_for_builder_and_viewer(signed, page, who):
    answer = signed(who).get(f"{RULE}{page}")
    assert answer.status_code == 200, answer.text[:2000]
    body = re.sub(r"<dialog.*?</dialog>", "", answer.text, flags=re.DOTALL)
    assert not re.search(r"<button[^>]*>(Save|Add rule|Keep)\b", body) or who == "jon"


def test_the_stack_of_every_load_says_who_decides_and_why(signed):
    client = signed("guest")
    for load in draft(client)["plan"]["loads"]:
        page = client.get(f"{RULE}?load={load['id']}").text
        assert page.count('class="slab decides') == 1, load["id"]
        assert re.search(
            r"Nothing is foreseen|At [A-Z0-9]|Expected between|The next change", page
        ), load["id"]
    pump = client.get(f"{RULE}?load=booster_pump").text
    assert "At Fri 14 Nov 06:30 it goes to On, by schedule" in pump, "a clock does it"
    valve = client.get(f"{RULE}?load=inlet_valve").text
    assert "tripped: a person must reset it" in valve


def form_of(client, load: str, rule: str = "", add: str = "") -> dict[str, str]:
    """The fields of a rule's form as the page has them."""
    page = client.get(f"{RULE}?load={load}&rule={rule}&add={add}").text
    form = page.split('id="rule-form"')[1].split("</form>")[0]
    found = dict(re.findall(r'<input[^>]*name="([a-z_0-9]+)" value="([^"]*)"', form))
    for name, body in re.findall(r'<select id="f-([a-z_0-9]+)".*?>(.*?)</select>', form, re.S):
        chosen = re.search(r'<option value="([^"]*)" selected', body)
        found[name] = chosen[1] if chosen else re.findall(r'<option value="([^"]*)"', body)[0]
    return found


RULES = [
    ("extractor", "ex_hot"), ("extractor", "ex_lost"), ("extractor", "ex_steam"),
    ("extractor", "ex_damp"), ("inlet_valve", "iv_lost"), ("night_lights", "nl_stair"),
    ("night_lights", "nl_door"), ("panel_heater", "ph_solvent"), ("panel_heater", "ph_pump"),
    ("panel_heater", "ph_closed"), ("skylight", "sk_long"), ("skylight", "sk_dark"),
    ("skylight", "sk_heat"), ("store_fan", "sf_quick"), ("store_fan", "sf_door"),
    ("bench_outlet", "bo_away"), ("bench_outlet", "bo_warm"),
]  # fmt: skip


def test_a_form_that_is_kept_as_it_stands_changes_nothing(signed, module_database):
    """Every kind of rule of the mill house, read back from its own form: the same rule."""
    client = signed("jon")
    before = plan_of(module_database).rules
    for load, rule in RULES:
        answer = client.post(f"{RULE}/rule", data=form_of(client, load, rule))
        assert answer.status_code == 303, (rule, answer.text[:3000])
    assert plan_of(module_database).rules == before


@pytest.mark.parametrize(
    ("load", "rule", "changed", "field", "said"),
    [
        ("extractor", "ex_damp", {"c_on_threshold": "wet"}, "c_on_threshold", "a number"),
        ("extractor", "ex_damp", {"c_on_threshold": "nan"}, "c_on_threshold", "a number"),
        (
            "extractor",
            "ex_damp",
            {"c_on_threshold": "1e30"},
            "c_on_threshold",
            "not “1e30”",
        ),
        (
            "extractor",
            "ex_damp",
            {"c_on_threshold": "140"},
            "c_on_threshold",
            "the range of drying_rh",
        ),
        ("extractor", "ex_damp", {"c_off_threshold": "70"}, "c_off_threshold", "below"),
        ("extractor", "ex_damp", {"c_probe": "attic"}, "c_probe", "one of the list"),
        ("extractor", "ex_damp", {"priority": "boss"}, "priority", "one of the list"),
        ("extractor", "ex_damp", {"want": "step:9"}, "want", "one of the list"),
        ("extractor", "ex_damp", {"edge_s": "-1"}, "edge_s", "0.05 to 604\u202f800 s"),
        ("extractor", "ex_damp", {"name": "a\x00b"}, "name", "letters and signs"),
        ("extractor", "ex_damp", {"name": "x" * 401}, "name", "400 fit"),
        ("extractor", "ex_steam", {"hold_on_s": "x"}, "hold_on_s", "a number"),
        ("extractor", "ex_steam", {"w0_condition": "gone"}, "w0_condition", "one of the list"),
        ("panel_heater", "ph_lost", {"after_s": ""}, "after_s", "a number"),
        ("panel_heater", "ph_lost", {"qualities": "odd"}, "qualities", "one of the list"),
        ("store_fan", "sf_quick", {"c_over_s": "0"}, "c_over_s", "1 to 86\u202f400 s"),
    ],
)
def test_a_wrong_field_is_named_and_keeps_what_was_typed(signed, load, rule, changed, field, said):
    client = signed("jon")
    version = draft(client)["version"]
    form = {**form_of(client, load, rule), **changed}
    answer = client.post(f"{RULE}/rule", data=form)
    assert answer.status_code == 422
    fix = re.search(rf'id="fix-{field}">([^<]+)<', answer.text)
    assert fix, answer.text[-3000:]
    assert said in fix[1]
    assert draft(client)["version"] == version
    typed = changed[field]
    if (
        field not in ("priority", "want", "c_probe", "qualities", "w0_condition")
        and "\x00" not in typed
    ):
        assert f'value="{typed}"' in answer.text
    said_while_typing = client.post(f"{RULE}/answer", data=form).text
    assert fix[1] in said_while_typing


@pytest.mark.parametrize(
    ("load", "kind"),
    [
        ("store_fan", "above"), ("store_fan", "below"), ("store_fan", "within"),
        ("store_fan", "difference"), ("store_fan", "rate"), ("bench_outlet", "window"),
        ("bench_outlet", "sun"), ("night_lights", "presence"), ("night_lights", "dark"),
        ("store_fan", "contact"), ("inlet_valve", "tape"), ("extractor", "gas"),
        ("store_fan", "load"), ("store_fan", "position"), ("bench_outlet", "mode"),
        ("night_lights", "count_above"), ("store_fan", "quality"), ("bench_outlet", "named"),
        ("bench_outlet", "clock_known"), ("bench_outlet", "always"), ("store_fan", "probe"),
    ],
)  # fmt: skip
def test_a_rule_of_each_kind_is_begun_kept_and_said(signed, module_database, load, kind):
    client = signed("jon")
    form = form_of(client, load, add=kind)
    marks = {
        "c_value": "15",
        "c_on_threshold": "3",
        "c_off_threshold": "1",
        "c_low": "5",
        "c_high": "9",
    }
    form |= {name: value for name, value in marks.items() if name in form}
    before = {rule.id for rule in plan_of(module_database).rules}
    answer = client.post(f"{RULE}/rule", data=form)
    assert answer.status_code == 303, re.findall(r'class="fix[^>]*>([^<]*)', answer.text)
    new = [c for c in plan_of(module_database).rules if c.id not in before]
    assert len(new) == 1
    assert new[0].load == load
    assert new[0].condition is None or kind in (new[0].condition.kind, "probe")
    version = str(draft(client)["version"])
    sent = {"load": load, "rule": new[0].id, "version": version}
    assert client.post(f"{RULE}/remove", data=sent).status_code == 303


def test_a_new_rule_counts_without_a_reading_as_is_usual_for_what_it_wants(signed, module_database):
    client = signed("jon")
    form = form_of(client, "panel_heater", add="below") | {"c_value": "12", "priority": "interlock",
                                                           "want": "on"}  # fmt: skip
    assert form["c_without_reading"] == "usual"
    offered = unescape(client.post(f"{RULE}/form", data={**form, "begun": "below"}).text)
    assert "as is usual here: is false after 60 s" in offered
    assert "c_unchanged_for_s" not in offered
    said = client.post(f"{RULE}/answer", data=form).text
    assert "(without a valid reading: false after 60 s)" in unescape(said)
    before = {rule.id for rule in plan_of(module_database).rules}
    assert client.post(f"{RULE}/rule", data=form).status_code == 303
    (new,) = [c for c in plan_of(module_database).rules if c.id not in before]
    again = form_of(client, "panel_heater", new.id)
    assert (again["c_without_reading"], again["c_unchanged_for_s"]) == ("false", "60")

    # What is stated by hand stays as it is stated; a wrong figure is told at its field.
    typed = {**again, "c_without_reading": "true", "c_unchanged_for_s": "x"}
    wrong = client.post(f"{RULE}/rule", data=typed)
    assert wrong.status_code == 422
    assert 'id="fix-c_unchanged_for_s"' in wrong.text
    typed |= {"c_unchanged_for_s": "30"}
    assert client.post(f"{RULE}/rule", data=typed).status_code == 303
    kept = next(c for c in plan_of(module_database).rules if c.id == new.id).condition
    assert isinstance(kept, OnValue)
    assert (kept.without_reading, kept.unchanged_for_s) == ("true", 30.0)

    # One that keeps its last result above the sensor fault level is told, and fixed by a press.
    typed = {**typed, "c_without_reading": "keep", "version": str(draft(client)["version"])}
    assert client.post(f"{RULE}/rule", data=typed).status_code == 303
    page = unescape(client.get(f"{RULE}?load=panel_heater").text)
    assert "keeps its last result without a reading" in page
    version = str(draft(client)["version"])
    sent = {"load": "panel_heater", "finding": f"unread-{new.id}", "version": version}
    assert client.post(f"{RULE}/fix", data=sent).status_code == 303
    page = unescape(client.get(f"{RULE}?load=panel_heater").text)
    assert "keeps its last result without a reading" not in page
    sent = {"load": "panel_heater", "rule": new.id, "version": str(draft(client)["version"])}
    assert client.post(f"{RULE}/remove", data=sent).status_code == 303


def test_a_press_moves_switches_and_fixes_and_undo_brings_back(signed, module_database):
    client = signed("jon")

    def press(where: str, **sent: str) -> int:
        version = str(draft(client)["version"])
        return int(client.post(f"{RULE}/{where}", data={"version": version, **sent}).status_code)

    def order() -> list[str]:
        plan = plan_of(module_database)
        return [c.id for c in plan.rules_of("panel_heater") if c.priority == "interlock"]

    assert order() == ["ph_solvent", "ph_pump", "ph_frost"]
    assert press("move", load="panel_heater", rule="ph_pump", by="up") == 303
    assert order() == ["ph_pump", "ph_solvent", "ph_frost"]
    assert press("switch", load="panel_heater", rule="ph_pump") == 303
    assert press("fix", load="panel_heater", finding="off-ph_pump") == 303
    assert not next(c for c in plan_of(module_database).rules if c.id == "ph_pump").disabled
    assert press("fix", load="panel_heater", finding="off-ph_pump") == 422
    assert press("fix", load="panel_heater", finding="together-never_both") == 303
    assert plan_of(module_database).exclusive
    assert press("begin", load="booster_pump", point="minute") == 303
    assert press("begin", load="booster_pump", point="leak") == 422
    added = [c for c in plan_of(module_database).rules_of("booster_pump") if c.basis == "estimated"]
    assert len(added) == 1
    version = str(draft(client)["version"])
    sent = {"version": version, "back": f"{RULE}?load=booster_pump"}
    assert client.post(f"{H}/draft/undo", data=sent).status_code == 303
    assert added[0] not in plan_of(module_database).rules_of("booster_pump")
    assert client.post(f"{RULE}/remove", data={"load": "x", "rule": "gone"}).status_code == 404
    stale = {"version": "1", "load": "panel_heater", "rule": "ph_pump", "by": "down"}
    assert client.post(f"{RULE}/move", data=stale).status_code in (303, 409)


def test_nobody_but_a_builder_keeps_anything(signed):
    client = signed("guest")
    for path in ("rule", "remove", "switch", "move", "begin", "fix", "failsafe", "house"):
        assert client.post(f"{RULE}/{path}", data={"version": "1"}).status_code == 403


def test_the_writes_of_a_memory_are_those_of_the_whole_house(signed, module_database):
    """Counted by part at Failsafe; here by one run of the whole plan."""
    client = signed("guest")
    traces = {row.probe: row.trace for row in recorded_days()}
    run = rehearse(plan_of(module_database), traces, start_ms=START_MS, end_ms=END_MS).run
    a_day = figure(len(run.writes) / ((END_MS - START_MS) / MS_PER_DAY))
    for load in ("dehumidifier", "inlet_valve"):
        page = client.get(f"{RULE}/failsafe?load={load}").text
        assert f"it is written {a_day} times a day" in page, load


def test_failsafe_tells_who_may_ask_and_what_no_hand_gets_past(signed):
    client = signed("jon")
    page = client.get(f"{RULE}/failsafe?load=extractor").text
    assert "Drying remote, faster: steps it up." in page
    over = page.split("These rules take precedence over a manual override:")[1]
    assert "<li>Off when Rack top is 55 °C or above, until 50 °C or below" in over
    hours = re.findall(r'href="([^"]*)">Add enforced quiet hours', page)[0].replace("&amp;", "&")
    form = client.get(hours).text
    assert '<option value="interlock" selected' in form
    assert re.search('<option value="off"\\s+selected', form)
    assert (
        "A manual override takes precedence over every rule"
        in client.get(f"{RULE}/failsafe?load=dehumidifier").text
    )


def test_failsafe_is_kept_and_refused_at_its_field(signed, module_database):
    client = signed("jon")
    page = client.get(f"{RULE}/failsafe?load=store_fan").text
    form = page.split('id="failsafe-form"')[1].split("</form>")[0]
    sent = dict(re.findall(r'<input[^>]*name="([a-z_0-9]+)" value="([^"]*)"', form))
    sent |= {
        "fault_state": "off",
        "fault_each": "load",
        "default_state": "off",
        "policy": "follow_rules",
        "ends_by": "time",
    }
    wrong = client.post(f"{RULE}/failsafe", data={**sent, "max_on_s": "0"})
    assert wrong.status_code == 422
    assert 'id="fix-max_on_s"' in wrong.text
    unsafe = {**sent, "load": "panel_heater", "policy": "last", "reason": ""}
    assert client.post(f"{RULE}/failsafe", data=unsafe).status_code == 422
    sent |= {"max_on_s": "7200", "after_s": "600", "starts_per_hour": "3"}
    assert client.post(f"{RULE}/failsafe", data=sent).status_code == 303
    load = plan_of(module_database).load("store_fan")
    assert load is not None
    assert (load.max_on_s, load.on_sensor_fault.after_s, load.starts_per_hour) == (7200.0, 600.0, 3)
    said = client.post(
        f"{RULE}/trial", data={"load": "store_fan", "fault": "silent:cellar_rh"}
    ).text
    assert "Cellar RH silent for 2 h" in said
    assert client.post(f"{RULE}/trial", data={"load": "x", "fault": "y"}).status_code == 404
    page = client.get(f"{RULE}/failsafe?load=panel_heater").text
    assert re.search("<b>Studio solvent hint</b>.*Off after 15 min, by a rule of its own", page)
    assert re.search("<b>Studio thermistor</b>.*Off after 30 s, by a rule of its own", page)
    keys = re.findall(r'name="fault" value="([^"]+)"', page)
    assert {"network", "clock", "power", "dark", "stuck:studio_temp", "beyond:studio_air"} <= {
        *keys
    }
    for key in keys:
        said = client.post(f"{RULE}/trial", data={"load": "panel_heater", "fault": key}).text
        assert " at first" in said, key
    page = client.get(f"{RULE}/failsafe?load=night_lights").text
    assert {"wall", "lit"} <= {*re.findall(r'name="fault" value="([^"]+)"', page)}
    lamp = {"load": "night_lights", "fault": "wall"}
    said = client.post(f"{RULE}/trial", data=lamp).text
    assert re.search(r"its wall switch thrown: Off at first, On from .*\(override\)", said), said
    lit = client.post(f"{RULE}/trial", data={**lamp, "fault": "lit"}).text
    assert re.search(r"thrown: On at first, Off from .*\(override\)", lit), lit


@pytest.mark.parametrize(
    ("kind", "sent"),
    [
        ("mode", {"name": "Guests", "values": "none, some, many", "start": "none"}),
        ("doorway", {"name": "Loft hatch", "outer": "skylight_shut", "inner": "skylight_open",
                     "within_s": "4", "reset_at": "03:00"}),
        ("signal", {"name": "Coldest", "made": "lowest", "of": "Studio air, Cellar thermistor"}),
        ("signal", {"name": "Studio vapour", "made": "absolute_humidity",
                    "temperature": "studio_air", "humidity": "studio_rh"}),
        ("signal", {"name": "Rise", "made": "rate", "probe": "rack_top", "over_s": "600"}),
        ("condition", {"name": "Cold out", "c_kind": "below", "c_probe": "courtyard_temp",
                       "c_value": "3", "c_hysteresis": "1"}),
        ("condition", {"name": "Cold and late", "c_kind": "below", "c_probe": "courtyard_temp",
                       "c_value": "3", "c_hysteresis": "1", "hold_on_s": "120", "w0_kind": "window",
                       "w0_schedule": "night_block", "w0_join": "any", "w0_lasts_s": "60",
                       "among": "any", "whole_s": "300"}),
        ("exclusive", {"name": "K1, K2", "relays": "K1, K2", "dead_s": "2", "why": "one fuse"}),
        ("schedule", {"name": "Pause", "w0_start": "14:00", "w0_end": "16:00", "w0_mon": "yes",
                      "for_s": "60",
                      "except_dates": "2026-12-08, every 12-24 to 01-06"}),
        ("schedule", {"name": "Siesta", "w0_start": "14:00", "w0_end": "16:00", "w0_mon": "yes",
                      "for_s": "60", "except_dates": "2025-12-24"}),
        ("schedule", {"name": "Watering", "m0_at": "06:00", "m0_mon": "yes", "for_s": "60",
                      "catch_up": "skipped"}),
        ("schedule", {"name": "Lamps", "w0_start": "sunset -15", "w0_end": "23:00",
                      "w0_sat": "yes", "for_s": "60",
                      "dates": "2025-12-31T18:00 to 2026-01-01T02:00"}),
    ],
)  # fmt: skip
def test_a_part_of_the_house_is_put_in_opened_and_taken_out(signed, kind, sent):
    client = signed("jon")
    form = {"part_kind": kind, "part_id": "", "retained": "yes", **sent}
    version = str(draft(client)["version"])
    answer = client.post(f"{RULE}/house", data={**form, "version": version})
    assert answer.status_code == 303, re.findall(r'class="fix[^>]*>([^<]*)', answer.text)
    where = answer.headers["location"]
    shown = client.get(where).text
    assert sent["name"] in shown
    if "among" in sent:
        kept = draft(client)["plan"]["conditions"][-1]["condition"]
        assert (kept["kind"], kept["on_s"], kept["of"]["kind"]) == ("lasting", 300.0, "any")
        assert [part["kind"] for part in kept["of"]["of"]] == ["lasting", "lasting"]
    if "catch_up" in sent:
        assert re.search(r'value="skipped"\s+selected', shown)
    gone = {"part_kind": kind, "part_id": where.rsplit(":", 1)[1]}
    version = str(draft(client)["version"])
    removed = client.post(f"{RULE}/house/remove", data={**gone, "version": version})
    assert removed.status_code == 303
    assert f">{sent['name']}<" not in client.get(f"{RULE}/house").text


@pytest.mark.parametrize(
    ("kind", "sent", "field"),
    [
        ("mode", {"name": "", "values": "a, b"}, "name"),
        ("mode", {"name": "One", "values": "a"}, "values"),
        ("signal", {"name": "S", "made": "mean", "of": "Nothing here"}, "of"),
        ("signal", {"name": "S", "made": "rate", "probe": "attic", "over_s": "1"}, "probe"),
        ("condition", {"name": "C", "c_kind": "below", "c_probe": "courtyard_temp",
                       "c_value": "cold", "c_hysteresis": "1"}, "c_value"),
        ("schedule", {"name": "S", "w0_start": "25:00", "w0_end": "07:00", "w0_mon": "yes",
                      "for_s": "60"}, "w0_start"),
        ("schedule", {"name": "S", "w0_start": "05:00", "w0_end": "07:00", "for_s": "60"},
         "w0_start"),
        ("schedule", {"name": "S", "dates": "tomorrow", "for_s": "60"}, "dates"),
        ("schedule", {"name": "S", "except_dates": "soon", "for_s": "60"}, "except_dates"),
        ("schedule", {"name": "S", "m0_at": "24:61", "m0_mon": "yes", "for_s": "60"}, "m0_at"),
    ],
)  # fmt: skip
def test_a_wrong_part_is_refused_at_its_field_or_above_the_form(signed, kind, sent, field):
    client = signed("jon")
    version = draft(client)["version"]
    form = {"part_kind": kind, "part_id": "", **sent, "version": str(version)}
    answer = client.post(f"{RULE}/house", data=form)
    assert answer.status_code == 422
    assert f'id="fix-{field}"' in answer.text or 'role="alert"' in answer.text
    assert draft(client)["version"] == version


def test_what_a_rule_stands_on_is_not_taken_out(signed):
    client = signed("jon")
    for kind, key in (("schedule", "night_block"), ("mode", "house_mode"), ("condition", "away")):
        version = str(draft(client)["version"])
        sent = {"part_kind": kind, "part_id": key, "version": version}
        answer = client.post(f"{RULE}/house/remove", data=sent)
        assert answer.status_code == 422, key
        assert 'role="alert"' in answer.text


def test_the_record_tells_changes_in_sentences_and_takes_a_revision_back(signed, module_database):
    client = signed("jon")
    page = client.get(f"{H}/record").text
    assert "<s>On when Drying room RH is 60 %RH or above, until 59.5 %RH or below.</s>" in page
    assert "On when Drying room RH is 62 %RH or above, until 56 %RH or below." in page
    sent = {"number": "1", "version": str(draft(client)["version"])}
    assert client.post(f"{H}/record/take-back", data=sent).status_code == 303
    assert next(iter(plan_of(module_database).bands)).band.on_threshold == 60.0
    again = {"back": f"{H}/record", "version": str(draft(client)["version"])}
    assert client.post(f"{H}/draft/undo", data=again).status_code == 303
    assert next(iter(plan_of(module_database).bands)).band.on_threshold == 62.0
    odd = {"number": "77", "version": str(draft(client)["version"])}
    assert client.post(f"{H}/record/take-back", data=odd).status_code == 422


def test_a_stand_in_value_is_never_published(signed):
    client = signed("jon")
    form = {**form_of(client, "extractor", "ex_hot"), "basis": "trial", "note": "for the trial"}
    assert client.post(f"{RULE}/rule", data=form).status_code == 303
    assert "a figure is a trial value" in client.get(f"{RULE}?load=extractor").text
    sent = {"reason": "try", "despite": "all the same", "version": str(draft(client)["version"])}
    answer = client.post(f"{H}/record/publish", data=sent)
    assert answer.status_code == 422
    assert "for a trial" in answer.text


ICS = """BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//made up//EN\r
BEGIN:VEVENT\r
UID:one\r
DTSTART:20251224T013000\r
DTEND:20251224T070000\r
RRULE:FREQ=YEARLY\r
SUMMARY:Night\r
END:VEVENT\r
END:VCALENDAR\r
"""


def test_a_calendar_file_goes_out_and_comes_in(signed, module_database):
    client = signed("jon")
    out = client.get(f"{RULE}/house/night_block.ics")
    assert out.status_code == 200
    assert "BEGIN:VEVENT" in out.text
    assert "follows the sun" in client.get(f"{RULE}/house/dark_hours.ics").text
    sent = {"part_id": "night_block", "version": str(draft(client)["version"])}
    page = client.post(
        f"{RULE}/house/calendar", data=sent, files={"calendar": ("n.ics", ICS, "text/calendar")}
    )
    assert page.status_code == 200
    assert "1 date of the coming year imported." in page.text
    kept = next(s for s in plan_of(module_database).schedules if s.id == "night_block")
    assert [(d.start, d.end) for d in kept.dates] == [("2025-12-24T01:30", "2025-12-24T07:00")]
    sent["version"] = str(draft(client)["version"])
    wrong = client.post(
        f"{RULE}/house/calendar", data=sent, files={"calendar": ("n.ics", "no", "text/calendar")}
    )
    assert wrong.status_code == 422
    assert "iCalendar file" in wrong.text


def broken_mill() -> Plan:
    """The mill house with a drive that nobody sees, names alike, marks too close, no fallback."""
    plan = mill_plan()
    skylight, fan = plan.load("skylight"), plan.load("store_fan")
    assert skylight is not None
    assert skylight.drive is not None
    assert fan is not None
    drive = skylight.drive.model_copy(update={"open_contact": None, "shut_contact": None})
    plan = put_part(plan, "load", skylight.model_copy(update={"drive": drive}))
    back = PowerReturn(policy="last")
    named = fan.model_copy(update={"name": "Dehumidifyer", "power_return": back, "max_on_s": None})
    return put_part(plan, "load", named)


@pytest.mark.parametrize("plan", [mill_plan(), broken_mill()], ids=["mill", "broken mill"])
def test_every_finding_leads_to_its_page_and_where_it_has_one_to_its_field(signed, plan):
    client = signed("jon")
    files = {"plan": ("mill.json", plan_text(plan).encode())}
    home = client.post("/houses", files=files).headers["location"].removesuffix("/record")
    pages = ["", "/wire", "/rule/house", *(f"/rule?load={load.id}" for load in plan.loads)]
    shown = {page: client.get(home + page).text for page in pages}
    links = {
        unescape(found)
        for page in shown.values()
        for found in re.findall(r'<a[^>]* href="([^"]*)"[^>]*>To the [^<]*</a>', page)
    }
    assert {"rule", "failsafe", "relay"} <= {
        word for link in links for word in ("rule", "failsafe", "relay") if word in link
    }
    for link in links:
        address, _, field = link.partition("#")
        answer = client.get(address)
        assert answer.status_code == 200, link
        assert not field or f'id="{field}"' in answer.text, link
    if plan != mill_plan():
        assert "direction of a pulse" in shown["/rule?load=skylight"]
        assert "Dehumidifyer" in shown["/rule?load=dehumidifier"]
        assert "/layout?part=load:skylight#f-open_contact" in shown["/rule?load=skylight"]


def test_what_a_rule_stands_on_is_refused_with_the_loads_name(signed):
    """No path of the document stands in a refusal."""
    client = signed("jon")
    found = draft(client)
    version, mode = str(found["version"]), found["plan"]["modes"][0]["id"]
    for kind, part in (("schedule", "night_block"), ("mode", mode), ("condition", "away")):
        gone = {"part_kind": kind, "part_id": part, "version": version}
        refused = client.post(f"{RULE}/house/remove", data=gone)
        assert refused.status_code == 422, kind
        said = re.search(
            r'(?s)(?:id="refusal"|role="alert")[^>]*>(.*?)</(?:p|section)>', refused.text
        )
        assert said, kind
        assert "/rules/" not in said[1]
        assert "/conditions/" not in said[1]
    schedule = {"part_kind": "schedule", "part_id": "night_block", "version": version}
    refused = client.post(f"{RULE}/house/remove", data=schedule)
    assert "A rule of " in refused.text
