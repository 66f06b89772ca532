"""What every kind of long work has at hand in a worker. Nothing there touches the database: the server keeps the rows."""

from dataclasses import dataclass
from pathlib import Path

from distributed import get_worker

from evenseam.store.media import MediaStore

PROGRESS_TOPIC = "evenseam-progress"


@dataclass(frozen=True, slots=True)
class MediaPlace:
    """Where the media store is, as a worker opens it, and a scratch folder that goes with the job."""

    location: str
    scratch_dir: str
    cache_dir: str

    def open(self) -> MediaStore:
        """The store; the scratch folder is there then."""
        Path(self.scratch_dir).mkdir(parents=True, exist_ok=True)
        return MediaStore(self.location, Path(self.cache_dir))


def tell(job_id: int, progress: float, stage: str) -> None:
    """Say how far a job is."""
    get_worker().log_event(PROGRESS_TOPIC, {"job_id": job_id, "progress": progress, "stage": stage})
