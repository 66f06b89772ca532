"""The real application in a process of its own, and Debian's Chromium in front of it."""

import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from evenseam.catalogue.app import Weather
from evenseam.demo.load import load_demo
from evenseam.store.database import Database
from evenseam.store.media import MediaStore
from tests.api.server import WEB, free_port, own_catalogue, own_database, settings_for

# Far more than any of it takes, for a machine that is busy: a test that fails by the clock says nothing of the code.
STARTS_WITHIN_S = 240
WITHIN_MS = 180_000

expect.set_options(timeout=WITHIN_MS)

# Whatever is sent to the loudspeaker also goes to an analyser, so that a test can hear it.
_EARS = """
const connect = AudioNode.prototype.connect
AudioNode.prototype.connect = function (to, ...rest) {
  if (to instanceof AudioDestinationNode && !(this instanceof AnalyserNode)) {
    window.ears = this.context.createAnalyser()
    connect.call(this, window.ears)
  }
  return connect.call(this, to, ...rest)
}
window.loudness = () => {
  if (!window.ears) return 0
  const wave = new Float32Array(window.ears.fftSize)
  window.ears.getFloatTimeDomainData(wave)
  return Math.sqrt(wave.reduce((sum, v) => sum + v * v, 0) / wave.length)
}
"""


class Application:
    """A running server that can be stopped and started again on the same data."""

    def __init__(self, url: str, data: Path, catalogue_url: str) -> None:
        self._data, self.database_url, self._catalogue_url = data, url, catalogue_url
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        env = {
            **os.environ,
            "EVENSEAM_DATABASE_URL": self.database_url,
            "EVENSEAM_DATA_DIR": str(self._data),
            "EVENSEAM_PORT": str(self.port),
            "EVENSEAM_CATALOGUE_URL": self._catalogue_url,
            "EVENSEAM_LOG_LEVEL": "warning",
        }
        self._process = subprocess.Popen([sys.executable, "-m", "evenseam.cli", "serve"], env=env)
        deadline = time.monotonic() + STARTS_WITHIN_S
        while True:
            try:
                urllib.request.urlopen(f"{self.url}/api/health", timeout=1).close()
                return
            except OSError:
                assert time.monotonic() < deadline, "the server did not start"
                assert self._process.poll() is None, "the server ended"
                time.sleep(0.1)

    def stop(self, how: int = signal.SIGINT) -> None:
        assert self._process is not None
        self._process.send_signal(how)
        self._process.wait(timeout=STARTS_WITHIN_S)


@pytest.fixture(scope="session")
def catalogue() -> Iterator[tuple[str, Weather]]:
    with own_catalogue() as running:
        yield running


@pytest.fixture
def weather(catalogue: tuple[str, Weather]) -> Iterator[Weather]:
    """How the catalogue is today; fine again afterwards."""
    yield catalogue[1]
    catalogue[1].clear_up()


@pytest.fixture(scope="session")
def application(catalogue: tuple[str, Weather]) -> Iterator[Application]:
    assert (WEB / "index.html").is_file(), "build the front end first: npm --prefix web run build"
    with own_database() as (url, data):
        settings = settings_for(data)
        database = Database(url)
        settings.scratch_dir.mkdir(parents=True)
        load_demo(database, MediaStore(settings.media_location, settings.scratch_dir / "cache"))
        database.dispose()
        running = Application(url, data, catalogue[0])
        running.start()
        yield running
        running.stop()


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    args = ["--autoplay-policy=no-user-gesture-required", "--disable-background-networking"]
    return {**browser_type_launch_args, "executable_path": shutil.which("chromium"), "args": args}


@pytest.fixture
def page(context: BrowserContext, application: Application) -> Iterator[Page]:
    """A page on the application that fails its test if anything is asked of another host or an error is thrown."""
    errors: list[str] = []
    context.on("request", lambda r: errors.append(r.url) if not r.url.startswith((application.url, "blob:", "data:")) else None)
    context.add_init_script(_EARS)
    page = context.new_page()
    page.set_viewport_size({"width": 1280, "height": 800})
    page.set_default_timeout(WITHIN_MS)
    page.on("pageerror", lambda e: errors.append(str(e)))
    page.goto(application.url)
    yield page
    assert not errors
