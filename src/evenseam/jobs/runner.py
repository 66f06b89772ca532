"""Takes waiting jobs from the database to worker processes, and their ends back.

The queue is the table: only as many jobs are taken as there are workers, and each is leased to this process while it runs.
A worker that dies takes its job with it; the job is tried once more and then fails with a reason.
"""

import asyncio
import contextlib
import logging
import shutil
from collections.abc import Callable, Coroutine, Mapping
from dataclasses import dataclass
from typing import Any

from distributed import Future, KilledWorker
from distributed.client import FutureCancelledError
from distributed.comm import CommClosedError
from sqlalchemy.exc import DBAPIError

from evenseam.core.errors import EvenSeamError
from evenseam.jobs.book import JobBook
from evenseam.jobs.crew import Crew
from evenseam.jobs.events import EventBus
from evenseam.jobs.kinds import Call, JobKind
from evenseam.jobs.worker import PROGRESS_TOPIC
from evenseam.settings import Settings
from evenseam.store.database import Database, is_passing
from evenseam.store.jobs import LEASE_S
from evenseam.store.models import Job

_log = logging.getLogger(__name__)
_IDLE_LOOK_S = 5.0
_DATABASE_BACK_S = 1.0
_WAITS_FOR_WORKERS = "Waiting for the workers, which cannot be reached"


@dataclass(frozen=True, slots=True)
class _Running:
    job: Job
    future: Future


class JobRunner:
    """Lives as long as the server. `submit` is free: it only wakes the runner, the row is the job."""

    def __init__(self, settings: Settings, database: Database, events: EventBus, owner: str) -> None:
        self._settings, self._events = settings, events
        self._book = JobBook(settings, database, events, owner)
        self._wake = asyncio.Event()
        self._running: dict[int, _Running] = {}
        self._background: set[asyncio.Task[None]] = set()
        self._crew = Crew(settings)
        self._loop: asyncio.AbstractEventLoop | None = None

    async def start(self, kinds: Mapping[str, JobKind]) -> None:
        """Pick up what was waiting; workers start beside, so that the pages are there at once."""
        self._loop = asyncio.get_running_loop()
        self._book.kinds = kinds
        await asyncio.to_thread(self._book.put_back)
        self._spawn(self._open_and_run())
        self._spawn(self._follow_others())

    async def _open_and_run(self) -> None:
        """Start workers (or reach the scheduler named in the settings), then run jobs for ever."""
        modules = sorted(type(kind).__module__ for kind in self._book.kinds.values())
        await self._crew.open(PROGRESS_TOPIC, self._on_progress, self._on_reached, modules)
        self._spawn(self._hold_on())
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
        await asyncio.to_thread(self._book.cancel, job_id)
        await self._let_go(job_id)

    async def _let_go(self, job_id: int) -> None:
        """Stop the work for a job that is not this process's own any more."""
        running = self._running.pop(job_id, None)
        if running is not None:
            await self._crew.end(running.future)
            await self._clear_scratch(job_id)
        self._wake.set()

    async def _run(self) -> None:
        while True:
            self._wake.clear()
            try:
                await self._crew.watch()
                await self._hand_out_waiting()
            except Exception:
                _log.exception("jobs could not be taken from the database; trying again")
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._wake.wait(), _IDLE_LOOK_S)

    async def _hand_out_waiting(self) -> None:
        """As many as there are idle workers; while none can be reached, whatever waits says so."""
        if not self._crew.is_open:
            await asyncio.to_thread(self._book.say_why_waiting, _WAITS_FOR_WORKERS)
            return
        free = self._settings.workers - len(self._running)
        for job, call in await asyncio.to_thread(self._book.take, free) if free > 0 else []:
            self._hand_out(job, call)

    async def _hold_on(self) -> None:
        """Renew the leases of what runs here; what is not this process's own any more is let go."""
        while True:
            await asyncio.sleep(LEASE_S / 3)
            if not self._running:
                continue
            try:
                held = set(self._running)
                for job_id in held - await asyncio.to_thread(self._book.renew, held):
                    await self._let_go(job_id)
            except DBAPIError:
                _log.warning("leases could not be renewed; the database is away")
            except Exception:  # whoever renews them must not stop
                _log.exception("a job could not be let go")

    async def _follow_others(self) -> None:
        """Stop what was cancelled in another process."""
        async for event in self._events.listen():
            if event["kind"] == "job" and event["state"] == "cancelled" and event["job_id"] in self._running:
                await self._let_go(event["job_id"])

    def _hand_out(self, job: Job, call: Call) -> None:
        future = self._crew.submit(call)
        self._running[job.id] = _Running(job, future)
        self._spawn(self._wait_for(job, future))

    async def _wait_for(self, job: Job, future: Future) -> None:
        book = self._book
        try:
            result = await future
            settled = await asyncio.to_thread(book.kinds[job.kind].settle, job.id, result)
            await self._kept(book.succeed, job, settled)
        except FutureCancelledError:
            if job.id in self._running:  # nobody let go of it: the scheduler was lost
                await self._kept(book.wait_again, job)
        except EvenSeamError as error:
            await self._kept(book.refuse, job, error.detail)
        except KilledWorker:
            await self._kept(book.died, job)
        except CommClosedError:
            await self._kept(book.wait_again, job)
        except OSError as error:
            await self._kept(book.fail, job, f"The disk said no: {error.strerror or error}. Free some space.")
        except Exception:
            _log.exception("job %d failed", job.id)
            await self._kept(book.fail, job, "Something went wrong inside Even Seam; the log has the details.")
        finally:
            await self._clear_scratch(job.id)
            self._running.pop(job.id, None)
            self._wake.set()

    async def _clear_scratch(self, job_id: int) -> None:
        await asyncio.to_thread(shutil.rmtree, self._settings.scratch_of(job_id), ignore_errors=True)

    async def _kept(self, keep: Callable[..., None], *what: Any) -> None:
        """Keep how a job ended; while the database is away it is waited for, since nobody else knows."""
        while True:
            try:
                return await asyncio.to_thread(keep, *what)
            except DBAPIError as error:
                if not is_passing(error):
                    raise
                _log.warning("the database is away; the end of a job waits for it")
                await asyncio.sleep(_DATABASE_BACK_S)

    def _on_progress(self, event: tuple[float, Any]) -> None:
        told = event[1]
        running = self._running.get(told["job_id"]) if isinstance(told, dict) and "job_id" in told else None
        if running is not None:
            self._spawn(asyncio.to_thread(self._note_progress, running.job, told["progress"], told["stage"]))

    def _note_progress(self, job: Job, progress: float, stage: str) -> None:
        with contextlib.suppress(DBAPIError):  # the next one tells as much
            self._book.note_progress(job, progress, stage)

    def _on_reached(self, is_reached: bool) -> None:
        self._spawn(asyncio.to_thread(self._say_why_waiting, "" if is_reached else _WAITS_FOR_WORKERS))

    def _say_why_waiting(self, words: str) -> None:
        with contextlib.suppress(DBAPIError):
            self._book.say_why_waiting(words)

    def _spawn(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.get_running_loop().create_task(work)
        self._background.add(task)
        task.add_done_callback(self._background.discard)
