"""Which step each version of a draft stood at, so that two people's edits can be put together."""

from alembic import op

revision = "0005"
down_revision = "0004"

CHANGES = """
CREATE TABLE draft_version (
  house_id integer NOT NULL REFERENCES house,
  version integer NOT NULL,
  step integer NOT NULL,
  PRIMARY KEY (house_id, version)
);
INSERT INTO draft_version (house_id, version, step)
  SELECT house_id, version, step FROM plan_draft;
ALTER TABLE plan_draft DROP COLUMN based_on;
"""


def upgrade() -> None:
    """Add the table; every draft there is stands at its own version."""
    op.get_bind().connection.cursor().execute(CHANGES)
