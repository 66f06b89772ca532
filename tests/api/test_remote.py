"""Workers elsewhere: a scheduler and workers started by command, reached with certificates only, and lost and found again."""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psutil
import pytest
from distributed.security import Security

from evenseam.core.audio.encode import write_wav
from evenseam.store.database import Database
from evenseam.store.models import Production
from tests.api.conftest import wait_for
from tests.api.server import Application, free_port, own_database
from tests.conftest import drum_loop


class Elsewhere:
    """`dask scheduler` and `dask worker` as an operator starts them, with certificates made for the test."""

    def __init__(self, folder: Path) -> None:
        made = Security.temporary()
        self.files = {"ca": made.tls_ca_file, "cert": made.tls_client_cert, "key": made.tls_client_key}
        for name, pem in self.files.items():
            (folder / f"{name}.pem").write_text(pem)
        self._folder, self.port = folder, free_port()
        self.address = f"tls://127.0.0.1:{self.port}"
        self._running: dict[str, subprocess.Popen[bytes]] = {}

    def file(self, name: str) -> str:
        return str(self._folder / f"{name}.pem")

    def _run(self, what: str, *arguments: str) -> None:
        tls = ["--tls-ca-file", self.file("ca"), "--tls-cert", self.file("cert"), "--tls-key", self.file("key")]
        env = {**os.environ, "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "0"}
        with (self._folder / f"{what}.log").open("ab") as log:
            command = [sys.executable, "-m", "dask", what, *arguments, *tls]
            self._running[what] = subprocess.Popen(command, env=env, stdout=log, stderr=log, cwd=self._folder)

    def start(self) -> None:
        place = ["--host", "127.0.0.1", "--port", str(self.port), "--protocol", "tls", "--no-dashboard"]
        self._run("scheduler", *place)
        alone = ["--nworkers", "1", "--nthreads", "1", "--host", "tls://127.0.0.1", "--no-dashboard"]
        self._run("worker", self.address, *alone, "--preload", "evenseam.services.work.listening")

    def stop(self) -> None:
        for process in self._running.values():
            for child in [*psutil.Process(process.pid).children(recursive=True), process]:
                child.kill()
            process.wait()
        self._running.clear()

    def worker_pids(self) -> set[int]:
        worker = psutil.Process(self._running["worker"].pid)
        return {p.pid for p in worker.children(recursive=True) if p.status() != psutil.STATUS_ZOMBIE}


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[Elsewhere]:
    scheduler = Elsewhere(tmp_path)
    scheduler.start()
    yield scheduler
    scheduler.stop()


def test_workers_elsewhere_listen_are_stopped_and_come_back(elsewhere: Elsewhere, tmp_path: Path) -> None:
    keys = {f"scheduler_{name}": elsewhere.file(name) for name in ("ca", "cert", "key")}
    with own_database() as (url, data):
        database = Database(url)
        with database.transaction() as session:
            production = Production(name="Elsewhere")
            session.add(production)
        database.dispose()
        running = Application(url, data, "http://127.0.0.1:1", scheduler_address=elsewhere.address, workers="1", **keys)
        running.start()
        try:
            _all_of_it(running, elsewhere, production.id, tmp_path)
        finally:
            running.stop()


def _all_of_it(running: Application, elsewhere: Elsewhere, production: int, folder: Path) -> None:
    def add(name: str, seconds: float) -> dict[str, Any]:
        write_wav(folder / name, drum_loop(seconds).samples, 22_050, "int16")
        sent = {"params": {"file_name": name}, "content": (folder / name).read_bytes()}
        return dict(running.api.post(f"/productions/{production}/tracks", **sent).json())

    def track(made: dict[str, Any]) -> dict[str, Any]:
        return dict(running.api.get(f"/tracks/{made['id']}").json())

    short = add("short.wav", 8.0)
    wait_for(lambda: track(short)["state"], lambda state: state == "ready")

    long = add("long.wav", 300.0)
    wait_for(lambda: track(long)["job"]["progress"], lambda progress: progress > 0)
    at_work, server = elsewhere.worker_pids(), psutil.Process(running.pid)
    running.api.post(f"/jobs/{track(long)['job']['id']}/cancel")
    wait_for(lambda: elsewhere.worker_pids() - at_work, lambda fresh: bool(fresh))
    assert server.is_running(), "no process of the server's own machine was touched"
    again = add("again.wav", 9.0)
    wait_for(lambda: track(again)["state"], lambda state: state == "ready")

    lost = add("lost.wav", 45.0)
    wait_for(lambda: track(lost)["job"]["progress"], lambda progress: progress > 0)
    elsewhere.stop()
    waiting = wait_for(lambda: track(lost)["job"], lambda job: job["state"] == "waiting" and job["stage"])
    assert waiting["stage"] == "Waiting for the workers, which cannot be reached"
    elsewhere.start()
    wait_for(lambda: track(lost), lambda found: found["state"] == "ready")
