"""Where things lie on this machine; from the environment, nothing else."""

import hashlib
import os
from dataclasses import dataclass, field
from pathlib import Path

from sqlalchemy import make_url

PROJECT = Path(__file__).resolve().parents[3]


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where one installation keeps its things: a cluster of its own, or a server's address.

    Uploads lie beside what they belong to: two databases never share a folder of them.
    """

    cluster: Path | None
    database_url: str
    uploads: Path


@dataclass(frozen=True, slots=True)
class Settings:
    """`ALDEA_HOME` is the project folder, `ALDEA_DATABASE_URL` a server of one's own."""

    home: Path = field(default_factory=lambda: Path(os.environ.get("ALDEA_HOME") or PROJECT))
    database_url: str = field(default_factory=lambda: os.environ.get("ALDEA_DATABASE_URL", ""))

    @property
    def state(self) -> Path:
        """Everything that the start command makes: environment, clusters, uploads."""
        return self.home / ".aldea"

    @property
    def engine(self) -> Path:
        """Where compiled engines are kept."""
        return self.state / "engine"

    def place(self, *, demo: bool) -> Place:
        """The demo house's place, or that of the houses of one's own."""
        if self.database_url:
            url = make_url(self.database_url)
            which = hashlib.sha256(f"{url.host}:{url.port}/{url.database}".encode()).hexdigest()
            uploads = self.state / f"uploads-{which[:12]}"
            return Place(cluster=None, database_url=self.database_url, uploads=uploads)
        folder = self.state if demo else self.state / "own"
        return Place(cluster=folder / "cluster", database_url="", uploads=folder / "uploads")
