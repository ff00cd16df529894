"""docs/rules.md: every block is read, put into a plan and said as the page says it."""

import json
import re
from pathlib import Path
from typing import Any, get_args

import pytest
from pydantic import TypeAdapter
from tests.core.plans import one_band

from aldea.core.plan.conditions import Always, Condition, NamedCondition
from aldea.core.plan.document import Load, Probe, Rule
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.core.plan.schedules import Schedule, Window
from aldea.core.words.conditions import condition_words, one_line
from aldea.core.words.rules import rule_sentence

PAGE = (Path(__file__).resolve().parents[3] / "docs/rules.md").read_text()
ROWS = re.findall(r"^\| [^|]+ \| `(\{.*\})` \| (.+) \|$", PAGE, re.MULTILINE)
CONDITION: TypeAdapter[Any] = TypeAdapter(Condition)


def a_plan():
    plan = one_band()
    base = plan.probes[0].model_dump()

    def probe(key: str, name: str, quantity: str) -> Probe:
        wide = {"low": 0.0, "high": 2000.0}
        return Probe.model_validate(
            {**base, "id": key, "name": name, "quantity": quantity, "range": wide}
        )

    probes = (
        ("rh_2", "Other RH", "relative_humidity"), ("light", "Light", "illuminance"),
        ("tape", "Tape", "leak"), ("seen", "Stair", "presence"), ("door", "Door", "position"),
        ("gas", "Gas", "gas_hint"),
    )  # fmt: skip
    lamp = Load(id="lamp", name="Lamp", place="room", load_class="light")
    return plan.model_copy(
        update={
            "probes": (*plan.probes, *(probe(*row) for row in probes)),
            "loads": (*plan.loads, lamp),
            "modes": (Mode(id="house", name="House", values=("lived in", "away")),),
            "schedules": (
                Schedule(id="night", name="Night", windows=(Window(start="22:30", end="07:00"),)),
            ),
            "doorways": (Doorway(id="hall", name="Hall", outer="seen", inner="door"),),
            "conditions": (NamedCondition(id="wet", name="Too wet", condition=Always()),),
        }
    )


@pytest.mark.parametrize(("written", "said"), ROWS, ids=[said for _, said in ROWS])
def test_each_row_of_the_page_is_what_the_program_says(written, said):
    condition = CONDITION.validate_json(written)
    assert one_line(condition_words(a_plan(), condition)) == said


def test_the_page_has_every_kind():
    kinds = {json.loads(written)["kind"] for written, _ in ROWS}
    models: list[Any] = list(get_args(get_args(Condition)[0]))
    there = {k for model in models for k in model.model_fields["kind"].annotation.__args__}
    assert kinds == there


def test_the_rule_of_the_page():
    written = re.search(r"^`(\{\"id\".*\})` reads$", PAGE, re.MULTILINE)
    assert written
    rule = Rule.model_validate_json(written[1])
    assert f"*{rule_sentence(a_plan(), rule)}*" in PAGE
