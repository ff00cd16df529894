"""Every edit of a draft is a step: taken back, done again, cut off by a new one."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import func, select
from tests.store.test_store import demo_house, jon

from aldea.core.base.errors import InputError
from aldea.demo.mill import mill_plan
from aldea.store import drafts
from aldea.store import tables as t
from aldea.store.drafts import DraftMovedError, keep_draft, plan_at, read_draft, step_draft


def edited(connection, house, account, on: float):
    draft = read_draft(connection, house)
    return keep_draft(
        connection,
        house,
        mill_plan(on=on),
        version_read=draft.version,
        by=account,
        at_ms=0,
        what=f"on at {on:g}",
    )


def on_threshold(plan):
    """What an edit of these tests changes."""
    return next(rule.band.on_threshold for rule in plan.rules if rule.load == "dehumidifier")


def stepped(connection, house, account, direction):
    version = read_draft(connection, house).version
    return step_draft(connection, house, direction, version_read=version, by=account, at_ms=0)


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(moves=st.lists(st.sampled_from(("edit", "undo", "redo")), max_size=14))
def test_undo_and_redo_are_a_line_with_one_place_on_it(module_database, moves):
    """Against a plain list: after any moves the draft is what the list says."""
    with module_database.begin() as connection:
        house, account = demo_house(connection), jon(connection)
        edited(connection, house, account, 61.0)
        line, at = [read_draft(connection, house).text], 0
        first_step = read_draft(connection, house).step
        for number, move in enumerate(moves):
            before = read_draft(connection, house)
            if move == "edit":
                draft = edited(connection, house, account, 62.0 + number / 10)
                line, at = [*line[: at + 1], draft.text], at + 1
            elif move == "undo" and at > 0:
                draft, at = stepped(connection, house, account, -1), at - 1
            elif move == "redo" and at < len(line) - 1:
                draft, at = stepped(connection, house, account, 1), at + 1
            else:
                continue
            assert draft.text == line[at]
            assert draft.version == before.version + 1, "a step is a version that others see"
            assert draft.step == first_step + at
            assert (draft.redo is not None) == (at < len(line) - 1)


def test_there_is_nothing_beyond_the_ends(module_database):
    with module_database.begin() as connection:
        house, account = demo_house(connection), jon(connection)
        edited(connection, house, account, 64.0)
        with pytest.raises(InputError, match="nothing to redo"):
            stepped(connection, house, account, 1)
        while read_draft(connection, house).undo is not None:
            stepped(connection, house, account, -1)
        with pytest.raises(InputError, match="nothing to undo"):
            stepped(connection, house, account, -1)
        version = read_draft(connection, house).version
        with pytest.raises(DraftMovedError):
            step_draft(connection, house, 1, version_read=version - 1, by=account, at_ms=0)


def test_so_many_edits_can_be_taken_back_and_no_more_are_kept(module_database, monkeypatch):
    """What the draft is now, and as many steps before it as are promised: two hundred."""
    assert drafts.MOST_STEPS == 200
    monkeypatch.setattr(drafts, "MOST_STEPS", 6)
    with module_database.begin() as connection:
        house, account = demo_house(connection), jon(connection)
        for number in range(9):
            edited(connection, house, account, 60.0 + number / 10)
        steps = connection.scalar(
            select(func.count()).select_from(t.plan_step).where(t.plan_step.c.house_id == house)
        )
        assert steps == 7
        back = 0
        while read_draft(connection, house).undo is not None:
            stepped(connection, house, account, -1)
            back += 1
        assert back == 6


@settings(
    max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(moves=st.lists(st.sampled_from(("edit", "undo", "redo")), min_size=3, max_size=12))
def test_the_plan_at_a_version_is_what_was_read_at_it_or_a_refusal(module_database, moves):
    """Also after an undo and a new edit, which takes the place of the step that was cut off."""
    seen: dict[int, float] = {}
    with module_database.begin() as connection:
        house, account = demo_house(connection), jon(connection)
        edited(connection, house, account, 60.0)
        for number, move in enumerate(moves):
            try:
                if move == "edit":
                    edited(connection, house, account, 60.5 + number / 4)
                else:
                    stepped(connection, house, account, -1 if move == "undo" else 1)
            except InputError:
                continue  # nothing to undo, or nothing to do again
            now = read_draft(connection, house)
            seen[now.version] = on_threshold(now.plan)
            for version, value in seen.items():
                try:
                    at = plan_at(connection, house, version, now)
                except DraftMovedError:
                    continue
                assert on_threshold(at) == value, (version, now.version)
