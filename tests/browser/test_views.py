"""Every view of every bench, as the registry lists them: whole and accessible."""

import pytest
from tests.browser.conftest import without_errors
from tests.browser.driving import HOUSE, bring_cookie, settle, sign_in
from tests.browser.looking import faults, faults_on_a_phone, serious
from tests.web.benches.calibrate.recordings.recorded import MILL, bench_at

from aldea.web.registry import BENCHES

pytestmark = [pytest.mark.browser, pytest.mark.reads]
# A view that begins with two strokes stands beside the houses, not in one.
VIEWS = [
    view[1:] if view.startswith("//") else HOUSE + view for bench in BENCHES for view in bench.views
]
WITH_FINDINGS = (
    f"{bench_at('detective', 'studio_temp')}?counts=1800&known_degc=20&expanded_k=0.3",
    f"{bench_at('difference', 'drying_temp')}?pairs=20.0+20.31%0A20.1+20.39%0A20.2+20.52",
    f"{bench_at('filters', 'drying_rh')}?window=9",
    f"{bench_at('curve', 'studio_temp')}?points=0+32650%0A25+10000%0A50+3603%0A10+19900",
)


@pytest.fixture(scope="module")
def visit(browser, browser_context_args):
    """One visit for all views: what is loaded and who has signed in is kept from page to page."""
    context = browser.new_context(**browser_context_args)
    yield context
    context.close()


@pytest.fixture
def page(visit):
    with without_errors(visit.new_page()) as page:
        yield page
    page.close()


PALE = """<!doctype html><html lang="en"><title>Pale</title><style>
  body { background: #fff; color: #555 } p { margin: 20px; width: 200px } .dark { background: #777 }
  .over { position: absolute; left: 0; top: 300px; width: 240px; height: 30px; background: #666 }
  .low { position: absolute; left: 20px; top: 300px; margin: 0; z-index: 1 } .pale { color: #bbb }
</style><main><h1>Texts</h1><p>one</p><p>two</p>%s<p>three</p><p>four</p></main></html>"""


@pytest.mark.parametrize(
    "odd",
    [
        '<p class="pale">pale</p>',
        '<div class="dark"><p>on a darker ground</p></div>',
        '<div class="over"></div><p class="low">on no parent</p>',
    ],
)
def test_a_text_that_is_hard_to_read_is_found_among_others_and_found_again(page, odd):
    page.set_content(PALE % "")
    assert serious(page) == []
    for _ in range(2):
        page.set_content(PALE % odd)
        found = serious(page)
        assert len(found) == 1
        assert found[0].startswith("color-contrast")


@pytest.mark.parametrize("path", [*VIEWS, *WITH_FINDINGS])
def test_every_view_is_whole_and_accessible(page, base, path):
    """No serious finding of axe, nothing cut, overlapping or under 11 px, no page that scrolls."""
    page.emulate_media(color_scheme="light")
    if path == "/sign-in":
        page.context.clear_cookies()
    elif not bring_cookie(page, base, "jon"):
        sign_in(page, base, "jon")
    page.goto(base + path)
    settle(page)
    assert page.url == base + path
    assert faults(page) == []
    assert faults_on_a_phone(page) == []


def test_a_bench_that_is_made_for_a_wider_screen_says_so_on_a_phone(page, base):
    """House, Record and Calibrate are made for a phone; each other one says that it is not."""
    sign_in(page, base, "jon")
    made_for_it = {"house", "calibrate", "record"}
    before = page.viewport_size
    for bench in BENCHES:
        if not bench.digit:
            continue
        page.goto(base + HOUSE + bench.path)
        told = page.locator(".on-phone")
        assert not any(one.is_visible() for one in told.all()), bench.key
        page.set_viewport_size({"width": 390, "height": 844})
        words = [one.inner_text() for one in told.all() if one.is_visible()]
        page.set_viewport_size(before)
        assert bool(words) is (bench.key not in made_for_it), bench.key
        assert all("wider screen" in one for one in words)


@pytest.mark.parametrize(("key", "subject"), MILL)
def test_every_recording_opened_again_is_whole_and_accessible(page, base, key, subject):
    page.emulate_media(color_scheme="light")
    sign_in(page, base, "jon")
    page.goto(base + bench_at(key, subject))
    page.locator("#recordings a").first.click()
    settle(page)
    assert faults(page) == []
