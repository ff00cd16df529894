"""Pins dealt beside the pages: done, stopped, refused, or left to the next server."""

import threading

import pytest
from benchmarks.large_house import large_house
from sqlalchemy import select
from tests.core.houses import built

from aldea.core.base.errors import ConflictError
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.document import Plan
from aldea.demo.recorded import END_MS
from aldea.jobs import assign_pins
from aldea.jobs.assign_pins import assign_house
from aldea.jobs.queue import ASSIGN_PINS, defer, waits
from aldea.jobs.sweeping import sweep
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.assign_runs import (
    AssignRun,
    begin_assigning,
    end_assigning,
    find_assigning,
    want_assigning_stopped,
    working_run,
)
from aldea.store.drafts import Draft, keep_draft, read_draft
from aldea.store.houses import log_entries


@pytest.fixture
def house(database):
    """The demo's database: its house, and the person who builds it."""

    class House:
        def __init__(self) -> None:
            with database.begin() as connection:
                self.id = int(connection.scalar(select(t.house.c.id)))
                row = connection.execute(select(t.account).where(t.account.c.name == "jon")).one()
            self.by = Account(id=row.id, name=row.name)

        def draft(self) -> Draft:
            with database.begin() as connection:
                return read_draft(connection, self.id)

        def plan(self, plan: Plan) -> None:
            with database.begin() as connection:
                version = read_draft(connection, self.id).version
                keep_draft(
                    connection, self.id, plan, version_read=version, by=self.by, at_ms=END_MS
                )

        def begin(self, *, redeal: bool = False) -> int:
            with database.begin() as connection:
                version = read_draft(connection, self.id).version
                return begin_assigning(
                    connection, self.id, by=self.by, version_read=version, redeal=redeal,
                    at_ms=END_MS,
                )  # fmt: skip

        def run(self, run_id: int) -> AssignRun:
            with database.begin() as connection:
                return find_assigning(connection, run_id, self.id)

        def waits(self, run_id: int) -> bool:
            with database.begin() as connection:
                return waits(connection, "assign", run_id)

    return House()


def test_pins_are_one_step_of_the_draft_and_one_line_of_the_log(database, house):
    house.plan(large_house())
    before = house.draft()
    run_id = house.begin()
    assign_house(database, run_id)
    after = house.draft()
    assert house.run(run_id).state == "done"
    assert (before.plan.assignments, after.version) == ((), before.version + 1)
    assert len(after.plan.assignments) > 300
    assert after.undo == "pins assigned"
    with database.begin() as connection:
        assert log_entries(connection, house.id, 1)[0].what == "pins assigned."
        assert working_run(connection, house.id) is None


def test_what_takes_longer_than_a_page_waits_in_the_queue_and_is_done_there(database, house):
    house.plan(large_house())
    run_id = house.begin()
    assign_house(database, run_id, seconds=0.0)
    assert (house.run(run_id).state, house.waits(run_id)) == ("working", True)
    with pytest.raises(ConflictError, match="Wait for the result, or stop it"):
        house.begin()
    assert house.draft().plan.assignments == ()
    assign_house(database, run_id)
    assert house.run(run_id).state == "done"


def test_stop_ends_it_while_it_is_worked_at_and_changes_nothing(database, house, monkeypatch):
    """Pressed after the first thing it told, however far it is by then."""
    monkeypatch.setattr(assign_pins, "SECONDS_BETWEEN_TELLING", 0.0)
    house.plan(built([ContactSensor()] * 800, 0, ["wifi_38"] * 42))
    before = house.draft()
    run_id = house.begin()
    working = threading.Thread(target=assign_house, args=(database, run_id))
    working.start()
    while house.run(run_id).done_share == 0.0 and working.is_alive():
        pass
    assert 0.0 < house.run(run_id).done_share < 1.0
    assert "cleanest pins" in house.run(run_id).doing
    with database.begin() as connection:
        want_assigning_stopped(connection, run_id)
    working.join()
    assert house.run(run_id).state == "stopped"
    assert house.draft() == before


def test_a_conflict_and_a_refusal_are_kept_with_the_run(database, house):
    house.plan(built([Thermistor()] * 7, 0, ["wifi_38"]))
    run_id = house.begin()
    assign_house(database, run_id)
    run = house.run(run_id)
    assert run.state == "refused"
    assert len(run.conflict.conflict) == 7
    assert "put in a board" in run.conflict.fix
    house.plan(built([Thermistor()] * 60, 0, ["wifi_38"]))
    run_id = house.begin()
    assign_house(database, run_id)
    assert house.run(run_id).refusal.startswith("60 lines without a pin")


def test_what_was_changed_meanwhile_stays_beside_the_pins_or_refuses_them(database, house):
    plan = built([ContactSensor()] * 3, 1, ["wifi_38"])
    house.plan(plan)
    run_id = house.begin()
    renamed = plan.places[0].model_copy(update={"name": "Attic"})
    house.plan(plan.model_copy(update={"places": (renamed, *plan.places[1:])}))
    assign_house(database, run_id)
    assert house.run(run_id).state == "done"
    kept = house.draft().plan
    assert kept.places[0].name == "Attic"
    assert len(kept.assignments) == 4

    house.plan(plan)
    run_id = house.begin()
    house.plan(plan.model_copy(update={"probes": plan.probes[:-1]}))
    assign_house(database, run_id)
    assert house.run(run_id).state == "refused"
    assert "Assign again" in house.run(run_id).refusal
    assert house.draft().plan.assignments == ()


def test_a_run_whose_server_died_is_released_and_one_that_waits_is_not(database, house, tmp_path):
    dead = house.begin()
    sweep(database, tmp_path, END_MS)
    assert house.run(dead).state == "refused"
    assert "Start it again" in house.run(dead).refusal
    waiting = house.begin()
    with database.begin() as connection:
        defer(connection, ASSIGN_PINS, waiting)
    sweep(database, tmp_path, END_MS)
    assert house.run(waiting).state == "working"
    with database.begin() as connection:
        end_assigning(connection, waiting, "stopped")
    assign_house(database, waiting)
    assert house.run(waiting).state == "stopped", "what ended before its turn came is not begun"
