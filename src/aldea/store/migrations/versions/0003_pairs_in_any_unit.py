"""Pairs of any probe: columns that were named for humidity lose the unit; notes beside a pair."""

from alembic import op

revision = "0003"
down_revision = "0002"

CHANGES = """
ALTER TABLE calibration_pair RENAME COLUMN salt TO medium;
ALTER TABLE calibration_pair RENAME COLUMN reference_rh_pct TO reference;
ALTER TABLE calibration_pair RENAME COLUMN reading_rh_pct TO reading;
ALTER TABLE calibration_pair ADD COLUMN detail text NOT NULL DEFAULT '';
ALTER TABLE calibration_pair DROP CONSTRAINT calibration_pair_approach_check;
ALTER TABLE calibration_pair ADD CONSTRAINT calibration_pair_approach_check
  CHECK (approach IN ('drier', 'wetter', 'point', 'check'));
"""


def upgrade() -> None:
    """Rename, and add the notes."""
    op.get_bind().connection.cursor().execute(CHANGES)
