"""Several application processes on one database: jobs are handed out by all of them, and one that dies loses nothing."""

import contextlib
import json
import signal
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from random import Random
from typing import Any

import psutil
import pytest
from sqlalchemy import select

from evenseam.core.audio.encode import write_wav
from evenseam.store.database import Database
from evenseam.store.models import Event, Job, Production, Recording
from tests.api.conftest import wait_for
from tests.api.server import Application, own_database
from tests.conftest import drum_loop

pytestmark = pytest.mark.xdist_group("processes")  # they share two applications

JOBS = 40


@dataclass(frozen=True)
class Pair:
    """Two applications on one database and one media folder, and a production."""

    first: Application
    second: Application
    database: Database
    production: int


@pytest.fixture(scope="module")
def two(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Application, Application]]:
    folder = tmp_path_factory.mktemp("two")
    media = f"file://{folder / 'media'}"
    with own_database() as (url, _):
        first, second = (Application(url, folder / name, "http://127.0.0.1:1", media_url=media) for name in ("a", "b"))
        try:
            yield first, second
        finally:
            for running in (first, second):
                if running.is_running:
                    running.stop()


@pytest.fixture
def pair(two: tuple[Application, Application]) -> Iterator[Pair]:
    for application in two:
        if not application.is_running:
            application.start()
    database = Database(two[0].database_url)
    with database.transaction() as session:
        production = Production(name="Shared")
        session.add(production)
    yield Pair(*two, database, production.id)
    database.dispose()


def recordings(folder: Path) -> list[bytes]:
    """Many short recordings, each other than the others."""
    audio, made = drum_loop(6.0, 11_025), []
    for k in range(JOBS):
        write_wav(folder / "one.wav", audio.samples * (1 - k / (4 * JOBS)), audio.rate, "int16")
        made.append((folder / "one.wav").read_bytes())
    return made


def workers_of(application: Application) -> list[psutil.Process]:
    """The processes that work for it now: forked from a child of it."""
    found = []
    for process in psutil.Process(application.pid).children(recursive=True):
        with contextlib.suppress(psutil.Error):  # it ended in this moment
            if process.ppid() != application.pid:
                found.append(process)
    return found


def cut_off(application: Application) -> None:
    """End it and what works for it as when the power fails."""
    left_behind = workers_of(application)
    application.stop(signal.SIGKILL)
    for orphan in left_behind:
        with contextlib.suppress(psutil.NoSuchProcess):  # it ended by itself
            orphan.kill()


def jobs(pair: Pair) -> list[Job]:
    with pair.database.transaction() as session:
        return list(session.scalars(select(Job).where(Job.production_id == pair.production)))


def until_done(pair: Pair, count: int) -> None:
    wait_for(lambda: sum(j.state == "done" for j in jobs(pair)), lambda n: n >= count)


def test_many_jobs_are_done_once_though_a_process_and_a_worker_are_killed(pair: Pair, tmp_path: Path) -> None:
    def add(numbered: tuple[int, bytes]) -> int:
        number, data = numbered
        at = (pair.first, pair.second)[number % 2]
        address = f"/productions/{pair.production}/tracks"
        return at.api.post(address, params={"file_name": f"{number}.wav"}, content=data).status_code

    with ThreadPoolExecutor(4) as pool:
        assert set(pool.map(add, enumerate(recordings(tmp_path)))) == {201}
    until_done(pair, 10)
    wait_for(lambda: {j.leased_by for j in jobs(pair) if j.state == "running"}, lambda owners: len(owners) == 2)
    worker = Random(3).choice(workers_of(pair.second))
    assert psutil.Process(worker.ppid()).num_threads() == 1, "nothing is forked beside a thread that may hold something"
    worker.kill()
    cut_off(pair.first)
    until_done(pair, JOBS)
    ended = jobs(pair)
    assert len(ended) == JOBS
    assert {(j.state, j.leased_by) for j in ended} == {("done", None)}
    assert sum(j.deaths for j in ended) <= 1, "only the worker that was killed by itself counts"
    with pair.database.transaction() as session:
        heard = session.scalars(select(Recording.hearings)).all()
        assert heard == [1] * JOBS, "kept once each"
        told = session.scalars(select(Event.body).where(Event.body["kind"].as_string() == "job")).all()
    done = [body["job_id"] for body in told if body["state"] == "done"]
    assert len(done) == len(set(done)), "and told once"


def listen_to_events(application: Application, until: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
    """The first event of a kind that a page of this application is told; fails when there is none."""
    with urllib.request.urlopen(f"{application.url}/api/events", timeout=60) as stream:
        for line in stream:
            if line.startswith(b"data:"):
                event: dict[str, Any] = json.loads(line[5:])
                if until(event):
                    return event
    raise AssertionError("the stream ended")


def test_pages_of_one_process_are_told_what_was_done_in_the_other_and_cancel_reaches_it(pair: Pair, tmp_path: Path) -> None:
    def is_told(event: dict[str, Any]) -> bool:
        if event["kind"] == "hello":
            address = f"/productions/{pair.production}/pictures/blank"
            assert pair.second.api.post(address, json={"name": "Loop", "rate": "25", "length": "0:10"}).status_code == 201
        return event["kind"] == "picture"

    assert listen_to_events(pair.first, is_told)["production_id"] == pair.production

    write_wav(tmp_path / "long.wav", drum_loop(300.0).samples, 22_050, "int16")
    address = f"/productions/{pair.production}/tracks"
    with (tmp_path / "long.wav").open("rb") as body:
        track = pair.first.api.post(address, params={"file_name": "long.wav"}, content=body).json()
    running = wait_for(lambda: jobs(pair)[-1], lambda j: j.state == "running")
    holder, other = (pair.first, pair.second) if running.leased_by == instance(pair.first) else (pair.second, pair.first)
    at_work = {p.pid for p in workers_of(holder)}

    def is_cancelled(event: dict[str, Any]) -> bool:
        if event["kind"] == "hello":
            assert other.api.post(f"/jobs/{running.id}/cancel").json()["state"] == "cancelled"
        return event["kind"] == "job" and event["state"] == "cancelled"

    told = listen_to_events(holder, is_cancelled)
    assert told["job"]["state"] == "cancelled"
    assert [(t["id"], t["state"]) for t in told["tracks_now"]] == [(track["id"], "cancelled")], "nobody needs to ask"
    wait_for(lambda: {p.pid for p in workers_of(holder)}, lambda now: len(now - at_work) == 1 and len(now) == len(at_work))
    assert other.api.get(f"/tracks/{track['id']}").json()["state"] == "cancelled"


def instance(application: Application) -> str:
    return (application.data / "instance").read_text()


def test_a_process_that_starts_again_takes_up_what_it_had_at_once(pair: Pair, tmp_path: Path) -> None:
    pair.second.stop()
    write_wav(tmp_path / "long.wav", drum_loop(45.0).samples, 22_050, "int16")
    address = f"/productions/{pair.production}/tracks"
    pair.first.api.post(address, params={"file_name": "long.wav"}, content=(tmp_path / "long.wav").read_bytes())
    wait_for(lambda: jobs(pair)[-1].state, lambda state: state == "running")
    cut_off(pair.first)
    pair.first.start()
    until_done(pair, 1)
    assert jobs(pair)[-1].deaths == 0, "nobody died at it"
