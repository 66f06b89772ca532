"""The worker processes: started or reached, watched over, and ended from within.

Workers of our own are forked from a process that holds what they need: it is imported once, and one that takes the place of
another is there at once.

Who may talk to the scheduler may run code as we do, so it speaks TLS only, and only with those who hold a certificate: made
for this run in memory where the workers are our own, given in the settings for a scheduler elsewhere.
"""

import asyncio
import contextlib
import ipaddress
import logging
import os
from collections.abc import Callable, Collection
from multiprocessing import forkserver
from typing import Any
from urllib.parse import urlsplit

import dask
from distributed import Client, Future, LocalCluster, Scheduler, Worker
from distributed.security import Security
from distributed.utils import get_mp_context

from evenseam.core.errors import SetUpError
from evenseam.jobs.interrupts import unheard
from evenseam.settings import Settings

_log = logging.getLogger(__name__)
_TRY_AGAIN_S = 5.0
# A worker that restarts is forgotten by its cluster after this time: long enough that none ever is.
_NEVER = "3650 days"

# Workers with nothing to do cost nothing: nobody reads their profiles, and work goes only to those that are free.
_QUIET = {
    "distributed.worker.profile.enabled": False,
    "distributed.admin.tick.interval": "10s",
    "distributed.admin.tick.limit": "60s",
    "distributed.client.scheduler-info-interval": "60s",
    "distributed.admin.system-monitor.interval": "10s",
    "distributed.admin.system-monitor.gil.enabled": False,
    "distributed.worker.memory.monitor-interval": "1s",
    "distributed.scheduler.work-stealing": False,
    "distributed.scheduler.active-memory-manager.start": False,
}
# A worker that ends is known at once by its connection; that it is well can be said now and then.
_BEAT_S, _SYNC_S, _LOOK_MS = 10.0, 60, 5000


class Crew:
    """The workers of one application. `open` returns when there is a scheduler to hand work to."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self._modules: Collection[str] = ()
        self._cluster: LocalCluster | None = None
        self._client: Client | None = None
        self._reaching: asyncio.Future[None] | None = None
        self._topic = ""
        self._on_event: Callable[[Any], None] = _ignore
        self._on_reached: Callable[[bool], None] = _ignore

    async def open(
        self,
        topic: str,
        on_event: Callable[[Any], None],
        on_reached: Callable[[bool], None] | None = None,
        modules: Collection[str] = (),
    ) -> None:
        """Start workers, or reach the scheduler of the settings; it is tried until it works. Events of `topic` come in.

        `on_reached` is told False when the scheduler cannot be reached, and True when it is. `modules`: what workers of our
        own hold ready, those that define their work.
        """
        self._topic, self._on_event, self._on_reached = topic, on_event, on_reached or _ignore
        self._modules = modules
        await self._open()

    async def _open(self) -> None:
        dask.config.set(
            {
                "distributed.scheduler.allowed-failures": 0,
                "distributed.worker.daemon": True,
                "distributed.worker.multiprocessing-method": "forkserver",
                "distributed.deploy.lost-worker-timeout": _NEVER,
                **_QUIET,
            }
        )
        while True:
            try:
                self._reaching = asyncio.ensure_future(self._reach())
                await asyncio.shield(self._reaching)
                break
            except (OSError, TimeoutError) as error:
                _log.error("the workers cannot be reached (%s); trying again", error)
                self._on_reached(False)
                await asyncio.sleep(_TRY_AGAIN_S)
        assert self._client is not None
        self._on_reached(True)
        self._client.subscribe_topic(self._topic, self._on_event)

    async def close(self) -> None:
        """End the workers that are our own, and let go of the others. Workers that are just starting are waited for."""
        if self._reaching is not None:
            await asyncio.gather(self._reaching, return_exceptions=True)
        if self._client is not None:
            await self._client.close()
        if self._cluster is not None:
            await self._cluster.close()

    @property
    def is_open(self) -> bool:
        """Whether work can be handed out now: a scheduler elsewhere may be away for a while."""
        return self._client is not None and self._client.status == "running"

    def submit(self, call: Callable[[], Any]) -> Future:
        """Hand out one piece of work. It is never run twice by itself."""
        assert self._client is not None
        return self._client.submit(call, pure=False, retries=0)

    async def end(self, future: Future) -> None:
        """Stop a piece of work: what waits is dropped, and a worker that is at it ends itself."""
        if not self.is_open or self._client is None:
            return  # with the scheduler went what it had
        running = await self._client.processing()
        address = next((a for a, keys in running.items() if future.key in keys), None)
        await future.cancel()
        if address is not None:
            with contextlib.suppress(OSError, TimeoutError, ValueError):  # it may be gone by now, and its work with it
                await self._client.run(_end_if_at, future.key, workers=[address])

    async def watch(self) -> None:
        """Bring back workers of our own that are missing, or reach a scheduler elsewhere again that was lost."""
        if self._cluster is None and self._client is not None and self._client.status == "closed":
            _log.warning("the scheduler was lost; reaching it again")
            self._on_reached(False)
            await self._client.close(timeout=_TRY_AGAIN_S)
            await self._open()
        if self._cluster is not None and len(self._cluster.workers) < self._settings.workers:
            _log.warning("%d of %d workers are left; starting more", len(self._cluster.workers), self._settings.workers)
            await self._cluster.scale(self._settings.workers)

    async def _reach(self) -> None:
        settings = self._settings
        if settings.scheduler_address is not None:
            self._client = await Client(settings.scheduler_address, security=given_security(settings), asynchronous=True)
            return
        _hold_ready(self._modules)
        security = Security.temporary()
        self._cluster = await LocalCluster(
            processes=True,
            n_workers=settings.workers,
            threads_per_worker=1,
            host="127.0.0.1",
            protocol="tls://",
            security=security,
            dashboard_address="127.0.0.1:0",
            local_directory=str(settings.scratch_dir / "workers"),
            memory_limit=None,
            asynchronous=True,
            scheduler_sync_interval=_SYNC_S,
            silence_logs=logging.ERROR,
        )
        _quieten(self._cluster.scheduler)
        self._client = await Client(self._cluster, security=security, asynchronous=True)


def _hold_ready(modules: Collection[str]) -> None:
    """Start the process that workers are forked from, which imports some modules.

    What stops the server is not for it and its workers: the server ends them.
    """
    get_mp_context().set_forkserver_preload(["distributed", *modules])  # in place of what dask would import there
    os.environ.update({k: str(v) for k, v in dask.config.get("distributed.nanny.pre-spawn-environ").items()})  # one thread each
    with unheard():
        forkserver.ensure_running()


def given_security(settings: Settings) -> Security | None:
    """The certificates for a scheduler elsewhere. Raises: SetUpError where they are missing and others could listen."""
    files = (settings.scheduler_ca, settings.scheduler_cert, settings.scheduler_key)
    if all(files):
        ca, cert, key = (str(f) for f in files)
        return Security(tls_ca_file=ca, tls_client_cert=cert, tls_client_key=key, require_encryption=True)
    host = urlsplit(settings.scheduler_address or "").hostname or ""
    with contextlib.suppress(ValueError):
        if host == "localhost" or ipaddress.ip_address(host).is_loopback:
            return None
    raise SetUpError(
        "A scheduler on another machine takes code from whoever reaches it. Give it certificates, and name ours in "
        "EVENSEAM_SCHEDULER_CA, EVENSEAM_SCHEDULER_CERT and EVENSEAM_SCHEDULER_KEY."
    )


def _quieten(scheduler: Scheduler) -> None:
    """Have workers say every `_BEAT_S` that they are well, for which dask has no setting; and look for idleness more seldom."""
    beat = scheduler.handlers["heartbeat_worker"]

    def seldom(*args: Any, **kwargs: Any) -> dict[str, Any]:
        return {**beat(*args, **kwargs), "heartbeat-interval": _BEAT_S}

    scheduler.handlers["heartbeat_worker"] = seldom
    for name in ("idle-timeout", "no-workers-timeout"):
        scheduler.periodic_callbacks[name].callback_time = _LOOK_MS


def _ignore(_told: Any) -> None:
    """Nobody wants to know."""


def _end_if_at(key: str, dask_worker: Worker) -> None:
    """Runs inside a worker: the process ends if it is at this piece of work now, and at no other one."""
    if any(task.key == key for task in dask_worker.state.executing):
        os._exit(1)
