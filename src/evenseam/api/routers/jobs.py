"""Jobs, their files, and the stream of events."""

import asyncio
import json
from collections.abc import AsyncIterator

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from sqlalchemy.exc import DBAPIError
from sse_starlette import EventSourceResponse

from evenseam.api.deps import ContextDep
from evenseam.api.readers.jobs import read_job
from evenseam.api.readers.news import read_news
from evenseam.api.schemas.jobs import JobRead
from evenseam.jobs.events import Event
from evenseam.services.context import Context
from evenseam.store import jobs as rows
from evenseam.store.errors import NotReadyError

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get("/productions/{production_id}/jobs", operation_id="listJobs")
def list_jobs(context: ContextDep, production_id: int) -> list[JobRead]:
    """The newest jobs of a production."""
    with context.database.transaction() as session:
        return [read_job(j) for j in rows.latest_jobs(session, production_id)]


@router.get("/jobs/{job_id}", operation_id="getJob")
def get_job(context: ContextDep, job_id: int) -> JobRead:
    """One job."""
    with context.database.transaction() as session:
        return read_job(rows.get_job(session, job_id))


@router.post("/jobs/{job_id}/cancel", operation_id="cancelJob")
async def cancel_job(context: ContextDep, job_id: int) -> JobRead:
    """Stop a job."""
    await context.jobs.cancel(job_id)
    with context.database.transaction() as session:
        return read_job(rows.get_job(session, job_id))


@router.get("/jobs/{job_id}/file", operation_id="getJobFile", response_class=Response)
def get_job_file(context: ContextDep, job_id: int) -> FileResponse:
    """The file a render made."""
    with context.database.transaction() as session:
        job = rows.get_job(session, job_id)
        if job.file is None:
            raise NotReadyError("This file is not rendered yet. Wait for its job to end.")
        name = (job.asked or {}).get("name", "Even Seam.wav")
    return FileResponse(context.media.local_path(job.file), media_type="audio/wav", filename=name)


@router.get("/events", operation_id="events", response_class=EventSourceResponse)
async def events(context: ContextDep) -> EventSourceResponse:
    """What happens, as it happens: `data` is JSON with a `kind` and ids.

    News of a job carry it as `job`, news of one recording its tracks as `tracks_now`; of all else pages ask again.
    """
    return EventSourceResponse(_stream(context), ping=15)


async def _stream(context: Context) -> AsyncIterator[dict[str, str]]:
    yield {"data": json.dumps({"kind": "hello"})}
    async for event in context.events.listen():
        is_of_one_thing = event["kind"] == "job" or "track_id" in event  # a tick of progress says all there is
        told = await asyncio.to_thread(_news, context, event) if is_of_one_thing else event
        yield {"data": json.dumps(told)}


def _news(context: Context, event: Event) -> Event:
    """What is said of an event; while the database is away no more than that there was one."""
    try:
        with context.database.transaction() as session:
            return read_news(session, event)
    except DBAPIError:
        return event
