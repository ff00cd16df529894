"""What a refusal says: what is there, what is wanted, and nothing of the inside of Aldea."""

import json
import re

import pytest
from pydantic import ValidationError

from aldea.core.base.errors import AldeaError, InputError, NotFoundError, spoken
from aldea.core.base.parts import WORDS_OF_PATTERN
from aldea.core.base.unfit import unfit
from aldea.core.plan.document import House, Plan, Probe, Rule
from aldea.core.plan.schedules import Schedule

OF_THE_INSIDE = re.compile(
    r"Input should|pattern|regex|tuple|\bGot\b|allowed:|valid (string|number)"
)


@pytest.mark.parametrize(
    ("got", "said"),
    [
        ("'wet'", "Enter a number, not “wet”."),
        ('"it\'s"', "Enter a number, not “it's”."),
        (repr("a\x00b\u202e"), "Enter a number, not “a�b�”."),
        (repr("two\nlines"), "Enter a number, not “two lines”."),
        (repr("C:\\x41 \"'"), "Enter a number, not “C:\\x41 \"'”."),
        ("'cut after many lett", "Enter a number, not “cut after many lett…”."),
        ("'", "Enter a number, not “…”."),
        ("''", "Enter a number."),
        ("", "Enter a number."),
        ("nothing", "Enter a number."),
        ("5000 s", "Enter a number, not 5000 s."),
        ("−3.5 °C", "Enter a number, not −3.5 °C."),
        ("no day", "There is no day; needed: a number."),
        ("'door' again", "“door” is already used. Enter a number."),
        ("7 again", "7 is already used. Enter a number."),
        ("3 readings", "Found 3 readings; needed: a number."),
        ("a slope of 3", "Found a slope of 3; needed: a number."),
    ],
)
def test_what_is_there_is_said_as_a_person_says_it(got, said):
    assert spoken(got, "a number") == said


def test_the_whole_message_begins_where_it_is_and_ends_with_the_fix():
    error = InputError("line 3", got="'wet'", allowed="a number", fix="Write 21.5.")
    assert error.sentence == "line 3: Enter a number, not “wet”. Write 21.5."
    assert error.at_field == "Enter a number, not “wet”. Write 21.5."
    whole = AldeaError("pins", text="Wait for it, or stop it.")
    assert whole.sentence == whole.at_field == "Wait for it, or stop it."


def test_what_is_not_there_is_named():
    sentence = NotFoundError("load", got="'attic'", allowed="a load of this house").sentence
    assert sentence == "There is no load “attic” here. Choose a load of this house."
    assert NotFoundError("load", got="none", allowed="one").sentence.startswith("There is no load ")


def test_every_pattern_of_the_plan_has_words():
    patterns = set(
        re.findall(r'"pattern": ("(?:[^"\\]|\\.)*")', json.dumps(Plan.model_json_schema()))
    )
    assert len(patterns) > 10
    without = {json.loads(pattern) for pattern in patterns} - set(WORDS_OF_PATTERN)
    assert not without


@pytest.mark.parametrize(
    ("model", "values", "field", "wanted"),
    [
        (House, {"name": ""}, "name", "at least one character"),
        (House, {"name": "x" * 81}, "name", "up to 80 characters"),
        (House, {"name": "a\x00b"}, "name", "letters and signs that can be seen, on one line"),
        (House, {"name": 5}, "name", "text"),
        (Probe, {"resolution": "fine"}, "resolution", "a number"),
        (Probe, {"resolution": float("inf")}, "resolution", "a finite number"),
        (Probe, {"quantity": "smell"}, "quantity", "temperature"),
        (Probe, {"smell": 1}, "smell", "the keys of"),
        (Rule, {"id": "Not An Id"}, "id", "small letters"),
        (Schedule, {"except_dates": ("tomorrow",)}, "except_dates", "a date, as 2025-12-24"),
        (Schedule, {"for_s": -1.0}, "for_s", "above 0"),
    ],
)
def test_a_rule_of_the_parts_is_said_in_words(model, values, field, wanted):
    with pytest.raises(ValidationError) as refused:
        model.model_validate(values)
    listed = refused.value.errors(include_url=False)
    about = [problem for problem in unfit(listed) if problem.field == field]
    assert about
    assert wanted in about[0].allowed
    for problem in unfit(listed):
        assert not OF_THE_INSIDE.search(spoken(problem.got, problem.allowed))
