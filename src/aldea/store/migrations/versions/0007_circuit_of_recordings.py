"""The digest of the circuit that a bench recording was made with; empty for older ones."""

from alembic import op

revision = "0007"
down_revision = "0006"

CHANGES = """
ALTER TABLE bench_recording ADD COLUMN circuit text NOT NULL DEFAULT '';
"""


def upgrade() -> None:
    """Add the column; of what was recorded before, nobody knows the circuit."""
    op.get_bind().connection.cursor().execute(CHANGES)
