"""The decisions that no shared case names, each by a case of our own, worked out by hand.

The rest are named by the shared cases themselves; together they leave none out.
"""

import json
import re

import pytest
from tests.core.engine.cases.running import run_case
from tests.core.engine.runs import ENGINES
from tests.core.engine.test_engine_cases import OWN, alike, in_order

RELAY = {"contact": "NO", "active": "high", "boot_level": 0}
DECISIONS = range(1, 90)


def lamp(**fields):
    return {"kind": "relay", "relay": "R1", "claims": [], "return": "decide", **fields}


def ours(why, expected, *, until_s=12, relays=("R1",), **case):
    return {
        "name": why.split(":")[0],
        "why": why,
        "scan_ms": 1000,
        "until_ms": until_s * 1000,
        "relays": {relay: dict(RELAY, **case.pop(relay, {})) for relay in relays},
        "observe": list(expected),
        "expected": expected,
        **case,
    }


HAND = {"hand": ["lamp"], "want": "on"}
LAWS = [
    ours(
        "D3: a time runs on time since boot; setting the clock moves none but what reads it",
        {"events": [[1000, "lamp", "off", "on", "hand/ana", None],
                    [6000, "lamp", "on", "off", "rest/rest", None]]},
        loads={"lamp": lamp()},
        messages=[[1000, "page", "ana", {**HAND, "school": "time", "for_ms": 5000}]],
        clock=[[2000, 900_000], [3000, 0]],
    ),
    ours(
        "D4: samples before people, people before conditions, conditions before the say",
        {"events": [[2000, "lamp", "off", "on", "demand/away", None]]},
        until_s=4,
        modes={"m": {"values": ["home", "away"]}},
        probes={"p": {}},
        samples={"p": [[0, 10], [2000, 30]]},
        loads={"lamp": lamp(claims=[{
            "id": "away", "level": "demand", "want": "on",
            "when": {"is": "all", "of": [{"is": "mode", "mode": "m", "value": "away"},
                                         {"is": "above", "probe": "p", "value": 20}]}}])},
        messages=[[2000, "page", "ana", {"mode": "m", "set": "away"}]],
    ),
    ours(
        "D8: a sample that is nothing is no sample, so silence goes on",
        {"quality": [[0, "p", "good"], [5000, "p", "stale"]]},
        until_s=7,
        relays=(),
        probes={"p": {"stale_ms": 5000}},
        samples={"p": [[0, 20], [3000, None]]},
    ),
    ours(
        "D24: in one level the first active claim decides, even where it wants off",
        {"deciders": [[0, "lamp", "demand/no", "off"], [4000, "lamp", "demand/yes", "on"]]},
        until_s=6,
        levels={"key": [[0, True], [4000, False]]},
        loads={"lamp": lamp(claims=[
            {"id": "no", "level": "demand", "want": "off",
             "when": {"is": "contact", "input": "key"}},
            {"id": "yes", "level": "demand", "want": "on", "when": {"is": "always"}}])},
    ),
    ours(
        "D27: a load has one hand claim; a later command of whatever source replaces it",
        {"events": [[1000, "lamp", "off", "on", "hand/ana", None],
                    [3000, "lamp", "on", "off", "hand/bo", None],
                    [5000, "lamp", "off", "on", "hand/key", None],
                    [6000, "lamp", "on", "off", "rest/rest", None]]},
        loads={"lamp": lamp(hand={"school": "given_back"})},
        levels={"key": [[5000, True]]},
        buttons={"key": {"input": "key", "short": HAND}},
        messages=[[1000, "page", "ana", HAND],
                  [3000, "page", "bo", {"hand": ["lamp"], "want": "off"}],
                  [6000, "page", "ana", {"give_back": ["lamp"]}]],
    ),
    ours(
        "D30: a hand claim that is not heard runs on and may end unheard",
        {"deciders": [[0, "lamp", "interlock/lock", "off"], [6000, "lamp", "rest/rest", "off"]]},
        until_s=8,
        levels={"lock": [[0, True], [6000, False]]},
        loads={"lamp": lamp(claims=[{"id": "lock", "level": "interlock", "want": "off",
                                     "when": {"is": "contact", "input": "lock"}}])},
        messages=[[1000, "page", "ana", {**HAND, "school": "time", "for_ms": 3000}]],
    ),
    ours(
        "D36: toggle wants the opposite of the state at the end of the scan before; of a step, off",
        {"events": [[1000, "fan", "off", "step 1", "hand/ana", None],
                    [2000, "fan", "step 1", "step 2", "hand/ana", None],
                    [4000, "fan", "step 2", "off", "hand/ana", None]]},
        relays=("R1", "R2"),
        loads={"fan": {"kind": "stepped", "steps": {"1": ["R1"], "2": ["R1", "R2"]}, "claims": [],
                       "hand": {"school": "given_back"}}},
        messages=[[1000, "page", "ana", {"toggle": ["fan"]}],
                  [2000, "page", "ana", {"step": "fan", "by": 1}],
                  [4000, "page", "ana", {"toggle": ["fan"]}]],
    ),
    ours(
        "D41: outer first is in, inner first is out but not below none, both at once is no order",
        {"events": [[2000, "lamp", "off", "on", "demand/in", None],
                    [6000, "lamp", "on", "off", "rest/rest", None]]},
        until_s=14,
        levels={"o": [[1000, True], [3000, False], [6000, True], [7000, False], [9000, True]],
                "i": [[2000, True], [3000, False], [5000, True], [7000, False], [9000, True]]},
        doorways={"d": {"outer": "o", "inner": "i", "within_ms": 3000}},
        loads={"lamp": lamp(claims=[{"id": "in", "level": "demand", "want": "on", "when": {
            "is": "count_above", "doorway": "d", "value": 0}}])},
    ),
    ours(
        "D65: without power a line has no level; from return to the first scan the boot level",
        {"lines": [[0, "R1", 1], [2500, "R1", None], [4200, "R1", 1], [6000, "R1", 0],
                   [7000, "R1", 1]]},
        until_s=8,
        R1={"boot_level": 1},
        levels={"off": [[0, False], [5000, True], [7000, False]]},
        power=[{"cut": 2500, "return": 4200, "boot_ms": 1000}],
        loads={"lamp": lamp(claims=[{"id": "on", "level": "demand", "want": "on", "when": {
            "is": "contact", "input": "off", "value": False}}])},
    ),
]  # fmt: skip


@pytest.mark.parametrize("engine", ENGINES)
@pytest.mark.parametrize("case", LAWS, ids=[case["name"] for case in LAWS])
def test_a_decision_holds(case, engine):
    found = run_case(case, **ENGINES[engine])
    for channel, wanted in case["expected"].items():
        got = in_order(found[channel])
        assert alike(got, in_order(wanted)), f"{case['why']}\n got {got}\nwant {wanted}"


def test_every_decision_is_named_by_a_case():
    shared = json.loads(OWN.read_text())["cases"]
    named = {
        int(number)
        for case in (*shared, *LAWS)
        for number in re.findall(r"\bD(\d+)", f"{case['why']} {case.get('note') or ''}")
    }
    assert set(DECISIONS) <= named
