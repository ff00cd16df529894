"""Where things lie on this machine; from the environment, nothing else."""

import hashlib
from dataclasses import dataclass
from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict
from sqlalchemy import make_url


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where one installation keeps its things: a cluster of its own, or a server's address.

    Uploads lie beside what they belong to: two databases never share a folder of them.
    """

    cluster: Path | None
    database_url: str
    uploads: Path


class Settings(BaseSettings):
    """`ALDEA_HOME` is the project folder, `ALDEA_DATABASE_URL` a server of one's own."""

    model_config = SettingsConfigDict(env_prefix="ALDEA_", extra="ignore")

    home: Path = Path(__file__).resolve().parents[3]
    database_url: str = ""

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
