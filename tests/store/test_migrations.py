"""An older database comes up to date with what people had written down in it."""

from alembic import command
from alembic.config import Config
from sqlalchemy import text

from aldea.core.plan.text import plan_sha256
from aldea.store.calibrations import open_pairs
from aldea.store.cluster import Cluster
from aldea.store.database import MIGRATIONS, NEWEST, Database, ensure_database

DOCUMENT = '{"house": {"name": "Molino Alto – größer, 10\u202f°C"}}\n'


def upgraded(database: Database, revision: str) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with database.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


def test_pairs_and_drafts_of_an_older_database_are_kept(cluster: Cluster):
    url = cluster.url("older")
    ensure_database(url)
    database = Database(url)
    upgraded(database, "0002")
    with database.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO account (id, name, password_hash, created_ms) "
                "OVERRIDING SYSTEM VALUE VALUES (1, 'jon', 'x', 0)"
            )
        )
        connection.execute(
            text(
                "INSERT INTO house (id, slug, created_ms) "
                "OVERRIDING SYSTEM VALUE VALUES (1, 'mill', 0)"
            )
        )
        connection.execute(
            text(
                "INSERT INTO calibration_pair (house_id, probe, salt, approach, temp_degc, "
                "reference_rh_pct, reference_expanded, reading_rh_pct, taken_by, taken_ms) "
                "VALUES (1, 'rh', 'sodium_chloride', 'wetter', 20, 75.47, 0.12, 74.3, 1, 5)"
            )
        )
        connection.execute(
            text(
                "INSERT INTO plan_draft (house_id, version, document, changed_ms, changed_by) "
                "VALUES (1, 1, :document, 5, 1)"
            ),
            {"document": DOCUMENT},
        )
    database.migrate()
    with database.begin() as connection:
        digest = connection.scalar(text("SELECT sha256 FROM plan_draft"))
        version = connection.scalar(text("SELECT version_num FROM alembic_version"))
        (taken,) = open_pairs(connection, 1, "rh")
    assert version == NEWEST
    assert digest == plan_sha256(DOCUMENT), "a draft is found by the digest of its text"
    assert (taken.pair.medium, taken.pair.approach) == ("sodium_chloride", "wetter")
    assert (taken.pair.reference, taken.pair.reading) == (75.47, 74.3)
    assert taken.pair.detail == ""
    database.migrate()
    database.close()
