"""Jobs as rows. `waiting` -> `running` -> `done`, `failed` or `cancelled`; a job may run twice before it fails."""

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from evenseam.store.errors import ConflictError, NotFoundError
from evenseam.store.models import Job, Track, now

MOST_ATTEMPTS = 2
OPEN_STATES = ("waiting", "running")


def get_job(session: Session, job_id: int) -> Job:
    """One job. Raises: NotFoundError."""
    job = session.get(Job, job_id)
    if job is None:
        raise NotFoundError("This job is not there any more.", job_id=job_id)
    return job


def latest_jobs(session: Session, production_id: int, limit: int = 200) -> list[Job]:
    """The newest jobs of a production, newest first."""
    return list(session.scalars(select(Job).where(Job.production_id == production_id).order_by(Job.id.desc()).limit(limit)))


def listening_job(session: Session, sha256: str) -> Job | None:
    """The newest job of listening to a recording, under whichever track it was asked for."""
    query = select(Job).join(Track, Job.track_id == Track.id).where(Track.sha256 == sha256, Job.kind == "listen")
    return session.scalar(query.order_by(Job.id.desc()).limit(1))


def listening_jobs(session: Session, production_id: int) -> dict[str, Job]:
    """The newest job of listening to each recording of a production, by its hash."""
    mine = select(Track.sha256).where(Track.production_id == production_id)
    newest = (
        select(func.max(Job.id))
        .join(Track, Job.track_id == Track.id)
        .where(Job.kind == "listen", Track.sha256.in_(mine))
        .group_by(Track.sha256)
    )
    rows = session.execute(select(Track.sha256, Job).join(Track, Job.track_id == Track.id).where(Job.id.in_(newest)))
    return {row[0]: row[1] for row in rows}


def film_jobs(session: Session, production_id: int) -> dict[int, Job]:
    """The newest job of scanning the film of each picture of a production, by the picture's id."""
    query = select(Job).where(Job.production_id == production_id, Job.kind == "film").order_by(Job.id)
    return {job.picture_id: job for job in session.scalars(query) if job.picture_id is not None}


def put_back_interrupted(session: Session) -> int:
    """At start: jobs that were running when the application ended wait again, and it does not count. Returns how many."""
    fields = {"state": "waiting", "progress": 0.0, "stage": "", "attempts": Job.attempts - 1}
    result = session.execute(update(Job).where(Job.state == "running", Job.attempts > 0).values(**fields))
    return int(result.rowcount)  # type: ignore[attr-defined]


def take_waiting(session: Session, count: int) -> list[Job]:
    """Take up to `count` waiting jobs to run now: renders first, since somebody waits for those; else as they came."""
    query = select(Job).where(Job.state == "waiting").order_by((Job.kind == "render").desc(), Job.id).limit(count)
    jobs = list(session.scalars(query.with_for_update(skip_locked=True)))
    for job in jobs:
        job.state, job.started_at, job.attempts, job.progress = "running", now(), job.attempts + 1, 0.0
    return jobs


def finish(session: Session, job_id: int, state: str, error: str | None = None, file: str | None = None) -> Job | None:
    """End a running job; one that was cancelled or deleted meanwhile stays so."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state != "running":
        return None
    job.state, job.error, job.file = state, error, file
    job.finished_at = now() if state not in OPEN_STATES else None
    job.progress = 1.0 if state == "done" else 0.0
    job.stage = ""
    return job


def cancel(session: Session, job_id: int) -> Job:
    """Cancel a job that is not done. Raises: NotFoundError, ConflictError."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None:
        raise NotFoundError("This job is not there any more.", job_id=job_id)
    if job.state not in OPEN_STATES:
        raise ConflictError("This job has ended already; there is nothing to cancel.", state=job.state)
    job.state, job.finished_at, job.stage = "cancelled", now(), ""
    return job
