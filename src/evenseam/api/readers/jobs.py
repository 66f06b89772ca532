"""Jobs to what goes out."""

from datetime import UTC, datetime

from evenseam.api.schemas.jobs import JobRead
from evenseam.store.models import Job

_JOB_FIELDS = ("id", "kind", "state", "subject", "subject_id", "progress", "stage", "told", "error", "created_at")


def read_job(job: Job) -> JobRead:
    """A job row."""
    until = job.finished_at or datetime.now(UTC)
    return JobRead.model_validate(
        {
            **{name: getattr(job, name) for name in _JOB_FIELDS},
            "elapsed_s": max(0.0, (until - job.started_at).total_seconds()) if job.started_at else 0.0,
            "has_file": job.file is not None,
        }
    )
