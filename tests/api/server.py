"""A MariaDB and a music catalogue of the tests' own, and the application on them."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import uvicorn

from evenseam.catalogue.app import Weather, create_catalogue
from evenseam.ops.mariadb import FAST, MariaDbServer
from evenseam.settings import Settings
from evenseam.store.database import create_if_missing, migrate
from tests.prepared import SOURCE, prepared

STARTS_WITHIN_S = 240
WEB = Path(__file__).parents[2] / "web" / "dist"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def own_database() -> Iterator[tuple[str, Path]]:
    """A migrated, empty database on loopback and a data folder; both gone afterwards. Yields address and folder."""
    empty = prepared("database", [SOURCE / "store" / "migrations", SOURCE / "ops" / "mariadb.py"], _make_database)
    where = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    with tempfile.TemporaryDirectory(prefix="evenseam-db-", dir=where) as folder, tempfile.TemporaryDirectory() as data:
        shutil.copytree(empty, folder, dirs_exist_ok=True)
        with _running(Path(folder)) as url:
            yield url, Path(data)


def _make_database(folder: Path) -> None:
    with _running(folder) as url:
        create_if_missing(url)
        migrate(url)


@contextmanager
def _running(folder: Path) -> Iterator[str]:
    server = MariaDbServer(folder, free_port(), FAST)
    server.start()
    try:
        yield server.url("evenseam")
    finally:
        server.stop()


@contextmanager
def own_catalogue() -> Iterator[tuple[str, Weather]]:
    """The catalogue stand-in on loopback. Yields its address and its weather, which a test may change."""
    weather, port = Weather(), free_port()
    server = uvicorn.Server(uvicorn.Config(create_catalogue(weather), "127.0.0.1", port, log_level="critical"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{port}", weather
    finally:
        server.should_exit = True
        thread.join(timeout=30)


def settings_for(data: Path, port: int = 8620, **more: object) -> Settings:
    return Settings(data_dir=data, port=port, web_dir=WEB, log_level="warning", **more)  # type: ignore[arg-type]


class Application:
    """A running server that can be stopped and started again on the same data."""

    def __init__(self, url: str, data: Path, catalogue_url: str, **settings: str) -> None:
        self.data, self.database_url, self._catalogue_url = data, url, catalogue_url
        self._settings = {f"EVENSEAM_{name.upper()}": value for name, value in settings.items()}
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        # As patient as the tests are: on a machine with much to do a page may come late, and is no less right. Each asks on a
        # connection of its own: the server hangs up on those that are idle, and is stopped and started again.
        alone = httpx.Limits(max_keepalive_connections=0)
        self.api = httpx.Client(base_url=f"{self.url}/api", timeout=STARTS_WITHIN_S, limits=alone)
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        env = {
            **os.environ,
            "EVENSEAM_DATABASE_URL": self.database_url,
            "EVENSEAM_DATA_DIR": str(self.data),
            "EVENSEAM_PORT": str(self.port),
            "EVENSEAM_CATALOGUE_URL": self._catalogue_url,
            "EVENSEAM_LOG_LEVEL": "warning",
            **self._settings,
        }
        # With signals of its own: what a shell starts in its background does not hear of SIGINT.
        command = ["env", "--default-signal=INT", sys.executable, "-m", "evenseam.cli", "serve"]
        self._process = subprocess.Popen(command, env=env)
        deadline = time.monotonic() + STARTS_WITHIN_S
        while True:
            try:
                urllib.request.urlopen(f"{self.url}/api/health", timeout=1).close()
                return
            except OSError:
                assert time.monotonic() < deadline, "the server did not start"
                assert self._process.poll() is None, "the server ended"
                time.sleep(0.1)

    @property
    def is_running(self) -> bool:
        return self._process is not None and self._process.poll() is None

    @property
    def pid(self) -> int:
        assert self._process is not None
        return self._process.pid

    def stop(self, how: int = signal.SIGINT) -> None:
        assert self._process is not None
        self._process.send_signal(how)
        self._process.wait(timeout=STARTS_WITHIN_S)
