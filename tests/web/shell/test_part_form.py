"""The form of every part: read back as it stands, refused at its place."""

import pytest

from aldea.core.base.errors import InputError
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.sensors.models import SENSOR_FACTS
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import COLLECTIONS, part_of, put_part
from aldea.demo.mill import mill_plan
from aldea.web.shell.forms import Fields
from aldea.web.shell.part_form.parts import groups_of
from aldea.web.shell.part_form.reading import new_part, read_part


def typed_of_form(plan: Plan, kind: str, part: object) -> dict[str, str]:
    """A part's form as it stands, sent back as it is."""
    return {f.name: f.value for group in groups_of(plan, kind, part) for f in group.fields}


PARTS = [
    (kind, part.id)
    for kind in ("place", "probe", "load", "control", "board", "supply", "relay")
    for part in getattr(mill_plan(), COLLECTIONS[kind])
]


@pytest.mark.parametrize(("kind", "part_id"), PARTS, ids=[f"{k}:{p}" for k, p in PARTS])
def test_a_form_that_is_sent_as_it_stands_changes_nothing(kind, part_id):
    plan = mill_plan()
    part = part_of(plan, kind, part_id)
    assert read_part(Fields(typed_of_form(plan, kind, part)), plan, kind, part) == part


def test_the_houses_form_gives_back_the_house():
    plan = mill_plan()
    typed = typed_of_form(plan, "house", plan.house)
    assert read_part(Fields(typed), plan, "house", plan.house) == plan.house
    typed["signal"] = "violet"
    assert read_part(Fields(typed), plan, "house", plan.house).colours.signal == "violet"


@pytest.mark.parametrize("kind", LOAD_FACTS)
def test_another_kind_brings_its_own_figures_and_no_others(kind):
    plan = mill_plan()
    load = plan.load("cellar_cooler")
    assert load is not None
    typed = typed_of_form(plan, "load", load) | {"kind": kind}
    made = read_part(Fields(typed), plan, "load", load)
    fresh = new_load(load_id="x", name="X", place="loft", kind=kind)
    for key in ("stepped", "drive", "valve", "two_way", "pattern"):
        assert (getattr(made, key) is None) == (getattr(fresh, key) is None), key
    again = put_part(plan, "load", made)
    assert read_part(Fields(typed_of_form(again, "load", made)), again, "load", made) == made


@pytest.mark.parametrize("way", SENSOR_FACTS)
def test_every_way_of_making_a_probe_can_be_chosen_and_read_back(way):
    quantity = SENSOR_FACTS[way].measures[0]
    plan = mill_plan()
    probe = new_probe(probe_id="fresh", name="Fresh", place="loft", quantity=quantity)
    plan = put_part(plan, "probe", probe)
    typed = typed_of_form(plan, "probe", probe) | {"sensor_kind": way}
    made = read_part(Fields(typed), plan, "probe", probe)
    assert made.sensor is not None
    assert made.sensor.kind == way
    plan = put_part(plan, "probe", made)
    assert read_part(Fields(typed_of_form(plan, "probe", made)), plan, "probe", made) == made


@pytest.mark.parametrize(
    ("kind", "part_id", "field", "typed"),
    [
        ("load", "extractor", "steps", "1 c1"),
        ("load", "extractor", "capacitors", "c1 two"),
        ("load", "extractor", "never_together", "c1"),
        ("load", "extractor", "dead_time_s", "0"),
        ("load", "skylight", "open_contact", "nobody"),
        ("probe", "cellar_rh", "address", "4.5"),
        ("place", "print_studio", "to_m", "-3"),
        ("place", "print_studio", "name", ""),
        ("board", "board_a", "board_type", "nothing"),
        ("supply", "supply_5", "volts", "nan"),
        ("relay", "k1", "rated_a", "0"),
    ],
)
def test_a_wrong_field_is_refused_at_its_place(kind, part_id, field, typed):
    plan = mill_plan()
    part = part_of(plan, kind, part_id)
    fields = Fields(typed_of_form(plan, kind, part) | {field: typed})
    with pytest.raises(InputError):
        read_part(fields, plan, kind, part)
    assert field in fields.errors


@pytest.mark.parametrize("kind", ["place", "load", "probe", "control", "board", "supply"])
def test_a_new_part_has_a_form_that_can_be_kept(kind):
    plan = mill_plan()
    part = new_part(plan, kind, {"name": "Brand new", "place": "loft"})
    typed = typed_of_form(plan, kind, part)
    assert read_part(Fields(typed), plan, kind, part) == part
