"""Drafts found by the digest of their text: what another process wrote is seen at once."""

from sqlalchemy import update
from tests.store.test_store import demo_house

from aldea.core.plan.text import plan_sha256, plan_text
from aldea.store import tables as t
from aldea.store.documents import document_of, known_document
from aldea.store.drafts import read_draft


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
