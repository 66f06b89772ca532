"""The rows of jobs as one application process keeps them: leased, told about, ended. Every method is one transaction.

Whoever changes a production holds its row first, and so does the end of a job: both take the production before the job.
"""

import logging
from collections.abc import Collection, Mapping
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.errors import EvenSeamError
from evenseam.jobs.events import EventBus
from evenseam.jobs.kinds import Afterwards, Call, JobKind, nothing
from evenseam.jobs.worker import MediaPlace
from evenseam.settings import Settings
from evenseam.store import jobs as rows
from evenseam.store.database import Database, again_on_deadlock
from evenseam.store.holding import hold_production
from evenseam.store.models import Job

_log = logging.getLogger(__name__)
_GONE = "What this job was for is not there any more."
_DIED = (
    "The worker process died {n} times while working on this. The file may be damaged: check that it plays elsewhere, "
    "then add it again."
)


class JobBook:
    """`owner` names this process in leases. `kinds` is filled before the first job is taken."""

    def __init__(self, settings: Settings, database: Database, events: EventBus, owner: str) -> None:
        self._settings, self._database, self._events, self._owner = settings, database, events, owner
        self.kinds: Mapping[str, JobKind] = {}

    def put_back(self) -> None:
        """What was running when this process ended waits again."""
        with self._database.transaction() as session:
            waiting = rows.put_back(session, self._owner)
        if waiting:
            _log.info("%d interrupted jobs wait again", waiting)

    def take(self, count: int) -> list[tuple[Job, Call]]:
        """Lease up to `count` jobs. One that cannot be handed out fails alone and holds up no other."""
        urgent = [kind.name for kind in self.kinds.values() if kind.is_urgent]
        with self._database.transaction() as session:
            jobs = rows.take_waiting(session, self._owner, count, urgent)
            calls = [(job, self._call_or_fail(session, job)) for job in jobs]
        for job in jobs:
            self._announce(job)
        return [(job, call) for job, call in calls if call is not None]

    def _call_or_fail(self, session: Session, job: Job) -> Call | None:
        place = MediaPlace(
            self._settings.media_location, str(self._settings.scratch_of(job.id)), str(self._settings.scratch_dir / "cache")
        )
        try:
            return self.kinds[job.kind].prepare(session, job, place)
        except EvenSeamError as error:
            rows.finish(session, job.id, self._owner, "failed", error.detail)
        except Exception:
            _log.exception("job %d cannot be handed out", job.id)
            rows.finish(session, job.id, self._owner, "failed", _GONE)
        return None

    def renew(self, job_ids: Collection[int]) -> set[int]:
        """Hold on to the leases of jobs that run. Returns those that are still this process's own."""
        with self._database.transaction() as session:
            return rows.renew_leases(session, self._owner, job_ids)

    def succeed(self, job: Job, result: Any) -> None:
        """Keep what a worker returned and end the job, in one transaction. Raises: EvenSeamError when it is no use."""
        kind = self.kinds[job.kind]
        self._end(job, "done", lambda session, row: kind.keep(session, row, result))

    def refuse(self, job: Job, reason: str) -> None:
        """End a job whose input is no use."""
        kind = self.kinds[job.kind]
        try:
            self._end(job, "failed", lambda session, row: kind.refuse(session, row, reason), reason)
        except EvenSeamError:  # what it was for went meanwhile: nothing follows for it
            self.fail(job, reason)

    def fail(self, job: Job, reason: str) -> None:
        """End a job that went wrong."""
        self._end(job, "failed", lambda _session, _row: nothing, reason)

    def wait_again(self, job: Job) -> None:
        """Put a job back whose workers were lost on the way: that is not its fault, and does not count."""
        self._end(job, "waiting", lambda _session, _row: nothing)

    def died(self, job: Job) -> None:
        """Put a job back whose worker died at it; from the second time on it fails."""
        with self._database.transaction() as session:
            deaths = rows.note_death(session, job.id, self._owner)
        if deaths < rows.MOST_DEATHS:
            self.wait_again(job)
        else:
            self.fail(job, _DIED.format(n=deaths))

    @again_on_deadlock
    def cancel(self, job_id: int) -> None:
        """Cancel a job. Raises: NotFoundError, ConflictError."""
        with self._database.transaction() as session:
            job = rows.cancel(session, job_id)
        self._announce(job)

    def note_progress(self, job: Job, progress: float, stage: str) -> None:
        """How far a job is."""
        with self._database.transaction() as session:
            is_news = rows.note_progress(session, job.id, self._owner, progress, stage)
        if is_news:
            self._events.publish("progress", job_id=job.id, production_id=job.production_id, progress=progress, stage=stage)

    def say_why_waiting(self, words: str) -> None:
        """Tell at every job that waits what it waits for."""
        with self._database.transaction() as session:
            told = rows.say_why_waiting(session, words)
        if told:
            self._events.publish("tracks")

    def _end(self, job: Job, state: str, keep: Any, error: str | None = None) -> None:
        afterwards: Afterwards = nothing
        with self._database.transaction() as session:
            hold_production(session, job.production_id)
            row = rows.finish(session, job.id, self._owner, state, error)
            if row is None:
                return
            afterwards = keep(session, row)
        afterwards()
        self._announce(row)

    def _announce(self, job: Job) -> None:
        subject = {"subject": job.subject, "subject_id": job.subject_id}
        self._events.publish("job", job_id=job.id, **subject, production_id=job.production_id, state=job.state)
