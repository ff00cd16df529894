"""Every field of every form takes each odd value once: no 500, and nothing typed is lost."""

import re
from html import unescape

import pytest
from tests.web.pages import H, draft

ODD = ("x" * 81, "a\x00b", "²", "1e400", "-0", "🦊", "", "-1", "NaN", "9" * 30)
SHOWN_AGAIN = ("x" * 81, "²", "1e400", "🦊", "NaN", "9" * 30)
# A form: the page that shows it, the id of the form, where it is sent.
FORMS: list[tuple[str, str, str]] = [
    *((f"/layout?add={kind}", "part-form", "/layout/part")
      for kind in ("place", "supply", "board", "probe", "load", "control")),
    *((f"/layout?part={part}", "part-form", "/layout/part")
      for part in ("load:extractor", "load:skylight", "load:night_lights", "load:inlet_valve",
                   "probe:manifold_tape", "probe:stair_light", "control:step_selector", "house")),
    *((f"/rule?load={load}&add={kind}", "rule-form", "/rule/rule")
      for load, kind in (("store_fan", "band"), ("store_fan", "rate"), ("panel_heater", "probe"),
                         ("extractor", "above"), ("night_lights", "dark"))),
    ("/rule?load=extractor&rule=ex_steam", "rule-form", "/rule/rule"),
    ("/rule/failsafe?load=panel_heater", "failsafe-form", "/rule/failsafe"),
    *((f"/rule/house?part={part}:", "", "/rule/house")
      for part in ("schedule", "mode", "doorway", "signal", "condition", "exclusive", "memory")),
]  # fmt: skip
HIDDEN = {"form_token", "version", "part_kind", "part_id", "load", "rule", "begun", "back",
          "form_of", "by_probe", "deep", "rows", "shown"}  # fmt: skip


def form_of(page: str, form_id: str) -> dict[str, str]:
    """The fields of a form as the page has them."""
    start = f'id="{form_id}"' if form_id else 'action="/h/molino-alto/rule/house"'
    form = page.split(start, 1)[1].split("</form>", maxsplit=1)[0]
    found = {}
    for tag in re.findall(r"<input[^>]*>", form):
        name = re.search(r'name="([^"]+)"', tag)
        box = 'type="checkbox"' in tag and "checked" not in tag
        if name and not box and 'type="file"' not in tag:
            value = re.search(r'value="([^"]*)"', tag)
            found[name[1]] = unescape(value[1]) if value else ""
    for name, text in re.findall(r'<textarea[^>]*name="([^"]+)"[^>]*>(.*?)</textarea>', form, re.S):
        found[name] = unescape(text)
    for name, body in re.findall(r'<select[^>]*name="([^"]+)"[^>]*>(.*?)</select>', form, re.S):
        chosen = re.search(r'<option value="([^"]*)"[^>]*selected', body)
        options = re.findall(r'<option value="([^"]*)"', body)
        found[name] = unescape(chosen[1] if chosen else options[0] if options else "")
    return found


@pytest.mark.repeats
@pytest.mark.parametrize(("page", "form_id", "where"), FORMS, ids=[form[0] for form in FORMS])
def test_every_field_takes_each_odd_value(signed, page, form_id, where):
    """Each value in all fields at once, and the longest name in each field by itself."""
    client = signed("jon")
    shown = client.get(f"{H}{page}").text
    form = form_of(shown, form_id)
    picked = r'<(?:select|input type="checkbox")[^>]*name="([^"]+)"'
    choices = set(re.findall(picked, shown))
    typed = [name for name in form if name not in HIDDEN]
    assert typed
    trials = [(dict.fromkeys(typed, value), value) for value in ODD]
    trials += [({name: ODD[0]}, ODD[0]) for name in typed if name not in choices]
    version = str(draft(client)["version"])
    for odd, value in trials:
        answer = client.post(f"{H}{where}", data={**form, **odd, "version": version})
        told = f"{', '.join(odd)[:60]} = {value[:12]!r}: {answer.status_code}"
        assert answer.status_code in (303, 409, 422), told
        if answer.status_code == 303:
            undo = {"version": str(draft(client)["version"]), "back": f"{H}/layout"}
            client.post(f"{H}/draft/undo", data=undo)
            version = str(draft(client)["version"])
        elif value in SHOWN_AGAIN and not choices.issuperset(odd):
            assert value in unescape(answer.text), f"{told}, what was typed is gone"
