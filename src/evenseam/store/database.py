"""Engine, sessions and migrations."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url
from sqlalchemy.orm import Session, sessionmaker


class Database:
    """Opens sessions; one transaction each, visible where it is opened."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(url, pool_pre_ping=True, pool_size=10, max_overflow=20, isolation_level="READ COMMITTED")
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """A session whose work is committed at the end, or rolled back whole."""
        with self._sessions() as session, session.begin():
            yield session

    def dispose(self) -> None:
        """Close every connection."""
        self.engine.dispose()


def create_if_missing(url: str) -> None:
    """Create the database named in the URL, if the server does not have it."""
    target = make_url(url)
    server = create_engine(target.set(database=""), isolation_level="AUTOCOMMIT")
    with server.connect() as connection:
        name = (target.database or "evenseam").replace("`", "")
        connection.execute(text(f"CREATE DATABASE IF NOT EXISTS `{name}` CHARACTER SET utf8mb4"))
    server.dispose()


def alembic_config(url: str) -> Config:
    """Alembic's configuration, without a file of its own."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    return config


def migrate(url: str) -> None:
    """Bring the schema to the newest version."""
    command.upgrade(alembic_config(url), "head")
