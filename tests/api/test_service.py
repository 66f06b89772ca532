"""The service around the resources: problems, the front end, restarts, migrations."""

import asyncio
from datetime import timedelta
from pathlib import Path

import pytest
from alembic import command
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import create_engine, inspect

from evenseam.api.app import create_app
from evenseam.core.errors import EvenSeamError, SetUpError
from evenseam.jobs.instance import alone_on, clear_scratch
from evenseam.ops.mariadb import FAST, MariaDbServer
from evenseam.ops.up import _check_port
from evenseam.services.context import Context
from evenseam.store.database import alembic_config, create_if_missing, migrate
from evenseam.store.jobs import add_job, put_back
from evenseam.store.models import Production, now
from tests.api.conftest import Ids
from tests.api.server import free_port, own_database, settings_for


def test_unknown_addresses_and_methods_are_problems(client: TestClient) -> None:
    for answer in (client.get("/api/nothing"), client.get("/api/productions/99999"), client.get("/api/jobs/x")):
        assert answer.status_code in (404, 422)
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.json()["detail"].endswith(".")


def test_every_operation_is_described(client: TestClient) -> None:
    described = client.get("/api/openapi.json").json()
    operations = [o for path in described["paths"].values() for o in path.values()]
    assert len({o["operationId"] for o in operations}) == len(operations) > 15


def test_files_outside_the_front_end_are_not_served(client: TestClient) -> None:
    for path in ("/../pyproject.toml", "/..%2f..%2fpyproject.toml", "/%2e%2e/%2e%2e/README.md"):
        assert "evenseam" not in client.get(path).text.lower() or "<!doctype html>" in client.get(path).text.lower()


def test_addresses_that_no_file_can_have_are_not_found(client: TestClient) -> None:
    for path in ("/%00", "/api/%00", "/assets/%00.js", "/" + 5000 * "a"):
        assert client.get(path).status_code == 404, path


def test_interrupted_jobs_wait_again(app: FastAPI, client: TestClient, ids: Ids) -> None:
    context: Context = app.state.context
    with context.database.transaction() as session:
        job = add_job(session, ids.production, "render", ("fit", 0))
        job.state, job.leased_by, job.progress = "running", "somebody", 0.4
        session.flush()
        assert put_back(session, "somebody else") == 0
        assert put_back(session, "somebody") == 1
        session.refresh(job)
        assert (job.state, job.progress, job.deaths) == ("waiting", 0.0, 0), "a restart is not a worker's death"
        session.delete(job)


def test_migrations_go_up_match_the_models_and_go_down() -> None:
    with own_database() as (url, _):
        config = alembic_config(url)
        command.check(config)
        command.downgrade(config, "base")
        engine = create_engine(url)
        assert set(inspect(engine).get_table_names()) <= {"alembic_version"}
        engine.dispose()
        command.upgrade(config, "head")


def test_the_database_survives_a_kill_and_is_taken_over(tmp_path: Path) -> None:
    port = free_port()
    first = MariaDbServer(tmp_path / "db", port, FAST)
    first.start()
    create_if_missing(first.url("kept"))
    assert first._process is not None
    first._process.kill()
    first._process.wait()
    second = MariaDbServer(tmp_path / "db", port, FAST)
    second.start()
    engine = create_engine(second.url("kept"))
    engine.connect().close()
    engine.dispose()
    third = MariaDbServer(tmp_path / "db", port, FAST)
    third.start()  # already runs: taken over, not started twice
    third.stop()
    assert not second.answers()
    second.stop()  # has ended with it


def test_a_taken_database_port_is_said_in_one_line(tmp_path: Path) -> None:
    port = free_port()
    first = MariaDbServer(tmp_path / "one", port, FAST)
    first.start()
    try:
        with pytest.raises(EvenSeamError, match=f"port {port} is taken"):
            MariaDbServer(tmp_path / "two", port, FAST).start()
    finally:
        first.stop()


def test_nobody_else_reaches_the_database(tmp_path: Path) -> None:
    """Neither by a socket in a folder of others, nor as root without being root."""
    deep = tmp_path / ("d" * 60) / ("e" * 60)
    server = MariaDbServer(deep, free_port(), FAST)
    assert server.socket.parent.stat().st_mode & 0o077 == 0
    server.start()
    try:
        with server._as_admin() as connection:
            cursor = connection.cursor()
            cursor.execute("SELECT user, json_value(priv, '$.plugin') FROM mysql.global_priv WHERE host = 'localhost'")
            plugins = dict(cursor.fetchall())
        assert plugins["root"] == "unix_socket"
        server._keep_to_ourselves()
    finally:
        server.stop()
        server.socket.parent.chmod(0o755)
    with pytest.raises(EvenSeamError, match="open to others"):
        MariaDbServer(deep, 1)
    server.socket.parent.rmdir()


def test_a_taken_port_is_said_in_one_line(tmp_path: Path) -> None:
    import socket

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        with pytest.raises(EvenSeamError, match="is taken"):
            _check_port(settings_for(tmp_path, port=taken.getsockname()[1]))


def test_a_second_application_on_the_same_folder_is_refused_in_one_line(tmp_path: Path) -> None:
    settings = settings_for(tmp_path)
    with alone_on(settings), pytest.raises(SetUpError, match="runs already"), alone_on(settings):
        pass
    with alone_on(settings):
        pass


def test_what_an_earlier_run_left_is_cleared_away(tmp_path: Path) -> None:
    settings = settings_for(tmp_path)
    for name in ("jobs/7/tmpx.f32", "workers/a/b", "cache/kept"):
        (settings.scratch_dir / name).parent.mkdir(parents=True)
        (settings.scratch_dir / name).write_text("x")
    (settings.scratch_dir / "upload-1").write_text("x")
    clear_scratch(settings)
    assert [p.name for p in settings.scratch_dir.iterdir()] == ["cache"]


def test_while_the_database_is_away_the_answer_says_so_and_when_to_come_back(tmp_path: Path) -> None:
    """And how a job ended meanwhile is kept when it is back."""
    server = MariaDbServer(tmp_path / "db", free_port(), FAST)
    server.start()
    url = server.url("evenseam")
    create_if_missing(url)
    migrate(url)
    app = create_app(settings_for(tmp_path / "data"), url)
    with TestClient(app, base_url="http://127.0.0.1:8620", raise_server_exceptions=False) as client:
        context: Context = app.state.context
        with context.database.transaction() as session:
            production = Production(name="Away")
            session.add(production)
            session.flush()
            job = add_job(session, production.id, "render", ("fit", 0))
            job.state, job.leased_by, job.leased_until = "running", context.jobs._book._owner, now() + timedelta(hours=1)
            session.flush()
            job_id, path = job.id, f"/api/productions/{production.id}"
        server.stop()
        away = client.get(path)
        assert (away.status_code, away.json()["code"], away.headers["retry-after"]) == (503, "database_away", "2")
        loop = context.jobs._loop
        assert loop is not None
        kept = asyncio.run_coroutine_threadsafe(context.jobs._kept(context.jobs._book.fail, job, "in the end"), loop)
        server.start()
        kept.result(timeout=60)
        assert client.get(f"/api/jobs/{job_id}").json()["state"] == "failed"
    server.stop()
