"""The paragraph of a house and of a load, as the printed rules begin."""

from aldea.core.words.house_summary import house_summary, load_summary
from aldea.demo.mill import mill_plan

MILL = mill_plan()


def test_a_house_is_summed_up_by_its_parts_and_its_rules():
    told = " ".join(house_summary(MILL))
    trips = sum(r.priority == "trip" and not r.disabled for r in MILL.rules)
    off = sum(r.disabled for r in MILL.rules)
    assert f"{len(MILL.loads)} loads, {len(MILL.probes)} probes and" in told
    assert f"{trips} trips, " in told
    assert f"; {off} disabled." in told
    assert told.endswith("Times are those of Europe/Madrid.")
    none = house_summary(MILL.model_copy(update={"rules": (), "controls": MILL.controls[:1]}))
    assert none[1] == "No rule yet."
    assert "and 1 control in" in none[0]


def test_a_load_is_told_by_its_kind_its_relays_what_its_rules_read_and_its_rest():
    skylight = next(load for load in MILL.loads if load.id == "skylight")
    told = load_summary(MILL, skylight)
    assert told.startswith("Drive by pulses, class motion, "), told
    assert "Without supply it stays where it is." in told
    alone = load_summary(MILL.model_copy(update={"rules": (), "relays": ()}), skylight)
    assert "no relay yet. Without supply" in alone
