"""Settings, from EVENSEAM_... in the environment (listed in the README). Reading them has no side effects."""

from pathlib import Path
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Everything an operator may choose."""

    model_config = SettingsConfigDict(env_prefix="EVENSEAM_", frozen=True)

    host: str = Field("127.0.0.1", description="Address the application listens on.")
    port: int = Field(8620, ge=1, le=65535, description="Port the application listens on.")
    names: str = Field("", description="Further names it is asked for under, such as of a proxy; commas between them.")
    behind_proxy: bool = Field(False, description="A proxy asks who is there: it may listen on more than loopback.")
    user_header: str = Field("X-Forwarded-User", description="Header in which a proxy says who is there, for the history.")
    data_dir: Path = Field(Path("data"), description="Folder of database, media and scratch files.")
    database_url: str | None = Field(None, description="A MariaDB of your own; without it a private one is started.")
    database_port: int = Field(33962, ge=1, le=65535, description="Loopback port of the private MariaDB.")
    media_url: str | None = Field(None, description="fsspec URL of the media files; default: DATA_DIR/media.")
    scheduler_address: str | None = Field(None, description="A dask scheduler elsewhere; default: workers of our own.")
    scheduler_ca: Path | None = Field(None, description="Certificate authority of a scheduler elsewhere (PEM).")
    scheduler_cert: Path | None = Field(None, description="Our certificate for it (PEM).")
    scheduler_key: Path | None = Field(None, description="The key of that certificate (PEM).")
    workers: int = Field(2, ge=1, le=64, description="Worker processes for analysis and rendering.")
    catalogue_url: str | None = Field(None, description="A music catalogue of your own; without it the stand-in is started.")
    catalogue_port: int = Field(8621, ge=1, le=65535, description="Loopback port of the catalogue stand-in.")
    catalogue_wait_s: float = Field(10.0, gt=0, description="How long the catalogue may take for an answer.")
    upload_limit_mb: int = Field(4096, ge=1, description="Largest file that is taken in, in MB (10^6 bytes).")
    log_level: Literal["debug", "info", "warning", "error"] = Field("info", description="How much is logged.")
    web_dir: Path = Field(Path(__file__).parents[2] / "web" / "dist", description="The built front end.")

    @property
    def who_header(self) -> str | None:
        """The header that says who asks; nobody but a proxy is believed."""
        return self.user_header if self.behind_proxy else None

    @property
    def absolute_data_dir(self) -> Path:
        """The data folder, whatever the working folder becomes later."""
        return self.data_dir.absolute()

    @property
    def catalogue_location(self) -> str:
        """Where the catalogue is asked."""
        return self.catalogue_url or f"http://127.0.0.1:{self.catalogue_port}"

    @property
    def database_dir(self) -> Path:
        """Folder of the private MariaDB."""
        return self.absolute_data_dir / "db"

    @property
    def media_location(self) -> str:
        """Where media files are, as fsspec URL."""
        return self.media_url or f"file://{self.absolute_data_dir / 'media'}"

    @property
    def scratch_dir(self) -> Path:
        """Uploads on their way in, workers' folders, local copies of remote media."""
        return self.absolute_data_dir / "scratch"

    def scratch_of(self, job_id: int) -> Path:
        """A folder of a job's own, so that nothing is left of it however it ends."""
        return self.scratch_dir / "jobs" / str(job_id)
