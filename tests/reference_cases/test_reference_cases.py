"""Every reference case by the adaptor of its family; a family without one is skipped by name."""

import json
from importlib import import_module
from pathlib import Path

import pytest
from tests.reference_cases.cases import ADAPTORS, all_cases, read_cases

for module in sorted((Path(__file__).parent / "adaptors").glob("[a-z]*.py")):
    import_module(f"tests.reference_cases.adaptors.{module.stem}")
CASES = all_cases()


@pytest.mark.parametrize("case", CASES, ids=[case["id"] for case in CASES])
def test_reference_case(case):
    family = case["family"]
    if family not in ADAPTORS:
        pytest.skip(f"family {family}: no function of ours works it out yet")
    for work in ADAPTORS[family]:
        work(case)


def test_every_adaptor_has_a_case():
    assert set(ADAPTORS) <= {case["family"] for case in CASES}


def test_further_files_are_read_in_either_form(tmp_path):
    case = CASES[0]
    for form in ([case], {"held_back": [case]}, {"about": "words", "cases": [case]}):
        path = tmp_path / "further.json"
        path.write_text(json.dumps(form))
        assert read_cases(path) == [case]
