"""Every script by itself, in a browser: what each module does, apart from the pages that use it."""

import json

import pytest
from tests.browser.driving import HOUSE, sign_in

from aldea.web.registry import BENCHES
from aldea.web.shell.statics import FOLDER

pytestmark = pytest.mark.browser
SHELL = {f"/static/scripts/{path.name}" for path in (FOLDER / "scripts").glob("*.js")}
OF_BENCHES = {f"/static/benches/{b.key}/{name}" for b in BENCHES for name in b.scripts}
TIMELINE = {"start": 0, "end": 24 * 3_600_000, "now": 48 * 3_600_000, "spans": [3, 12, 24, 48]}


@pytest.fixture
def module(page, base):
    """Evaluate an expression about a module; `m` is what the module gives."""
    page.goto(f"{base}/sign-in")

    def evaluate(path: str, expression: str, argument: object = None) -> object:
        script = f"async (a) => {{ const m = await import('{path}'); return {expression}; }}"
        return page.evaluate(script, argument)

    evaluate.page = page  # type: ignore[attr-defined]
    return evaluate


def test_every_script_is_tested_here():
    tests = " ".join(name for name in globals() if name.startswith("test_"))
    scripts = [path.rsplit("/", 1)[1].removesuffix(".js") for path in SHELL | OF_BENCHES]
    assert [name for name in scripts if f"{name}_js" not in tests] == []


def test_dom_js_lets_the_newest_wish_wait_and_drops_those_between(module):
    ran = module(
        "/static/scripts/dom.js",
        """await (async () => {
          const seen = []; let wish = 0, release;
          const work = () => {
            seen.push(wish);
            return new Promise((done) => { release = done; });
          };
          const run = m.latest(work);
          for (wish = 1; wish < 5; wish += 1) run();
          wish = 4; release(); await new Promise((done) => setTimeout(done, 0)); release();
          return [seen, m.$$("label").length, m.$("label").tagName];
        })()""",
    )
    assert ran == [[1, 4], 2, "LABEL"]


def test_dom_js_tells_a_pointer_let_go_from_a_touch_taken_away(module):
    """A cancelled touch drops nothing, and what comes after it is no longer followed."""
    seen = module(
        "/static/scripts/dom.js",
        """["pointerup", "pointercancel"].map((end) => {
          const seen = [];
          m.followPointer({
            move: () => seen.push("move"),
            drop: () => seen.push("drop"),
            cancel: () => seen.push("cancel"),
          });
          const events = ["pointermove", end, "pointermove", "pointerup"];
          for (const name of events) dispatchEvent(new Event(name));
          return seen;
        })""",
    )
    assert seen == [["move", "drop"], ["move", "cancel"]]


@pytest.mark.parametrize(("t", "row"), [(-1, None), (0, 0), (9, 0), (10, 1), (29, 1), (99, 2)])
def test_instants_js_finds_the_row_of_an_instant(module, t, row):
    rows = [{"s": 0, "i": 0}, {"s": 10, "i": 1}, {"s": 30, "i": 2}]
    found = module("/static/scripts/instants.js", "m.rowAt(a[0], a[1])?.i ?? null", [rows, t])
    assert found == row


def test_instants_js_goes_to_changes_and_other_spans(module):
    rows = [{"s": s, "on": on} for s, on in ((0, 0), (10, 1), (20, 1), (30, 0))]
    found = module(
        "/static/scripts/instants.js",
        "[m.changeFrom(a, 10, 1), m.changeFrom(a, 30, -1), m.changeFrom(a, 30, 1) ?? null]",
        rows,
    )
    assert found == [30, 10, None], "twenty is no change of state"
    hour = 3_600_000
    wider, narrower, ended = (
        module(
            "/static/scripts/instants.js",
            "m.otherSpan(a[0], a[1], a[2])",
            [timeline, 20 * hour, by],
        )
        for timeline, by in ((TIMELINE, 1), (TIMELINE, -1), ({**TIMELINE, "end": 48 * hour}, 1))
    )
    assert wider == {"hours": 48, "end": 44 * hour}
    assert narrower == {"hours": 12, "end": 26 * hour}
    assert ended is None
    clock = module(
        "/static/scripts/instants.js", "m.clockOf([[0, 120], [1761440400000, 60]])(1763037000000)"
    )
    assert clock == "Thu 13 Nov 2025 13:30"


def test_timeline_js_writes_where_the_scrubber_is_into_an_address(module, base):
    page = module.page
    sign_in(page, base, "guest")
    page.goto(f"{base}{HOUSE}?hours=12")
    data = json.loads(page.locator("#timeline-data").text_content() or "")
    page.evaluate(f"import('/static/scripts/timeline.js').then((m) => m.show({data['start']} - 5))")
    query = module("/static/scripts/timeline.js", "m.windowQuery()")
    assert query == f"hours=12&end={data['end']}&at={data['start']}", "never outside the window"
    assert page.locator("#track").get_attribute("aria-valuenow") == str(data["start"])


def test_keys_js_knows_who_types_and_swaps_the_theme(module):
    kinds = module(
        "/static/scripts/keys.js",
        """a.map((html) => {
          const box = document.createElement('div');
          box.innerHTML = html;
          return m.typing(box.firstChild); })""",
        ["<input>", "<input type=checkbox>", "<textarea>", "<select>", "<button>"],
    )
    assert kinds == [True, False, True, True, False]
    themes = module(
        "/static/scripts/keys.js",
        "[0, 0].map(() => { m.swapTheme(); return document.documentElement.dataset.theme; })",
    )
    assert sorted(themes) == ["dark", "light"]


FORM = """document.body.innerHTML = `<form data-keep="x" action="/nowhere" method="post">
  <select name="way"><option>ice</option><option>steam</option></select>
  <p data-when="way=steam"><input name="height"></p>
  <input name="sure" type="checkbox"><input name="secret" type="password" value="p">
  <input name="form_token" type="hidden" value="t"><button>Go</button></form>`;
  const form = document.querySelector("form");"""


def test_choices_js_shows_what_a_choice_asks_for(module):
    seen = module(
        "/static/scripts/choices.js",
        f"""(() => {{ {FORM} const out = []; for (const way of ['ice', 'steam']) {{
          form.elements.way.value = way; m.applyWhen(); out.push(form.querySelector('p').hidden); }}
          return out; }})()""",
    )
    assert seen == [True, False]


def test_keep_js_puts_back_what_was_typed_and_nothing_secret(module):
    found = module(
        "/static/scripts/keep.js",
        f"""(() => {{ {FORM}
          form.elements.way.value = 'steam'; form.elements.height.value = '300';
          form.elements.sure.checked = true; m.keep(form);
          const kept = sessionStorage.getItem(m.keepKey(form));
          form.reset(); let told = 0; form.addEventListener('input', () => {{ told += 1; }});
          m.restore(form); m.restore(form);
          return [JSON.parse(kept), form.elements.height.value, form.elements.sure.checked,
                  form.querySelector('p').hidden, told]; }})()""",
    )
    kept = {"way": "steam", "height": "300", "sure": True}
    assert found == [kept, "300", True, False, 1]


def test_sending_js_says_that_nobody_answers_and_keeps_the_form(module):
    page = module.page
    page.route("**/mark.svg", lambda route: route.abort())
    module("/static/scripts/main.js", "1")
    page.evaluate(f"(() => {{ {FORM} form.elements.height.value = '7'; }})()")
    page.get_by_role("button", name="Go").click()
    page.get_by_text("The server does not answer.").wait_for()
    assert page.url.endswith("/sign-in")
    assert page.locator("[name=height]").input_value() == "7"


def test_span_js_takes_both_directions_as_one_span(module):
    path = "/static/benches/calibrate/span.js"
    for first, second in ((0.25, 0.5), (0.5, 0.25)):
        asked = [first, second]
        assert module(path, "m.spanOf(a[0], a[1], 1000, 2000)", asked) == [1250, 1500]


def test_tune_js_has_an_axis_that_leads_there_and_back(module):
    path = "/static/benches/tune/tune.js"
    facts = {"yLow": 40, "yHigh": 80, "pLow": 366, "pHigh": 6}
    found = module(
        path,
        """(() => { const s = m.scaleOf(a);
          const there = [s.pixel(40), s.pixel(80), s.value(s.pixel(61.3))];
          return [...there, s.inside(-50), s.inside(900), s.perUnit];
        })()""",
        facts,
    )
    assert found == pytest.approx([366, 6, 61.3, 6, 366, 9])
    assert module(path, "[m.number(' −4,5 '), m.rounded(61.249)]") == [-4.5, "61.2"]
    spoken = module(
        path,
        """await (async () => {
          const said = []; let now = 0;
          const later = m.spokenLater(() => `verdict ${now}`, (words) => said.push(words), 40);
          for (now = 1; now <= 5; now += 1) { later(); await new Promise((r) => setTimeout(r, 5)); }
          await new Promise((r) => setTimeout(r, 90));
          return said;
        })()""",
    )
    assert spoken == ["verdict 6"], "of five changes one is read aloud, as it stands then"


def test_layout_js_goes_to_the_room_ahead(module):
    rooms = [
        {"id": "here", "x": 100, "y": 100},
        {"id": "right", "x": 200, "y": 110},
        {"id": "far", "x": 180, "y": 300},
        {"id": "above", "x": 100, "y": 20},
    ]
    found = module(
        "/static/benches/layout/layout.js",
        "[[1, 0], [0, -1], [0, 1], [-1, 0]].map(([x, y]) => m.nearest(a, a[0], x, y)?.id ?? null)",
        rooms,
    )
    assert found == ["right", "above", "far", None]


def test_rule_js_writes_a_drawn_edge_as_a_time_of_the_day(module):
    written = module(
        "/static/benches/rule/rule.js", "a.map(m.clock)", [0, 61, 452.4, 1438, 2000, -4]
    )
    assert written == ["00:00", "01:00", "07:30", "24:00", "24:00", "00:00"]


def test_rule_js_writes_a_dragged_edge_as_its_field_has_it(module):
    written = module(
        "/static/benches/rule/rule.js",
        "a.map((row) => m.dragged(...row))",
        [
            ["22:00", 1320, 1352],
            ["sunset −20", 1000, 1030],
            ["Sunrise", 400, 372],
            ["sunset +15 min", 1000, 985],
        ],
    )
    assert written == ["22:30", "sunset +10", "sunrise −30", "sunset"]


def test_remade_js_finds_what_was_typed_since(module):
    since = module(
        "/static/scripts/remade.js",
        "m.typedSince(a[0], a[1])",
        [{"on": "62", "off": "56"}, {"on": "64", "off": "56", "new": "1"}],
    )
    assert since == {"on": "64", "new": "1"}


def test_remade_js_keeps_a_box_that_was_ticked_meanwhile(module):
    after = module(
        "/static/scripts/remade.js",
        """(() => {
          const box = document.createElement("div");
          const fresh = `<input type="checkbox" name="dry"><input name="on" value="62">
            <input type="radio" name="way" value="in" checked>
            <input type="radio" name="way" value="out">`;
          box.innerHTML = fresh;
          const asked = m.typedIn(box);
          box.children[0].checked = box.children[3].checked = true;
          const since = m.typedSince(asked, m.typedIn(box));
          box.innerHTML = fresh;
          m.typeAgain(box, since);
          return [box.children[0].checked, box.children[1].value, box.children[3].checked];
        })()""",
    )
    assert after == [True, "62", True]


def test_theme_js_and_main_js_are_on_every_page(module):
    page = module.page
    assert page.evaluate("document.documentElement.dataset.theme") in {"light", "dark"}
    assert page.locator('script[src="/static/scripts/main.js"][type=module]').count() == 1


def test_sending_js_takes_another_forms_fields_along_as_they_stand(module):
    """Figures stated beside a form go with it; a field of the form's own is never overwritten."""
    sent = module(
        "/static/scripts/sending.js",
        """(() => {
          document.body.innerHTML = `<form id="stated"><input name="drift" value="1">
            <input name="own" value="no"><input type="checkbox" name="dry" checked></form>
            <form id="take" data-along="#stated">
            <input name="own" value="yes"></form>`;
          const take = document.querySelector("#take");
          m.takeAlong(take);
          document.querySelector("#stated [name=drift]").value = "2";
          document.querySelector("#stated [name=dry]").checked = false; // after a lost try
          m.takeAlong(take);
          return [...new FormData(take)];
        })()""",
    )
    assert sent == [["own", "yes"], ["drift", "2"]]


@pytest.mark.parametrize(
    ("a", "b", "order"),
    [
        ("2", "10", -1), ("−3.5", "−1", -1), ("12\u202f000 kB", "900", 1), ("±0.4 K", "±0.3 K", 1),
        ("Attic", "Barn", -1), ("3", "Attic", -1), ("", "Attic", 1), ("K2", "K10", -1),
        ("13 Nov 2025", "2 Dec 2025", 1), ("same", "same", 0),
    ],
)  # fmt: skip
def test_tables_js_orders_numbers_before_words_and_what_is_empty_last(module, a, b, order):
    found = module("/static/scripts/tables.js", "Math.sign(m.compared(a[0], a[1], false))", [a, b])
    assert found == order
    turned = module("/static/scripts/tables.js", "Math.sign(m.compared(a[0], a[1], true))", [a, b])
    assert turned == (order if "" in (a, b) else -order)


def test_tables_js_sorts_and_filters_a_table_of_the_page(module):
    rows = "".join(f"<tr><th>Probe {i}</th><td>{(i * 7) % 13}</td></tr>" for i in range(13))
    seen = module(
        "/static/scripts/tables.js",
        """(() => {
          document.body.innerHTML = `<table data-sortable><thead><tr><th>Name</th><th>Due</th></tr>
            </thead><tbody>${a}</tbody></table>`;
          m.start();
          const first = () => document.querySelector("tbody tr").cells[1].textContent;
          document.querySelectorAll(".sort")[1].click();
          const up = first();
          document.querySelectorAll(".sort")[1].click();
          const field = document.querySelector(".filter input");
          field.value = "probe 12";
          field.dispatchEvent(new Event("input"));
          return [up, first(), document.querySelectorAll("tbody tr:not([hidden])").length,
                  document.querySelector(".filter span").textContent];
        })()""",
        rows,
    )
    assert seen == ["0", "12", 2, "2 of 13"]


def test_focus_js_finds_an_element_again_by_id_name_or_label(module):
    seen = module(
        "/static/scripts/focus.js",
        """(() => {
          document.body.innerHTML = `<form id="f"><input id="x"><input name="y"></form>
            <button aria-label="Remove K1">Remove</button><a>z</a>`;
          const rule = document.querySelector("button").cloneNode();
          rule.setAttribute("aria-label", 'Disable “x”: all of\\n· "a"\\n· b');
          document.body.append(rule);
          const again = document.querySelector(m.pathOf(rule)) === rule;
          rule.remove();
          const paths = [...document.querySelectorAll("input, button, a")].map(m.pathOf);
          return [again, ...paths];
        })()""",
    )
    assert seen[0] is True, "a label of several lines is found again"
    seen = seen[1:]
    assert seen == ["#x", '#f [name="y"]', '[aria-label="Remove K1"]', None]


def test_start_js_chooses_only_a_zone_of_the_list(module):
    seen = module(
        "/static/benches/houses/start.js",
        """(() => {
          document.body.innerHTML =
            `<select><option>UTC</option><option>Europe/Madrid</option></select>`;
          const select = document.querySelector("select");
          const found = [m.chooseZone(select, "Mars/Base"), m.chooseZone(null, "UTC")];
          return [...found, m.chooseZone(select, "Europe/Madrid"), select.value];
        })()""",
    )
    assert seen == [False, False, True, "Europe/Madrid"]
