"""Where things lie on this machine; from the environment, nothing else."""

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """`ALDEA_HOME` is the project folder, `ALDEA_DATABASE_URL` a server of one's own."""

    model_config = SettingsConfigDict(env_prefix="ALDEA_", extra="ignore")

    home: Path = Path(__file__).resolve().parents[3]
    database_url: str = ""

    @property
    def state(self) -> Path:
        """Everything that the start command makes: environment, cluster, uploads."""
        return self.home / ".aldea"

    @property
    def uploads(self) -> Path:
        """Reading logs on their way into the database."""
        return self.state / "uploads"
