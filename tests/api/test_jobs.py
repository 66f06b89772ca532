"""Jobs as rows: leased to one process at a time, by the database's clock, and ended by nobody else."""

from collections.abc import Iterator
from datetime import timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import delete
from sqlalchemy.orm import Session

from evenseam.jobs.book import JobBook
from evenseam.jobs.events import EventBus
from evenseam.services.context import Context
from evenseam.store import jobs as rows
from evenseam.store.models import Job, now
from tests.api.conftest import Ids
from tests.api.server import own_database, settings_for

A, B = "process a", "process b"


@pytest.fixture
def session() -> Iterator[Session]:
    """A database without workers: jobs are taken by the test alone."""
    from evenseam.store.database import Database
    from evenseam.store.models import Production

    with own_database() as (url, _):
        database = Database(url)
        with database.transaction() as session:
            session.add(Production(id=1, name="P"))
            session.flush()
            yield session
        database.dispose()


def let_run_out(session: Session, job: Job) -> None:
    job.leased_until = now() - timedelta(seconds=1)
    session.flush()


def test_a_lease_keeps_others_away_until_it_runs_out(session: Session) -> None:
    job = rows.add_job(session, 1, "listen", ("track", 7))
    session.flush()
    assert rows.take_waiting(session, A, 5, ()) == [job]
    assert rows.take_waiting(session, B, 5, ()) == []
    assert [rows.renew_leases(session, who, [job.id]) for who in (A, B)] == [{job.id}, set()]
    assert rows.renew_leases(session, A, []) == set(), "what does not run any more is not held on to"
    session.refresh(job)
    assert now() < job.leased_until <= now() + timedelta(seconds=rows.LEASE_S + 1)
    let_run_out(session, job)
    assert rows.take_waiting(session, B, 5, ()) == [job]
    assert rows.finish(session, job.id, A, "done") is None, "it is the other one's now"
    assert not rows.note_progress(session, job.id, A, 0.5, "late")
    assert rows.renew_leases(session, A, [job.id]) == set()
    ended = rows.finish(session, job.id, B, "done")
    assert ended is not None
    assert (ended.state, ended.leased_by, ended.deaths) == ("done", None, 0)
    assert rows.finish(session, job.id, B, "failed") is None, "ended once"
    assert not rows.note_progress(session, job.id, B, 0.9, "late"), "late progress opens nothing again"
    assert rows.take_waiting(session, A, 5, ()) == []


def test_what_somebody_waits_for_comes_first_and_progress_never_falls(session: Session) -> None:
    names = [rows.add_job(session, 1, kind, ("track", k)) for k, kind in enumerate(("listen", "film", "render", "dialogue"))]
    session.flush()
    urgent = ("render", "dialogue")
    assert [j.kind for j in rows.take_waiting(session, A, 3, urgent)] == ["render", "dialogue", "listen"]
    first = names[0].id
    assert rows.note_progress(session, first, A, 0.5, "half")
    assert not rows.note_progress(session, first, A, 0.2, "an older word")
    assert rows.say_why_waiting(session, "no workers") == 1
    assert rows.say_why_waiting(session, "no workers") == 0
    (taken,) = rows.take_waiting(session, B, 5, ())
    session.refresh(taken)
    assert (taken.kind, taken.stage) == ("film", "")


def test_one_bad_row_fails_alone(app: FastAPI, client: TestClient, ids: Ids) -> None:
    context: Context = app.state.context
    settings = settings_for(context.settings.data_dir)
    book = JobBook(settings, context.database, EventBus(), "somebody else")
    book.kinds = {name: kind for name, kind in context.jobs._book.kinds.items() if name == "film"}
    with context.database.transaction() as session:
        bad = [
            rows.add_job(session, ids.production, kind, (of, 10**8)) for kind, of in (("magic", "track"), ("film", "picture"))
        ]
        for job in bad:  # taken over from a process that is gone, so that the application's own runner is not first
            job.state, job.leased_by, job.leased_until = "running", "gone", now() + timedelta(hours=1)
        session.flush()
    with context.database.transaction() as session:
        for job in bad:
            session.get_one(Job, job.id).leased_until = now() - timedelta(hours=1)
        taken = rows.take_waiting(session, "somebody else", 9, ())
        calls = {job.id: book._call_or_fail(session, job) for job in taken if job.id in {b.id for b in bad}}
        for job in taken:
            if job.id not in calls:
                job.state, job.leased_by = "waiting", None
    assert calls == {bad[0].id: None, bad[1].id: None}
    for job in bad:
        read = client.get(f"/api/jobs/{job.id}").json()
        assert (read["state"], read["error"]) == ("failed", "What this job was for is not there any more.")
    with context.database.transaction() as session:
        session.execute(delete(Job).where(Job.id.in_([b.id for b in bad])))


def test_every_kind_of_work_is_one_file(app: FastAPI, client: TestClient) -> None:
    context: Context = app.state.context
    kinds = context.jobs._book.kinds
    assert set(kinds) == {"listen", "render", "film", "dialogue"}
    assert len({type(kind).__module__ for kind in kinds.values()}) == len(kinds)
