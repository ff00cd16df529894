"""Search: every word stands in a name, id or line; names come before sentences."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.words.search import plain_text, search_plan
from aldea.demo.mill import mill_plan

PLAN = mill_plan()


def names(query):
    return [(hit.kind, hit.name) for hit in search_plan(PLAN, query)]


def test_a_name_comes_before_what_only_mentions_it():
    found = names("drying extractor")
    assert found[0] == ("load", "Drying extractor")
    assert all(kind == "rule" for kind, name in found[1:] if name.startswith("Drying extractor:"))
    assert ("place", "Drying room") in names("drying room")


@pytest.mark.parametrize(
    ("query", "kind", "name"),
    [
        ("IO23", "pin", "IO23"),
        ("night", "schedule", "Night block"),
        ("HOUSE", "mode", "House"),
        ("nobody lives", "condition", "Nobody lives here"),
        ("vapour courtyard", "signal", "Courtyard vapour"),
        ("water tape", "rule", "Cistern inlet valve"),
    ],
)
def test_each_kind_is_found_by_a_word_of_it(query, kind, name):
    assert any(k == kind and n.startswith(name) for k, n in names(query)), names(query)


def test_nothing_is_found_for_nothing_and_accents_and_capitals_are_no_matter():
    assert names("") == names("   ") == names("zzzz") == []
    assert plain_text("Séjour É") == "sejour e"


@given(st.text(max_size=30))
def test_any_query_finds_only_what_has_every_word_of_it(query):
    for hit in search_plan(PLAN, query):
        whole = plain_text(f"{hit.name} {hit.line} {hit.id}")
        assert all(word in whole for word in plain_text(query).split())
