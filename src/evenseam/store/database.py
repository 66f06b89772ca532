"""Engine, sessions and migrations."""

import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from pathlib import Path
from typing import ParamSpec, TypeVar

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

_DEADLOCK, _WAITED_TOO_LONG = 1213, 1205
_MOST_TRIES, _PAUSE_S = 6, 0.02
P = ParamSpec("P")
T = TypeVar("T")


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


def is_passing(error: DBAPIError) -> bool:
    """Whether the same may work in a moment: the database is away, or chose another transaction over this one."""
    return isinstance(error, OperationalError | InterfaceError)


def again_on_deadlock(use_case: Callable[P, T]) -> Callable[P, T]:
    """A use case of one transaction that is run again when the database let another one go first: nothing of it was kept."""

    @wraps(use_case)
    def run(*args: P.args, **kwargs: P.kwargs) -> T:
        for left in range(_MOST_TRIES - 1, -1, -1):
            try:
                return use_case(*args, **kwargs)
            except OperationalError as error:
                if not left or error.orig is None or error.orig.args[0] not in (_DEADLOCK, _WAITED_TOO_LONG):
                    raise
                time.sleep(random.uniform(_PAUSE_S, 5 * _PAUSE_S))  # so that both do not meet again
        raise AssertionError("the last try returns or raises")

    return run
