"""Every string that a person may read: trade words, short sentences, verbs on buttons."""

import re

import pytest
from tests.structure.strings import JINJA, SOURCE, TAG, texts
from tests.web.test_plain_words import OF_BEFORE

TEXTS = texts()
LONGEST = 30  # words of a sentence; each item of a list counts by itself
NEVER = re.compile(
    r"\b(please|successfully|oops|e\.g\.|i\.e\.|etc\.|whilst|ere|thereof|[a-z]+n[’']t"
    r"|(it|that|let|there|what|who)[’']s|[a-z]+[’'](re|ll|ve)"
    r"|colors?|behaviors?|gray|centers?|analyze[ds]?|recognize[ds]?|fails? safe|safety trip)\b"
    r"|[a-z]!(\s|$)|does not fit|Wanted:",
    re.IGNORECASE,
)
# The verbs of buttons, and the few signs and nouns that open or turn a page.
VERBS = frozenset(
    [
        "Add",
        "Allow",
        "Assign",
        "Calculate",
        "Cancel",
        "Change",
        "Check",
        "Clear",
        "Close",
        "Compare",
        "Copy",
        "Count",
        "Create",
        "Delete",
        "Disable",
        "Duplicate",
        "Enable",
        "End",
        "Exchange",
        "Export",
        "Feed",
        "Fill",
        "Fit",
        "Import",
        "Issue",
        "Keep",
        "Learn",
        "Listen",
        "Lock",
        "Make",
        "Mark",
        "Move",
        "Open",
        "Paste",
        "Preview",
        "Print",
        "Propose",
        "Publish",
        "Read",
        "Reassign",
        "Record",
        "Redo",
        "Remove",
        "Restore",
        "Save",
        "Search",
        "Set",
        "Show",
        "Sign",
        "Start",
        "Stay",
        "Stop",
        "Store",
        "Turn",
        "Undo",
        "Use",
        "Widen",
        "Withdraw",
        "Write",
    ]
)
OPENING = frozenset({"Benches", "Keys"})
BUTTON = re.compile(r'<button\b(?:[^>"]|"[^"]*")*>(.*?)</button>', re.DOTALL)
CALLED = re.compile(r'\bbutton\(\s*"([^"]+)"(?: if [^,]* else "([^"]+)")?')
PRESS = re.compile(r'\bpress=f?"([^"{]*)')
NOUNS = frozenset({"short", "long", "double"})  # the kinds of press of a button on the wall


def where(texts_found):
    return [f"{text.where}: {text.text[:120]}" for text in texts_found]


def test_the_strings_are_there_to_be_read():
    rooms = {text.room for text in TEXTS}
    assert len(TEXTS) > 3000
    assert {"rule", "wire", "calibrate", "tune", "record", "house", "layout", "cli"} <= rooms


def test_no_string_says_a_word_of_before_or_a_word_of_chat():
    found = [
        text
        for text in TEXTS
        if not text.room.startswith("demo")
        and (OF_BEFORE.search(text.text) or NEVER.search(text.text))
    ]
    assert where(found) == []


def test_no_sentence_is_longer_than_thirty_words():
    found = [
        text
        for text in TEXTS
        if text.room != "demo"
        for sentence in re.split(r"(?<=[.?:;])\s+|\s·\s", text.text)
        if len(re.findall(r"[\w’'…%-]+", sentence)) > LONGEST
    ]
    assert where(found) == []


def labels():
    """Every label of a button in a template, and of a fix that a press carries out."""
    for path in sorted(SOURCE.rglob("*.html")):
        text = path.read_text(encoding="utf-8")
        found = [JINJA.sub(" ", inside) for inside in BUTTON.findall(text)]
        found += [word for pair in CALLED.findall(text) for word in pair if word]
        for inside in found:
            label = " ".join(TAG.sub(" ", inside).split())
            if label and not label.startswith("{{"):
                yield path.name, label
    for path in sorted(SOURCE.rglob("*.py")):
        for label in PRESS.findall(path.read_text(encoding="utf-8")):
            if label.strip() and label not in NOUNS:
                yield path.name, label


def test_every_button_begins_with_a_verb_of_the_list():
    found = [row for row in labels() if row[1].split()[0].strip("…") not in VERBS | OPENING]
    assert found == []


@pytest.mark.parametrize(
    ("text", "caught"),
    [
        ("The marks are reversed; mend them.", True),
        ("Don’t do this", True),
        ("Saved!", True),
        ("Save the thresholds.", False),
    ],
)
def test_the_words_are_caught_where_they_stand(text, caught):
    assert bool(OF_BEFORE.search(text) or NEVER.search(text)) is caught
