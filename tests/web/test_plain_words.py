"""How figures are written on the pages: one way, which a person reads at once."""

import re
from html import unescape

import pytest
from tests.web.pages import H

from aldea.web.registry import BENCHES

pytestmark = [pytest.mark.reads, pytest.mark.watched]
VIEWS = [H + view for bench in BENCHES for view in bench.views if not view.startswith("//")]
# What is no text to read: scripts, what is typed into, what is drawn, codes of many digits.
NOT_READ = re.compile(r"<(script|style|textarea|option|code|title)\b.*?</\1>|<[^>]+>", re.DOTALL)
ODDLY_WRITTEN = {
    "no gap between thousands": re.compile(r"(?<![\w.,−+-])(?<!ISO )[0-9]{5,}(?![\w])"),
    "an exponent": re.compile(r"(?<![\w])[0-9](\.[0-9]+)?e[+-]?[0-9]+(?![\w])"),
    "a hyphen for a minus": re.compile(r"(?<![\w)])-[0-9]"),
    "a word of the code": re.compile(r"(?<![\w/.:])[a-z]+_[a-z_]+(?![\w/.])"),
    "no number": re.compile(r"(?<![\w])(nan|inf|-inf|None(?! [a-z]))(?![\w])"),
}

# Words of before that no page says any more (WORDS.md 2): phrases without another meaning.
OF_BEFORE = re.compile(
    r"\b(claims?|mends?|mended|the rail|has the say|who asks|lets? go|nobody ask(s|ed)|asks again"
    r"|with a gap of|until it is below|given back|is idle|shortest run|longest run|to buy|diary"
    r"|work it out|bring in|brought in|leave it|stands in for|sees somebody|good reading"
    r"|falls silent|strongest first|sister|once each|safety trip|(on|off) mark|closings"
    r"|nothing of its own|would want|is lost|begins? anew)\b",
    re.IGNORECASE,
)


def read(page: str) -> str:
    """What a person reads on a page."""
    return " ".join(unescape(NOT_READ.sub(" ", page)).split(" "))


@pytest.mark.parametrize("path", VIEWS)
def test_figures_on_a_page_are_written_in_one_way(signed, path):
    answer = signed("jon").get(path)
    assert answer.status_code == 200
    text = read(answer.text)
    found = [
        f"{name}: …{text[max(0, one.start() - 40) : one.end() + 20]}…"
        for name, odd in ODDLY_WRITTEN.items()
        if not (name == "a word of the code" and path.endswith("/boards"))  # typed as in its file
        for one in odd.finditer(text)
    ]
    assert found == []


LOADS = ("extractor", "dehumidifier", "inlet_valve", "night_lights", "skylight", "store_fan")
RULES = [
    f"{H}/rule{page}?load={load}" for load in LOADS for page in ("", "/failsafe")
]  # fmt: skip


@pytest.mark.parametrize("path", [*VIEWS, *RULES])
def test_no_page_says_a_word_of_before(signed, path):
    text = read(signed("jon").get(path).text)
    found = [text[max(0, m.start() - 30) : m.end() + 30] for m in OF_BEFORE.finditer(text)]
    assert found == []
