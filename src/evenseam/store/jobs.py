"""Jobs as rows. `waiting` -> `running` -> `done`, `failed` or `cancelled`; a job may outlive one death of a worker.

Several application processes share the table. A running job is leased to one of them: who holds the lease, and nobody else,
ends the job. Leases are told by the clock of the database, which is the same for all.
"""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy import ColumnElement, and_, delete, func, or_, select, text, update
from sqlalchemy.orm import Session

from evenseam.store.errors import ConflictError, NotFoundError
from evenseam.store.models import Job, Track, now

MOST_DEATHS = 2
OPEN_STATES = ("waiting", "running")
LEASE_S = 15


def add_job(session: Session, production_id: int, kind: str, of: tuple[str, int], asked: dict[str, Any] | None = None) -> Job:
    """A new job that waits. `of` names its subject: what it is, and its id."""
    job = Job(kind=kind, production_id=production_id, subject=of[0], subject_id=of[1], asked=asked)
    session.add(job)
    return job


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
    query = select(Job).join(Track, Job.subject_id == Track.id).where(Track.sha256 == sha256, Job.kind == "listen")
    return session.scalar(query.order_by(Job.id.desc()).limit(1))


def listening_jobs(session: Session, production_id: int) -> dict[str, Job]:
    """The newest job of listening to each recording of a production, by its hash."""
    mine = select(Track.sha256).where(Track.production_id == production_id)
    newest = (
        select(func.max(Job.id))
        .join(Track, Job.subject_id == Track.id)
        .where(Job.kind == "listen", Track.sha256.in_(mine))
        .group_by(Track.sha256)
    )
    rows = session.execute(select(Track.sha256, Job).join(Track, Job.subject_id == Track.id).where(Job.id.in_(newest)))
    return {row[0]: row[1] for row in rows}


def newest_of(session: Session, production_id: int, kinds: Collection[str]) -> dict[int, Job]:
    """The newest job of some kinds for each of their subjects in a production, by the subject's id."""
    query = select(Job).where(Job.production_id == production_id, Job.kind.in_(kinds)).order_by(Job.id)
    return {job.subject_id: job for job in session.scalars(query)}


def delete_jobs(session: Session, subject: str, ids: Sequence[int]) -> None:
    """Forget the jobs of things that are deleted."""
    session.execute(delete(Job).where(Job.subject == subject, Job.subject_id.in_(ids)))


def put_back(session: Session, owner: str) -> int:
    """At start: what a process ran when it ended waits again; nobody died at it. Returns how many."""
    return _changed(session, [Job.state == "running", Job.leased_by == owner], _WAITING)


def take_waiting(session: Session, owner: str, count: int, urgent: Collection[str]) -> list[Job]:
    """Lease up to `count` jobs to a process: those that wait, and those whose process let its lease run out.

    Kinds that are `urgent` come first, since somebody waits for those; else as they came.
    """
    is_left = and_(Job.state == "running", or_(Job.leased_until.is_(None), Job.leased_until < _clock()))
    query = select(Job).where(or_(Job.state == "waiting", is_left))
    query = query.order_by(Job.kind.in_(urgent).desc(), Job.id).limit(count).with_for_update(skip_locked=True)
    jobs = list(session.scalars(query.execution_options(populate_existing=True)))
    for job in jobs:
        job.state, job.started_at, job.progress, job.stage = "running", now(), 0.0, ""
        job.leased_by, job.leased_until = owner, _lease_end()
    session.flush()
    return jobs


def renew_leases(session: Session, owner: str, job_ids: Collection[int]) -> set[int]:
    """Hold on to what a process runs. Returns those that are still its own: others were cancelled or taken over."""
    mine = [Job.state == "running", Job.leased_by == owner, Job.id.in_(job_ids)]
    _changed(session, mine, {"leased_until": _lease_end()})
    return set(session.scalars(select(Job.id).where(*mine)))


def note_progress(session: Session, job_id: int, owner: str, progress: float, stage: str) -> bool:
    """How far a running job is. Returns whether that is news: what is late, or of a job that ended, is none."""
    is_news = [Job.id == job_id, Job.state == "running", Job.leased_by == owner, Job.progress <= progress]
    return _changed(session, is_news, {"progress": progress, "stage": stage}) > 0


def say_why_waiting(session: Session, words: str) -> int:
    """Tell at every job that waits what it waits for. Returns how many were told."""
    return _changed(session, [Job.state == "waiting", Job.stage != words], {"stage": words})


def finish(session: Session, job_id: int, owner: str, state: str, error: str | None = None) -> Job | None:
    """End a running job, or let it wait again; None where it is not the process's own (cancelled, deleted, taken over)."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state != "running" or job.leased_by != owner:
        return None
    job.state, job.error, job.leased_by, job.leased_until = state, error, None, None
    job.finished_at = now() if state not in OPEN_STATES else None
    job.progress = 1.0 if state == "done" else 0.0
    job.stage = ""
    return job


def note_death(session: Session, job_id: int, owner: str) -> int:
    """A worker died at a job. Returns how many did by now, 0 for a job that is not the process's own."""
    _changed(session, [Job.id == job_id, Job.state == "running", Job.leased_by == owner], {"deaths": Job.deaths + 1})
    return session.scalar(select(Job.deaths).where(Job.id == job_id, Job.leased_by == owner)) or 0


def cancel(session: Session, job_id: int) -> Job:
    """Cancel a job that is not done. Raises: NotFoundError, ConflictError."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None:
        raise NotFoundError("This job is not there any more.", job_id=job_id)
    if job.state not in OPEN_STATES:
        raise ConflictError("This job has ended already; there is nothing to cancel.", state=job.state)
    job.state, job.finished_at, job.stage, job.leased_by, job.leased_until = "cancelled", now(), "", None, None
    return job


_WAITING = {"state": "waiting", "progress": 0.0, "stage": "", "leased_by": None, "leased_until": None}


def _changed(session: Session, where: Sequence[ColumnElement[bool]], values: dict[str, Any]) -> int:
    result = session.execute(update(Job).where(*where).values(**values).execution_options(synchronize_session=False))
    return int(result.rowcount)  # type: ignore[attr-defined]


def _clock() -> Any:
    return func.utc_timestamp(6)


def _lease_end() -> Any:
    return func.timestampadd(text("SECOND"), LEASE_S, _clock())
