"""The first tables, and those of the job queue."""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0001"
down_revision = None

TABLES = """
CREATE TABLE account (
  id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL UNIQUE,
  password_hash text NOT NULL,
  created_ms bigint NOT NULL
);
CREATE TABLE house (
  id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  slug text NOT NULL UNIQUE,
  now_ms bigint,
  created_ms bigint NOT NULL
);
CREATE TABLE membership (
  house_id integer NOT NULL REFERENCES house,
  account_id integer NOT NULL REFERENCES account,
  role text NOT NULL CHECK (role IN ('builder', 'householder', 'viewer')),
  PRIMARY KEY (house_id, account_id)
);
CREATE TABLE web_session (
  token_sha256 text PRIMARY KEY,
  account_id integer NOT NULL REFERENCES account,
  form_token text NOT NULL,
  created_ms bigint NOT NULL,
  ends_ms bigint NOT NULL
);
CREATE TABLE sign_in_attempt (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL,
  address text NOT NULL,
  at_ms bigint NOT NULL,
  good boolean NOT NULL
);
CREATE INDEX sign_in_attempt_at ON sign_in_attempt (at_ms);
CREATE TABLE plan_draft (
  house_id integer PRIMARY KEY REFERENCES house,
  version integer NOT NULL,
  document text NOT NULL,
  based_on integer,
  changed_ms bigint NOT NULL,
  changed_by integer NOT NULL REFERENCES account
);
CREATE TABLE plan_revision (
  house_id integer NOT NULL REFERENCES house,
  number integer NOT NULL,
  document text NOT NULL,
  sha256 text NOT NULL,
  author_id integer NOT NULL REFERENCES account,
  reason text NOT NULL CHECK (length(trim(reason)) > 0),
  at_ms bigint NOT NULL,
  PRIMARY KEY (house_id, number)
);
CREATE TABLE series (
  id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  probe text NOT NULL,
  version integer NOT NULL DEFAULT 0,
  count bigint NOT NULL DEFAULT 0,
  first_ms bigint,
  last_ms bigint,
  UNIQUE (house_id, probe)
);
CREATE TABLE reading (
  series_id integer NOT NULL,
  t_ms bigint NOT NULL,
  value double precision NOT NULL,
  PRIMARY KEY (series_id, t_ms)
) PARTITION BY RANGE (t_ms);
CREATE TABLE import_run (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  account_id integer NOT NULL REFERENCES account,
  probe text NOT NULL,
  file_name text NOT NULL,
  size_bytes bigint NOT NULL,
  options text NOT NULL,
  state text NOT NULL CHECK (
    state IN ('chosen', 'checking', 'checked', 'storing', 'stored', 'refused', 'stopped')
  ),
  done_share double precision NOT NULL DEFAULT 0,
  report text,
  refusal text,
  wanted_stop boolean NOT NULL DEFAULT false,
  created_ms bigint NOT NULL
);
CREATE TABLE calibration_pair (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  probe text NOT NULL,
  salt text,
  approach text NOT NULL CHECK (approach IN ('drier', 'wetter', 'check')),
  temp_degc double precision NOT NULL,
  reference_rh_pct double precision NOT NULL,
  reference_expanded double precision NOT NULL,
  reading_rh_pct double precision NOT NULL,
  taken_by integer NOT NULL REFERENCES account,
  taken_ms bigint NOT NULL,
  withdrawn_ms bigint,
  certificate integer
);
CREATE INDEX calibration_pair_probe ON calibration_pair (house_id, probe);
CREATE TABLE certificate (
  house_id integer NOT NULL REFERENCES house,
  number integer NOT NULL,
  probe text NOT NULL,
  document text NOT NULL,
  sha256 text NOT NULL,
  signed_by integer NOT NULL REFERENCES account,
  at_ms bigint NOT NULL,
  due_ms bigint NOT NULL,
  PRIMARY KEY (house_id, number)
);
CREATE TABLE log_book (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  house_id integer NOT NULL REFERENCES house,
  at_ms bigint NOT NULL,
  account_id integer REFERENCES account,
  what text NOT NULL
);
CREATE INDEX log_book_house ON log_book (house_id, id);
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is a record: it is added to, never changed', TG_TABLE_NAME;
END $$;
CREATE TRIGGER plan_revision_is_kept BEFORE UPDATE OR DELETE ON plan_revision
  FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER certificate_is_kept BEFORE UPDATE OR DELETE ON certificate
  FOR EACH ROW EXECUTE FUNCTION refuse_change();
"""


def upgrade() -> None:
    """Make everything; psycopg takes many statements at once where there are no parameters."""
    cursor = op.get_bind().connection.cursor()
    cursor.execute(TABLES)
    cursor.execute(SchemaManager.get_schema())
