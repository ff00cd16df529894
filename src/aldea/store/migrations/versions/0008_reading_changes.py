"""What imports and removals change of the readings; what is stated at a bench until signed."""

from alembic import op

revision = "0008"
down_revision = "0007"

CHANGES = """
ALTER TABLE import_run DROP CONSTRAINT import_run_state_check;
ALTER TABLE import_run ADD CONSTRAINT import_run_state_check CHECK (state IN (
  'chosen', 'checking', 'checked', 'storing', 'stored', 'refused', 'stopped',
  'withdrawing', 'withdrawn'
));
ALTER TABLE import_run ADD COLUMN upload_of bigint REFERENCES import_run;
CREATE TABLE reading_change (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  probe text NOT NULL,
  import_id bigint REFERENCES import_run,
  account_id integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL,
  reason text NOT NULL DEFAULT '',
  added bigint NOT NULL,
  removed bigint NOT NULL,
  packed bytea,
  undone_ms bigint
);
CREATE TABLE certificate_in_place (
  house_id integer NOT NULL,
  number integer NOT NULL,
  reference double precision NOT NULL,
  reference_expanded double precision NOT NULL,
  reading double precision NOT NULL,
  checked_by integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL,
  PRIMARY KEY (house_id, number),
  FOREIGN KEY (house_id, number) REFERENCES certificate
);
CREATE TABLE bench_draft (
  house_id integer NOT NULL REFERENCES house,
  probe text NOT NULL,
  fields text NOT NULL,
  stated_by integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL,
  PRIMARY KEY (house_id, probe)
);
CREATE INDEX reading_change_house ON reading_change (house_id);
CREATE INDEX reading_change_import ON reading_change (import_id);
"""


def upgrade() -> None:
    """Add the tables; what was imported before them cannot be told from the rest."""
    op.get_bind().connection.cursor().execute(CHANGES)
