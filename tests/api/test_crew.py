"""The workers: ended from within, brought back, and closed to everybody else."""

import asyncio
import os
import signal
import time
from collections.abc import Awaitable, Callable
from functools import partial
from pathlib import Path

import pytest
from distributed import Client

from evenseam.core.errors import SetUpError
from evenseam.jobs.crew import Crew, given_security
from tests.api.conftest import WITHIN_S
from tests.api.server import settings_for


def busy(seconds: float) -> int:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        pass
    return os.getpid()


def with_crew(folder: Path, act: Callable[[Crew], Awaitable[None]]) -> None:
    async def run() -> None:
        (folder / "scratch").mkdir(parents=True)
        crew = Crew(settings_for(folder))
        await crew.open("nothing", lambda _event: None)
        try:
            await act(crew)
        finally:
            await crew.close()

    asyncio.run(run())


async def until(holds: Callable[[], Awaitable[bool]]) -> None:
    deadline = time.monotonic() + WITHIN_S
    while not await holds():
        assert time.monotonic() < deadline
        await asyncio.sleep(0.05)


async def pids(crew: Crew) -> set[int]:
    assert crew._client is not None
    return set((await crew._client.run(os.getpid, on_error="ignore")).values())


def test_a_worker_ends_itself_and_no_other_work_is_touched(tmp_path: Path) -> None:
    async def act(crew: Crew) -> None:
        before = await pids(crew)
        first, second = crew.submit(partial(busy, 600)), crew.submit(partial(busy, 3))

        async def both_run() -> bool:
            assert crew._client is not None
            return all((await crew._client.processing()).values())

        await until(both_run)
        await crew.end(first)
        assert await second in before, "what ran beside it went on"

        async def is_whole() -> bool:
            return len(await pids(crew)) == 2

        await until(is_whole)
        assert len(await pids(crew) - before) == 1, "one worker is new"
        done = crew.submit(partial(busy, 0))
        assert await done
        await crew.end(done)
        assert len(await pids(crew)) == 2, "ending what is over ends nothing"

    with_crew(tmp_path, act)


def test_workers_that_the_cluster_forgot_are_brought_back(tmp_path: Path) -> None:
    async def act(crew: Crew) -> None:
        assert crew._cluster is not None
        for name in list(crew._cluster.workers):
            await crew._cluster.workers.pop(name).close()
        await crew.watch()
        assert await crew.submit(partial(busy, 0))

        async def is_whole() -> bool:
            return len(await pids(crew)) == 2

        await until(is_whole)

    with_crew(tmp_path, act)


def test_a_key_that_stops_the_server_is_not_for_its_workers(tmp_path: Path) -> None:
    async def act(crew: Crew) -> None:
        before = await pids(crew)
        for pid in before:
            os.kill(pid, signal.SIGINT)
        assert await crew.submit(partial(busy, 0)) in before
        assert await pids(crew) == before

    with_crew(tmp_path, act)


def test_nobody_without_our_certificate_hands_out_work(tmp_path: Path) -> None:
    async def act(crew: Crew) -> None:
        assert crew._cluster is not None
        address = crew._cluster.scheduler_address
        assert address.startswith("tls://127.0.0.1:")
        with pytest.raises(OSError, match=r"imed out|closed|[Cc]onnect"):
            await Client(address.replace("tls://", "tcp://"), asynchronous=True, timeout=2)

    with_crew(tmp_path, act)


def test_a_scheduler_elsewhere_needs_certificates(tmp_path: Path) -> None:
    with pytest.raises(SetUpError, match="EVENSEAM_SCHEDULER_CA"):
        given_security(settings_for(tmp_path, scheduler_address="tcp://10.0.0.5:8786"))
    assert given_security(settings_for(tmp_path, scheduler_address="tcp://127.0.0.1:8786")) is None
