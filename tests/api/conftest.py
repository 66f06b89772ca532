"""The application over HTTP on a real MariaDB with real workers; a production of its own for every test."""

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from evenseam.api.app import create_app
from evenseam.catalogue.app import Weather
from evenseam.core.timebase import FrameRate, frames_to_flicks
from evenseam.services.context import Context
from evenseam.store.models import Cue, Picture, Production
from tests.api.server import own_catalogue, own_database, settings_for

WITHIN_S = 240.0


CATALOGUE_WAIT_S = 1.0


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
def app(catalogue: tuple[str, Weather]) -> Iterator[FastAPI]:
    with own_database() as (url, data):
        settings = settings_for(data, upload_limit_mb=50, catalogue_url=catalogue[0], catalogue_wait_s=CATALOGUE_WAIT_S)
        yield create_app(settings, url)


@pytest.fixture(scope="session")
def client(app: FastAPI) -> Iterator[TestClient]:
    with TestClient(app, base_url="http://127.0.0.1:8620", raise_server_exceptions=False) as running:
        yield running


@dataclass(frozen=True)
class Ids:
    production: int
    cue: int


@pytest.fixture
def ids(app: FastAPI, client: TestClient) -> Ids:
    """A production with a 72-second picture and a cue over all of it."""
    context: Context = app.state.context
    with context.database.transaction() as session:
        production = Production(name="Test")
        session.add(production)
        session.flush()
        picture = Picture(production_id=production.id, name="Film", rate_num=25, rate_den=1, length_frames=1800)
        session.add(picture)
        session.flush()
        length = frames_to_flicks(1800, FrameRate(25))
        cue = Cue(production_id=production.id, picture_id=picture.id, number="1m1", name="Cue", slot_length_flicks=length)
        session.add(cue)
        session.flush()
        return Ids(production.id, cue.id)


def wait_for(ask: Callable[[], Any], is_done: Callable[[Any], bool]) -> Any:
    """Ask until the answer is the one wanted; fails with the last answer."""
    deadline = time.monotonic() + WITHIN_S
    while time.monotonic() < deadline:
        answer = ask()
        if is_done(answer):
            return answer
        time.sleep(0.05)
    raise AssertionError(f"not within {WITHIN_S} s: {answer}")


def add_file(client: TestClient, ids: Ids, name: str, data: bytes) -> dict[str, Any]:
    answer = client.post(f"/api/productions/{ids.production}/tracks", params={"file_name": name}, content=data)
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def add_and_listen(client: TestClient, ids: Ids, name: str, data: bytes) -> dict[str, Any]:
    track = add_file(client, ids, name, data)
    found = wait_for(lambda: client.get(f"/api/tracks/{track['id']}").json(), lambda t: t["state"] != "listening")
    return dict(found)
