"""Runs that give pins to a whole house, where that takes longer than a page may."""

from alembic import op

revision = "0009"
down_revision = "0008"

TABLE = """
CREATE TABLE assign_run (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  account_id integer NOT NULL REFERENCES account,
  version_read integer NOT NULL,
  redeal boolean NOT NULL,
  state text NOT NULL CHECK (state IN ('working', 'done', 'refused', 'stopped')),
  doing text NOT NULL DEFAULT '',
  done_share double precision NOT NULL DEFAULT 0,
  refusal text NOT NULL DEFAULT '',
  conflict text,
  wanted_stop boolean NOT NULL DEFAULT false,
  at_ms bigint NOT NULL
);
CREATE UNIQUE INDEX assign_run_one_a_house ON assign_run (house_id) WHERE state = 'working';
"""


def upgrade() -> None:
    """Add the table."""
    op.get_bind().connection.cursor().execute(TABLE)
