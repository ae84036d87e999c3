"""Configuration from environment variables that start with ``RULVEK_``."""

from pathlib import Path
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


def _built_front_end() -> Path:
    """Inside of the package where it was installed from a wheel, else beside it in the tree."""
    inside = Path(__file__).resolve().parent / "web"
    return inside if inside.is_dir() else Path(__file__).resolve().parents[2] / "web" / "dist"


class Settings(BaseSettings):
    """Where Rulvek keeps its records, where it listens, and how fast its simulated bench runs."""

    model_config = SettingsConfigDict(env_prefix="RULVEK_", extra="ignore")

    data_folder: Path = Field(Path("data"), description="folder of the records, and of captures unless told")
    database_url: str = Field("", description="another database than the file in the data folder")
    host: str = Field("127.0.0.1", description="address to listen on; 0.0.0.0 for all of this machine's")
    port: int = Field(8470, ge=1, le=65535, description="port to listen on")
    hosts: str = Field("", description="names that browsers may use for this server besides localhost, by commas")
    session_idle_hours: float = Field(12.0, gt=0, le=720, description="an unused session ends after so long")
    session_days: float = Field(7.0, gt=0, le=90, description="any session ends after so long")
    working_hours: str = Field(
        "", max_length=60, description="when the lab works, as “Mon-Fri 08:00-17:00”, for the day's order"
    )
    people: int | None = Field(
        None,
        ge=1,
        le=1000,
        description="how many set up benches at the same time, for the day's order; enough if empty",
    )
    lab: str = Field("", max_length=60, description="how this lab calls itself on bundles for others")
    rating_text: str = Field(
        "",
        max_length=300,
        description="how ratings are worded for print, with placeholders; Rulvek's own style if empty",
    )
    backup_folder: Path | None = Field(None, description="where scheduled backups go; none are made without it")
    backup_every_hours: float = Field(24.0, gt=0, le=720, description="how old the latest backup may become")
    backup_keep: int = Field(14, ge=1, le=1000, description="how many scheduled backups are kept")
    bench_speed: float = Field(1.0, gt=0, description="of simulated benches: 1 is real time; inf does not wait at all")
    log: Literal["plain", "json"] = Field("plain", description="how the log is written")
    web_folder: Path = Field(_built_front_end(), description="the built front end")

    @property
    def database(self) -> str:
        """The database's URL; a file in the data folder unless set."""
        return self.database_url or f"sqlite:///{self.data_folder.resolve() / 'rulvek.db'}"

    @property
    def database_file(self) -> Path | None:
        """The file that the records are in; None where they are in none."""
        path = self.database.removeprefix("sqlite:///")
        return Path(path) if path != self.database else None

    @property
    def allowed_hosts(self) -> list[str]:
        """Names and addresses by which the server may be asked, besides the machine's own."""
        named = [one.strip() for one in self.hosts.split(",") if one.strip()]
        return named if self.host in ("0.0.0.0", "::") else [*named, self.host]

    @property
    def captures(self) -> Path:
        """Folder of capture files."""
        return self.data_folder / "captures"
