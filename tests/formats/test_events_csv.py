"""Every kind of event has its row, in words that a person reads."""

import json
from functools import cache

from tests.core.plans import one_band, samples_of

from aldea.core.devices.loads.indicator.model import Pattern
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.loads.stepped_fan.model import FanStep, SteppedFan
from aldea.core.devices.loads.valve.model import Valve
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Inputs, Message, PowerCut
from aldea.core.engine.replay import run_replay
from aldea.core.plan import conditions as con
from aldea.core.plan.controls import ControlAction
from aldea.core.plan.document import Load, Rule
from aldea.core.plan.house_rules import Mode
from aldea.formats.events_csv import events_csv, lines_csv, retained_lines

BASE = one_band()
FAN = SteppedFan(
    steps=(FanStep(name="1", closed=("a",)), FanStep(name="2", closed=("b",))), never_together=()
)
AWAY = con.InMode(mode="m", value="away")


def load(key, kind, **figures):
    return Load(id=key, name=key, place="room", kind=kind, load_class="light", **figures)


def rule(key, want, *, priority="demand", level=None, condition=AWAY):
    return Rule(
        id=f"c_{key}", load=key, priority=priority, want=want, level=level, condition=condition
    )


PLAN = BASE.model_copy(
    update={
        "loads": (
            load("fan", "relay"),
            load("air", "stepped", stepped=FAN),
            load("bell", "indicator", pattern=Pattern(on_s=5.0, off_s=5.0)),
            load("tap", "valve", valve=Valve()),
            load("hatch", "pulse_drive",
                 drive=PulseDrive(travel_s=5.0, open_contact="up", shut_contact="down")),
        ),
        "rules": (
            rule("fan", "off", priority="trip"),
            rule("air", "step", level=2),
            rule("bell", "pattern", level=1),
            rule("tap", "open"),
            rule("hatch", "open"),
        ),
        "conditions": (con.NamedCondition(id="gone", name="nobody home", condition=AWAY),),
        "modes": (Mode(id="m", name="House", values=("home", "away")),),
    }
)  # fmt: skip


def said(seconds, **want):
    return Message(t_ms=seconds * 1000, author="=ana", wants=(ControlAction(**want),))


@cache
def run():
    return run_replay(
        compile_plan(PLAN, every_probe=True),
        samples_of([(0, 40)]),
        start_ms=0,
        end_ms=40_000,
        boots=True,
        inputs=Inputs(
            levels=[(0, "probe:down", 1), (0, "probe:up", 0)],
            messages=[
                said(2, does="mode", mode="m", value="away"),
                said(4, does="on", load="fan"),
                said(12, does="mode", mode="m"),
                said(14, does="reset", load="fan"),
            ],
            cuts=[PowerCut(from_ms=30_000, to_ms=32_000)],
        ),
    )


def told():
    return [line.split(",") for line in events_csv(run()).splitlines()[1:]]


def rows(kind, who):
    return [(int(row[0][17:19]), *row[3:6]) for row in told() if row[1:3] == [kind, who]]


def changes(who):
    return [(t, was, now) for t, was, now, _ in rows("load", who) if was != now]


def test_a_state_is_told_by_its_kind():
    assert changes("air")[0] == (2, "off", "step 2")
    assert changes("bell")[0] == (2, "off", "pattern 1")
    assert changes("tap")[:2] == [(2, "shut", "open"), (12, "open", "shut")]
    assert changes("hatch")[0] == (2, "shut", "moving")


def test_trips_modes_conditions_boots_and_what_was_missed_have_rows():
    assert rows("trip", "fan") == [
        (2, "", "tripped", "trip: c_fan"),
        (14, "", "reset", "trip: c_fan"),
    ]
    assert rows("mode", "m")[:2] == [(2, "home", "away", "'=ana"), (12, "away", "home", "'=ana")]
    assert [row[1:3] for row in rows("condition", "gone")][:2] == [("no", "no"), ("no", "yes")]
    assert rows("missed", "hatch")[0][2] == "did not arrive"
    assert [(t, was, now) for t, was, now, _ in rows("boot", "panel")] == [
        (0, "defaults", "record 0"),
        (32, "slot A", "record 3"),
    ]
    assert [(t, was, now) for t, was, now, _ in rows("power", "panel")] == [
        (30, "on", "off"),
        (32, "off", "on"),
    ]


def test_who_spoke_with_a_hand_is_named_and_no_formula():
    decided = [row[5] for row in told() if row[1:3] == ["load", "fan"]]
    assert "override: =ana" in decided
    assert not any(cell.startswith("=") for row in told() for cell in row)


def test_lines_have_no_level_without_power():
    lines = [line.split(",") for line in lines_csv(run()).splitlines()[1:]]
    assert ["1970-01-01T00:00:30.000Z", "tap", "on", ""] in lines
    assert ["1970-01-01T00:00:02.000Z", "tap", "on", "1"] in lines


def test_what_is_retained_is_told_by_its_fields():
    first = json.loads(retained_lines(run()).splitlines()[0])
    assert (first["slot"], first["sequence"]) == ("A", 1)
    assert first["fields"] == {"mode:m": 1, "trip:fan/c_fan": 1}
