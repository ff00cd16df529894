"""The version at which a series was last changed before its end: what a cache may read on from."""

from alembic import op

revision = "0011"
down_revision = "0010"

# Versions that step numbers were given to twice after an undo: nobody can tell what they were.
COLUMN = """
ALTER TABLE series ADD COLUMN rewritten integer NOT NULL DEFAULT 0;
UPDATE series SET rewritten = version;
DELETE FROM draft_version AS old USING draft_version AS newer
WHERE newer.house_id = old.house_id AND newer.step <= old.step AND newer.version > old.version
  AND EXISTS (
    SELECT 1 FROM draft_version AS again
    WHERE again.house_id = old.house_id AND again.step = old.step AND again.version > newer.version
  );
"""


def upgrade() -> None:
    """Add the column; what stands at a version is not sure where its step number came twice."""
    op.get_bind().connection.cursor().execute(COLUMN)
