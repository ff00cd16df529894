"""Where uploads lie between being sent and being stored."""

from pathlib import Path


def upload_path(uploads: Path, run_id: int) -> Path:
    """Where the upload of a run lies until it is stored or thrown away."""
    return uploads / f"{run_id}.csv"


def parsed_path(uploads: Path, run_id: int) -> Path:
    """Where its parsed readings wait between checking and storing."""
    return uploads / f"{run_id}.npz"
