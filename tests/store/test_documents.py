"""Drafts found by the digest of their text: what another process wrote is seen at once."""

from pathlib import Path

import pytest
from sqlalchemy import insert, update
from tests.store.test_store import demo_house

from aldea.core.base.errors import InputError
from aldea.core.plan.text import plan_sha256, plan_text
from aldea.demo.mill import mill_plan
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.documents import document_of, known_document
from aldea.store.drafts import keep_draft, read_draft, step_draft
from aldea.store.revisions import publish, revision

MILL_1 = Path(__file__).parents[1] / "vectors" / "mill-of-version-1.json"


def test_a_text_is_read_once_and_known_by_its_digest(database):
    with database.begin() as connection:
        text = read_draft(connection, demo_house(connection)).text
    other = text.replace("Molino Alto", "Molino Bajo")
    assert known_document(plan_sha256(other)) is None
    document = document_of(other)
    assert document.plan.house.name == "Molino Bajo"
    assert document_of(other) is document
    assert known_document(plan_sha256(other)) is document


def test_what_another_process_keeps_is_what_the_next_page_reads(database):
    with database.begin() as connection:
        house = demo_house(connection)
        before = read_draft(connection, house)
    house_now = before.plan.house.model_copy(update={"name": "Another"})
    text = plan_text(before.plan.model_copy(update={"house": house_now}))
    with database.begin() as connection:
        connection.execute(
            update(t.plan_draft).values(document=text, sha256=plan_sha256(text), version=9)
        )
    with database.begin() as connection:
        after = read_draft(connection, house)
    assert (after.plan.house.name, after.version, after.text) == ("Another", 9, text)


def test_a_database_of_version_1_opens_whole_and_what_was_signed_keeps_its_bytes(database):
    """Draft, steps, revision as the last release wrote them; then an edit, undo, publishing."""
    old = MILL_1.read_text()
    jon = Account(id=1, name="jon")
    with database.begin() as connection:
        house = demo_house(connection)
        version = read_draft(connection, house).version
        signed = {
            "house_id": house,
            "number": 77,
            "author_id": 1,
            "reason": "as it was",
            "at_ms": 1,
        }
        connection.execute(
            insert(t.plan_revision).values(document=old, sha256=plan_sha256(old), **signed)
        )
        for table in (t.plan_draft, t.plan_step):
            where = table.c.house_id == house
            facts = {"sha256": plan_sha256(old)} if table is t.plan_draft else {}
            connection.execute(update(table).where(where).values(document=old, **facts))
    with database.begin() as connection:
        draft = read_draft(connection, house)
        assert draft.plan == mill_plan()
        assert (draft.text, draft.version) == (plan_text(mill_plan()), version)
        found = revision(connection, house, 77)
        assert (found.text, found.sha256) == (old, plan_sha256(old))
        assert found.plan == mill_plan()
        with pytest.raises(InputError, match="the same plan as revision 77"):
            publish(
                connection, house, version_read=version, reason="again", despite="a test",
                by=jon, at_ms=2,
            )  # fmt: skip
        named = draft.plan.house.model_copy(update={"name": "Another"})
        changed = draft.plan.model_copy(update={"house": named})
        kept = keep_draft(connection, house, changed, version_read=version, by=jon, at_ms=3)
        assert kept.plan.house.name == "Another"
        back = step_draft(connection, house, -1, version_read=kept.version, by=jon, at_ms=4)
        assert back.plan == mill_plan()
