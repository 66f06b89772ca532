"""The real application in a process of its own, and Debian's Chromium in front of it."""

import hashlib
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect
from sqlalchemy import select

from evenseam.catalogue.app import Weather
from evenseam.core.chart import Chart
from evenseam.demo.load import MUSIC, load_demo
from evenseam.demo.scores import SCORES
from evenseam.services.work.listening import hear_into
from evenseam.store.database import Database
from evenseam.store.jobs import delete_jobs
from evenseam.store.media import MediaStore, chart_name, original_name
from evenseam.store.models import Track
from evenseam.store.tracks import keep_heard
from tests.api.server import WEB, Application, own_catalogue, own_database, settings_for
from tests.prepared import SOURCE, prepared

# Far more than any of it takes, for a machine that is busy: a test that fails by the clock says nothing of the code.
WITHIN_MS = 180_000

_SCORES = SCORES[:3]

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


@pytest.fixture(scope="session")
def catalogue() -> Iterator[tuple[str, Weather]]:
    with own_catalogue() as running:
        yield running


@pytest.fixture
def weather(catalogue: tuple[str, Weather]) -> Iterator[Weather]:
    """How the catalogue is today; fine again afterwards."""
    yield catalogue[1]
    catalogue[1].clear_up()


def _hear_demo(into: Path) -> None:
    """Media of the demo's tracks as listening leaves them."""
    media = MediaStore(f"file://{into}", into / "cache")
    with tempfile.TemporaryDirectory() as scratch:
        for score in _SCORES:
            copy = Path(scratch, "copy.ogg")
            sha256 = hashlib.sha256(shutil.copyfile(MUSIC / f"{score.slug}.ogg", copy).read_bytes()).hexdigest()
            media.put_file(copy, original_name(sha256, ".ogg"))
            hear_into(media, Path(scratch), sha256, ".ogg", lambda _part, _stage: None)


def _load(database: Database, media: MediaStore) -> None:
    load_demo(database, media, _SCORES)
    with database.transaction() as session:
        tracks = list(session.scalars(select(Track)))
        for track in tracks:
            keep_heard(session, track.sha256, Chart.from_bytes(media.read(chart_name(track.sha256))), 2)
        delete_jobs(session, "track", [track.id for track in tracks])
    database.dispose()


@contextmanager
def with_demo(catalogue_url: str) -> Iterator[Application]:
    """The application as `./start` starts it, with the demo production, three of its tracks, and nothing else.

    The tracks are heard; the films are still to be looked through.
    """
    assert (WEB / "index.html").is_file(), "build the front end first: npm --prefix web run build"
    with own_database() as (url, data):
        settings = settings_for(data)
        made_from = [SOURCE / part for part in ("core", "services/work", "store/media.py")]
        shutil.copytree(prepared("demo-media", made_from, _hear_demo), data / "media")
        settings.scratch_dir.mkdir(parents=True)
        _load(Database(url), MediaStore(settings.media_location, settings.scratch_dir / "cache"))
        running = Application(url, data, catalogue_url)
        running.start()
        yield running
        running.stop()


@pytest.fixture(scope="session")
def application(catalogue: tuple[str, Weather]) -> Iterator[Application]:
    with with_demo(catalogue[0]) as running:
        yield running


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
