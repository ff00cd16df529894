"""Every edit of a draft is a step that can be taken back and done again."""

from alembic import op

revision = "0002"
down_revision = "0001"

CHANGES = """
CREATE TABLE plan_step (
  house_id integer NOT NULL REFERENCES house,
  step integer NOT NULL,
  document text NOT NULL,
  what text NOT NULL,
  by_id integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL,
  PRIMARY KEY (house_id, step)
);
ALTER TABLE plan_draft ADD COLUMN step integer NOT NULL DEFAULT 0;
INSERT INTO plan_step (house_id, step, document, what, by_id, at_ms)
  SELECT house_id, 0, document, 'as it was', changed_by, changed_ms FROM plan_draft;
"""


def upgrade() -> None:
    """Add the steps; every draft there is begins at step 0."""
    op.get_bind().connection.cursor().execute(CHANGES)
