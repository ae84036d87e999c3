"""Configuration from environment variables that start with ``RULVEK_``."""

from pathlib import Path
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where Rulvek keeps its records, where it listens, and how fast its simulated bench runs."""

    model_config = SettingsConfigDict(env_prefix="RULVEK_", extra="ignore")

    data_folder: Path = Path("data")
    database_url: str = ""
    host: str = "127.0.0.1"
    port: int = Field(8470, ge=1, le=65535)
    hosts: str = Field("", description="names that browsers may use for this server besides localhost, by commas")
    session_idle_hours: float = Field(12.0, gt=0, le=720)
    session_days: float = Field(7.0, gt=0, le=90)
    bench_speed: float = Field(1.0, gt=0, description="1 is real time; inf does not wait at all")
    log: Literal["plain", "json"] = "plain"
    web_folder: Path = Path(__file__).resolve().parents[2] / "web" / "dist"

    @property
    def database(self) -> str:
        """The database's URL; a file in the data folder unless set."""
        return self.database_url or f"sqlite:///{self.data_folder.resolve() / 'rulvek.db'}"

    @property
    def allowed_hosts(self) -> list[str]:
        """Names and addresses by which the server may be asked, besides the machine's own."""
        named = [one.strip() for one in self.hosts.split(",") if one.strip()]
        return named if self.host in ("0.0.0.0", "::") else [*named, self.host]

    @property
    def captures(self) -> Path:
        """Folder of capture files."""
        return self.data_folder / "captures"
