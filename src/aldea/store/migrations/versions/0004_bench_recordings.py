"""What was recorded at a bench: the fields as they were, and what was found from them."""

from alembic import op

revision = "0004"
down_revision = "0003"

TABLE = """
CREATE TABLE bench_recording (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  bench text NOT NULL CHECK (bench ~ '^[a-z_]{1,40}$'),
  subject text NOT NULL CHECK (length(subject) BETWEEN 1 AND 80),
  fields text NOT NULL,
  found text NOT NULL,
  taken_by integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL
);
CREATE INDEX bench_recording_of ON bench_recording (house_id, bench, subject, at_ms DESC);
"""


def upgrade() -> None:
    """Make the table."""
    op.get_bind().connection.cursor().execute(TABLE)
