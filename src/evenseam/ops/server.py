"""Serving the application."""

from evenseam.api.app import create_app
from evenseam.api.doors import check_address
from evenseam.core.errors import SetUpError
from evenseam.jobs.instance import alone_on
from evenseam.ops.mariadb import MariaDbServer
from evenseam.ops.serving import serve as serve_app
from evenseam.settings import Settings


def run() -> None:
    """Serve against the database of the settings, or the private one if it runs. Raises: SetUpError if there is none."""
    settings = Settings()
    with alone_on(settings):
        url = settings.database_url
        if url is None:
            server = MariaDbServer(settings.database_dir, settings.database_port)
            if not server.answers():
                raise SetUpError("No database: run ./start, or set EVENSEAM_DATABASE_URL.")
            url = server.url("evenseam")
        serve(settings, url)


def serve(settings: Settings, database_url: str) -> None:
    """Serve until told to stop. Raises: SetUpError for an address that anybody could reach."""
    check_address(settings)
    serve_app(
        create_app(settings, database_url),
        host=settings.host,
        port=settings.port,
        log_level=settings.log_level,
        access_log=settings.log_level == "debug",
        timeout_graceful_shutdown=2,
    )
