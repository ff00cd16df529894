"""Where uploads lie between being sent and being stored; nobody else on the machine reads them."""

import os
from pathlib import Path
from typing import BinaryIO


def upload_path(uploads: Path, run_id: int) -> Path:
    """Where the upload of a run lies until it is stored or thrown away."""
    return uploads / f"{run_id}.csv"


def parsed_path(uploads: Path, run_id: int) -> Path:
    """Where its parsed readings wait between checking and storing."""
    return uploads / f"{run_id}.npz"


def written(path: Path) -> BinaryIO:
    """A new file of one's own alone, open for writing; its folder is made where there is none."""
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    return os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb")


def same_upload(uploads: Path, run_id: int, other_id: int) -> None:
    """Let another run read the same upload; each may be thrown away without the other."""
    upload_path(uploads, other_id).hardlink_to(upload_path(uploads, run_id))


def throw_away(uploads: Path, run_id: int) -> None:
    """Remove what lies there for a run."""
    upload_path(uploads, run_id).unlink(missing_ok=True)
    parsed_path(uploads, run_id).unlink(missing_ok=True)
