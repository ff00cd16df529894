"""The digest of each draft's text: a page that knows the text need not fetch it again."""

from alembic import op

revision = "0010"
down_revision = "0009"

COLUMN = """
ALTER TABLE plan_draft ADD COLUMN sha256 text;
UPDATE plan_draft SET sha256 = encode(sha256(convert_to(document, 'UTF8')), 'hex');
ALTER TABLE plan_draft ALTER COLUMN sha256 SET NOT NULL;
"""


def upgrade() -> None:
    """Add the column, with the digests of what is there."""
    op.get_bind().connection.cursor().execute(COLUMN)
