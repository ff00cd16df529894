"""What is wrong with the look of a page: axe, and what is small, cut, overlapping or scrolls."""

from collections.abc import Mapping
from pathlib import Path

from axe_playwright_python.base import AXE_SCRIPT
from playwright.sync_api import Page

LOOK = Path(__file__).with_name("look.js").read_text().split("\n", 1)[1]
KINDS_OF_TEXT = Path(__file__).with_name("kinds_of_text.js").read_text().split("\n", 2)[2]
CONTRAST = "color-contrast"
# What axe calls moderate at worst is no finding here: it need not be looked for.
MODERATE = (
    *("region", "heading-order", "page-has-heading-one", "hidden-content", "skip-link"),
    *("landmark-banner-is-top-level", "landmark-complementary-is-top-level"),
    *("landmark-contentinfo-is-top-level", "landmark-main-is-top-level"),
    *("landmark-no-duplicate-banner", "landmark-no-duplicate-contentinfo"),
    *("landmark-no-duplicate-main", "landmark-one-main", "landmark-unique"),
    *("form-field-multiple-labels", "image-redundant-alt", "empty-heading"),
)
_readable: set[str] = set()  # kinds of text that axe found readable, on whatever page


def serious(page: Page) -> list[str]:
    """What axe calls serious or worse; of contrast, what it says of kinds of text that are new."""
    others = {"rules": {rule: {"enabled": False} for rule in (CONTRAST, *MODERATE)}}
    return _found(page, None, others) + unreadable(page)


def unreadable(page: Page) -> list[str]:
    """What axe says of the contrast of each kind of text that it has not found readable before."""
    new = page.evaluate(KINDS_OF_TEXT, [*_readable])
    if not new:
        return []
    found = _found(page, {"include": [["[data-looked-at]"]]}, {"runOnly": [CONTRAST]})
    if not found:
        _readable.update(new)
    return found


def _found(page: Page, where: object, options: Mapping[str, object]) -> list[str]:
    asked = {**options, "resultTypes": ["violations"]}
    if page.evaluate("typeof axe === 'undefined'"):
        page.evaluate(AXE_SCRIPT)
    found = page.evaluate("([where, o]) => axe.run(where ?? document, o)", [where, asked])
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:160]} ({len(v['nodes'])})"
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
    ]


def faults(page: Page) -> list[str]:
    """Everything that is wrong with a page as it stands, in both themes."""
    found = serious(page) + page.evaluate(LOOK)
    # The other theme has the same words in other colours.
    page.evaluate("document.documentElement.dataset.theme = 'dark'")
    return [*found, *unreadable(page)]


NARROWEST_TRACK = 200  # of a timeline that a thumb works
SMALL_WORDS = """() => [...document.querySelectorAll('#wall svg text')].flatMap((text) => {
  const box = text.getBoundingClientRect(), drawn = text.getScreenCTM();
  if (!box.width || !drawn) return [];
  const px = parseFloat(getComputedStyle(text).fontSize) * Math.sqrt(Math.abs(drawn.a * drawn.d));
  return px < 10.9 ? [`${px.toFixed(1)} px: ${text.textContent.trim().slice(0, 30)}`] : [];
})"""


def faults_on_a_phone(page: Page) -> list[str]:
    """What axe says of a page at 390 px in both themes, what is wider than it or too small."""
    before = page.viewport_size
    page.set_viewport_size({"width": 390, "height": 844})
    page.evaluate("document.documentElement.dataset.theme = 'light'")
    found = serious(page)
    page.evaluate("document.documentElement.dataset.theme = 'dark'")
    found += unreadable(page)
    width = page.evaluate(
        "Math.max(document.documentElement.scrollWidth, "
        "document.querySelector('#wall')?.scrollWidth ?? 0)"
    )
    found += page.evaluate(SMALL_WORDS)
    track = page.evaluate("document.querySelector('#track')?.getBoundingClientRect().width ?? 390")
    if track < NARROWEST_TRACK:
        found.append(f"{track} px of timeline")
    assert before is not None
    page.set_viewport_size(before)
    return [*found, *([f"{width} px wide in a window of 390"] if width > 390 else [])]
