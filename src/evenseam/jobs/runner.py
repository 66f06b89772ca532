"""Takes waiting jobs from the database to worker processes, and their ends back.

The queue is the table: only as many jobs are handed out as there are workers. A worker that dies takes its job with it;
the job is tried once more and then fails with a reason.
"""

import asyncio
import contextlib
import logging
import shutil
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, cast

from distributed import Future, KilledWorker
from distributed.comm import CommClosedError
from sqlalchemy.exc import InterfaceError, OperationalError

from evenseam.core.audio.encode import SampleFormat
from evenseam.core.errors import EvenSeamError
from evenseam.jobs import tasks
from evenseam.jobs.crew import Crew
from evenseam.jobs.events import EventBus
from evenseam.jobs.film_task import Scanned, scan_film
from evenseam.settings import Settings
from evenseam.store import jobs as rows
from evenseam.store.database import Database
from evenseam.store.models import Job, Picture, Track, now
from evenseam.store.productions import get_fit
from evenseam.store.tracks import get_track, keep_heard

_log = logging.getLogger(__name__)
_IDLE_LOOK_S = 5.0
_DATABASE_BACK_S = 1.0
_DIED = (
    "The worker process died {n} times while working on this. The file may be damaged: check that it plays elsewhere, "
    "then add it again."
)


class JobRunner:
    """Lives as long as the server. `submit` is free: it only wakes the runner, the row is the job."""

    def __init__(self, settings: Settings, database: Database, events: EventBus) -> None:
        self._settings = settings
        self._database = database
        self._events = events
        self.on_refused: Callable[[int, str], None] | None = None
        self.on_film_refused: Callable[[int, str], None] | None = None
        self.on_scanned: Callable[[int, Scanned], None] | None = None
        self._wake = asyncio.Event()
        self._futures: dict[int, Future] = {}
        self._background: set[asyncio.Task[None]] = set()
        self._crew = Crew(settings)
        self._loop: asyncio.AbstractEventLoop | None = None

    async def start(self) -> None:
        """Pick up what was waiting; workers start beside, so that the pages are there at once."""
        self._loop = asyncio.get_running_loop()
        await asyncio.to_thread(self._put_back)
        self._spawn(self._open_and_run())

    async def _open_and_run(self) -> None:
        """Start workers (or reach the scheduler named in the settings), then run jobs for ever."""
        await self._crew.open(tasks.PROGRESS_TOPIC, self._on_progress)
        await self._run()

    async def stop(self) -> None:
        """End the runner and its workers; what was running waits for the next start."""
        for task in list(self._background):
            task.cancel()
        await asyncio.gather(*self._background, return_exceptions=True)
        await self._crew.close()

    def submit(self) -> None:
        """Say that there are new rows. Callable from any thread, after the commit."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._wake.set)

    async def cancel(self, job_id: int) -> None:
        """Stop a job at once: a running one by ending its worker process, which is replaced."""
        await asyncio.to_thread(self._cancel_row, job_id)
        future = self._futures.pop(job_id, None)
        if future is not None:
            await self._crew.end(future)
        self._wake.set()

    def _cancel_row(self, job_id: int) -> None:
        with self._database.transaction() as session:
            job = rows.cancel(session, job_id)
        self._announce(job)

    def _put_back(self) -> None:
        with self._database.transaction() as session:
            waiting = rows.put_back_interrupted(session)
        if waiting:
            _log.info("%d interrupted jobs wait again", waiting)

    async def _run(self) -> None:
        while True:
            self._wake.clear()
            try:
                await self._crew.watch()
                free = self._settings.workers - len(self._futures)
                for job_id, call in await asyncio.to_thread(self._take, free) if free > 0 else []:
                    self._hand_out(job_id, call)
            except Exception:
                _log.exception("jobs could not be taken from the database; trying again")
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._wake.wait(), _IDLE_LOOK_S)

    def _take(self, count: int) -> list[tuple[int, Any]]:
        with self._database.transaction() as session:
            jobs = rows.take_waiting(session, count)
            calls = [(job, self._call_or_fail(session, job)) for job in jobs]
        for job in jobs:
            self._announce(job)
        return [(job.id, call) for job, call in calls if call is not None]

    def _call_or_fail(self, session: Any, job: Job) -> Any:
        """The function for a job; None for one that cannot be told, which fails alone and holds up no other."""
        try:
            return self._call(session, job)
        except Exception:
            _log.exception("job %d cannot be handed out", job.id)
            job.state, job.error, job.finished_at = "failed", "What this job was for is not there any more.", now()
            return None

    def _call(self, session: Any, job: Job) -> Any:
        """The function a worker is to run for a job."""
        if job.kind == "listen":
            recording = get_track(session, job.track_id or 0).recording
            return partial(tasks.listen_to, job.id, self._place_of(job.id), recording.sha256, recording.suffix)
        if job.kind == "film":
            film = session.get_one(Picture, job.picture_id).film
            assert film is not None
            return partial(scan_film, job.id, self._place_of(job.id), film.sha256, film.suffix)
        fit = get_fit(session, job.fit_id or 0)
        recording, wanted = fit.track.recording, cast(SampleFormat, job.sample_format)
        place = self._place_of(job.id)
        return partial(tasks.render_fit, job.id, place, recording.sha256, recording.channels or 1, fit.plan, wanted)

    def _hand_out(self, job_id: int, call: Any) -> None:
        future = self._crew.submit(call)
        self._futures[job_id] = future
        self._spawn(self._wait_for(job_id, future))

    async def _wait_for(self, job_id: int, future: Future) -> None:
        try:
            result = await future
            await self._kept(self._succeed, job_id, result)
        except asyncio.CancelledError:
            if not future.cancelled():
                raise
        except EvenSeamError as error:
            await self._kept(self._refuse, job_id, error.detail)
        except KilledWorker:
            await self._kept(self._try_again, job_id)
        except CommClosedError:
            await self._kept(self._wait_again, job_id)
        except OSError as error:
            await self._kept(self._fail, job_id, f"The disk said no: {error.strerror or error}. Free some space.")
        except Exception:
            _log.exception("job %d failed", job_id)
            await self._kept(self._fail, job_id, "Something went wrong inside Even Seam; the log has the details.")
        finally:
            await asyncio.to_thread(shutil.rmtree, self._scratch_of(job_id), ignore_errors=True)
            self._futures.pop(job_id, None)
            self._wake.set()

    async def _kept(self, keep: Callable[..., None], *what: Any) -> None:
        """Keep how a job ended; while the database is away it is waited for, since nobody else knows."""
        while True:
            try:
                return await asyncio.to_thread(keep, *what)
            except (OperationalError, InterfaceError):
                _log.warning("the database is away; the end of a job waits for it")
                await asyncio.sleep(_DATABASE_BACK_S)

    def _scratch_of(self, job_id: int) -> Path:
        """A folder of a job's own, so that nothing is left of it however it ends."""
        return self._settings.scratch_dir / "jobs" / str(job_id)

    def _place_of(self, job_id: int) -> tasks.MediaPlace:
        scratch = self._settings.scratch_dir
        return tasks.MediaPlace(self._settings.media_location, str(self._scratch_of(job_id)), str(scratch / "cache"))

    def _succeed(self, job_id: int, result: Any) -> None:
        if isinstance(result, Scanned) and self.on_scanned is not None:
            self.on_scanned(job_id, result)
            self._announce_kept(job_id)
            return
        with self._database.transaction() as session:
            job = rows.finish(session, job_id, "done", file=result if isinstance(result, str) else None)
            if job is None:
                return
            if job.kind == "listen":
                track = session.get_one(Track, job.track_id)
                keep_heard(session, track.sha256, tasks.returned_chart(result[0]), result[1])
        self._announce(job)

    def _announce_kept(self, job_id: int) -> None:
        with self._database.transaction() as session:
            job = session.get(Job, job_id)
        if job is not None:
            self._announce(job)

    def _refuse(self, job_id: int, reason: str) -> None:
        """End a job whose input is no use; whoever owns tracks and pictures is told of those that cannot be used."""
        self._fail(job_id, reason)
        with self._database.transaction() as session:
            job = session.get(Job, job_id)
            if job is None or job.state != "failed":
                return
            kind, track_id, picture_id = job.kind, job.track_id, job.picture_id
        if kind == "listen" and track_id is not None and self.on_refused is not None:
            self.on_refused(track_id, reason)
        if kind == "film" and picture_id is not None and self.on_film_refused is not None:
            self.on_film_refused(picture_id, reason)

    def _fail(self, job_id: int, reason: str) -> None:
        with self._database.transaction() as session:
            job = rows.finish(session, job_id, "failed", error=reason)
        if job is not None:
            self._announce(job)

    def _wait_again(self, job_id: int) -> None:
        """Put a job back whose workers were lost on the way: that is not its fault, and does not count."""
        with self._database.transaction() as session:
            job = rows.finish(session, job_id, "waiting")
            if job is not None:
                job.attempts -= 1
        if job is not None:
            self._announce(job)

    def _try_again(self, job_id: int) -> None:
        with self._database.transaction() as session:
            found = session.get(Job, job_id)
            if found is None:
                return
            again = found.attempts < rows.MOST_ATTEMPTS
            reason = None if again else _DIED.format(n=found.attempts)
            job = rows.finish(session, job_id, "waiting" if again else "failed", error=reason)
        if job is not None:
            self._announce(job)

    def _on_progress(self, event: tuple[float, Any]) -> None:
        told = event[1]
        if isinstance(told, dict) and told.get("job_id") in self._futures:
            self._spawn(asyncio.to_thread(self._keep_progress, told["job_id"], told["progress"], told["stage"]))

    def _keep_progress(self, job_id: int, progress: float, stage: str) -> None:
        with self._database.transaction() as session:
            job = session.get(Job, job_id)
            if job is None or job.state != "running" or job.progress > progress:
                return
            job.progress, job.stage = progress, stage
        self._announce(job)

    def _announce(self, job: Job) -> None:
        ids = {"job_id": job.id, "track_id": job.track_id, "picture_id": job.picture_id}
        self._events.publish("job", **ids, production_id=job.production_id, state=job.state)

    def _spawn(self, work: Any) -> None:
        task: asyncio.Task[None] = asyncio.get_running_loop().create_task(work)
        self._background.add(task)
        task.add_done_callback(self._background.discard)
