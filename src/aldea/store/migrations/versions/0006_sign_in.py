"""When a session was last seen, and attempts to sign in by who tried from where."""

from alembic import op

revision = "0006"
down_revision = "0005"

CHANGES = """
ALTER TABLE web_session ADD COLUMN seen_ms bigint;
UPDATE web_session SET seen_ms = created_ms;
ALTER TABLE web_session ALTER COLUMN seen_ms SET NOT NULL;
CREATE INDEX web_session_account ON web_session (account_id);
CREATE INDEX sign_in_attempt_from ON sign_in_attempt (address, name, at_ms);
"""


def upgrade() -> None:
    """Add the column and the indexes; every session there is was seen when it began."""
    op.get_bind().connection.cursor().execute(CHANGES)
