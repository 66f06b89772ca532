"""`evenseam up`: database, schema, demo, server; and all of it down again, cleanly."""

import shutil
import signal
import socket
import subprocess
import sys
import threading
from types import FrameType

from evenseam.api.doors import check_address
from evenseam.core.errors import EvenSeamError
from evenseam.demo.load import load_demo
from evenseam.jobs.crew import given_security
from evenseam.jobs.instance import alone_on
from evenseam.ops.mariadb import MariaDbServer
from evenseam.ops.server import serve
from evenseam.settings import Settings
from evenseam.store.database import Database, create_if_missing, migrate
from evenseam.store.media import MediaStore

_LEAST_FREE_MB = 500
_LOOK_EVERY_S = 2.0


class StartError(EvenSeamError):
    """The application cannot start; the text is one plain line."""

    code = "start"


def up() -> None:
    """Start everything and serve until stopped. Raises: EvenSeamError in one plain line."""
    settings = Settings()
    check_address(settings)
    if settings.scheduler_address is not None:
        given_security(settings)
    with alone_on(settings):
        _run(settings)


def _run(settings: Settings) -> None:
    """Start, serve, and stop all of it again."""
    _check_disk(settings)
    _check_port(settings)
    catalogue = None if settings.catalogue_url else _start_catalogue(settings.catalogue_port)
    server = None if settings.database_url else MariaDbServer(settings.database_dir, settings.database_port)
    signal.signal(signal.SIGTERM, _as_interrupt)
    signal.signal(signal.SIGHUP, _as_terminate)
    try:
        if server is not None:
            _say("database: starting")
            server.start()
        url = settings.database_url or (server.url("evenseam") if server else "")
        _say("database: bringing the schema up to date")
        create_if_missing(url)
        migrate(url)
        _load_demo(settings, url)
        if server is not None:
            threading.Thread(target=_keep_alive, args=(server,), daemon=True).start()
        _say(f"ready at http://{settings.host}:{settings.port}  (Ctrl-C stops it)")
        serve(settings, url)
    except KeyboardInterrupt:
        pass
    finally:
        if server is not None:
            _stopping.set()
            server.stop()
        if catalogue is not None:
            catalogue.terminate()
            catalogue.wait()
        _say("stopped")


_stopping = threading.Event()


def _start_catalogue(port: int) -> "subprocess.Popen[bytes]":
    """The catalogue stand-in as a program of its own; without it everything else still works."""
    # A new session, so that Ctrl-C reaches it through us, after the server has stopped.
    return subprocess.Popen([sys.executable, "-m", "evenseam.cli", "catalogue", "--port", str(port)], start_new_session=True)


def _keep_alive(server: MariaDbServer) -> None:
    """Bring the database back if it dies under the application."""
    while not _stopping.wait(_LOOK_EVERY_S):
        if not server.answers() and not _stopping.is_set():
            _say("database: it ended unexpectedly; starting it again")
            try:
                server.start()
            except EvenSeamError as error:
                _say(f"database: {error.detail}")


def _as_interrupt(_number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _as_terminate(_number: int, _frame: FrameType | None) -> None:
    """A closed terminal ends the application as a stop does: the server has its own handler for that signal."""
    signal.raise_signal(signal.SIGTERM)


def _say(words: str) -> None:
    try:
        print(f"even seam: {words}", flush=True)
    except OSError:  # the terminal is gone
        sys.stdout = open("/dev/null", "w")  # noqa: SIM115, PTH123


def _check_disk(settings: Settings) -> None:
    settings.scratch_dir.mkdir(parents=True, exist_ok=True)
    free_mb = shutil.disk_usage(settings.scratch_dir).free // 1_000_000
    if free_mb < _LEAST_FREE_MB:
        raise StartError(
            f"The disk is nearly full: {free_mb} MB are free in {settings.absolute_data_dir}, {_LEAST_FREE_MB} MB are needed."
        )


def _check_port(settings: Settings) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((settings.host, settings.port))
        except OSError:
            raise StartError(f"Port {settings.port} is taken. Set EVENSEAM_PORT to a free one and start again.") from None


def _load_demo(settings: Settings, url: str) -> None:
    database = Database(url)
    try:
        if load_demo(database, MediaStore(settings.media_location, settings.scratch_dir / "cache")):
            _say("demo production: loaded; its tracks are being listened to")
    finally:
        database.dispose()
