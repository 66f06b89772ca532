"""Events to what goes out: with what they are about, as it is now."""

from typing import Any

from sqlalchemy.orm import Session

from evenseam.api.readers.jobs import read_job
from evenseam.api.readers.tracks import read_track
from evenseam.store.models import Job
from evenseam.store.tracks import tracks_of


def read_news(session: Session, event: dict[str, Any]) -> dict[str, Any]:
    """An event with what it is about as it is now, so that nobody need ask: the job, and the tracks of one recording."""
    news, is_job = dict(event), event["kind"] == "job"
    track_id = event.get("track_id") if not is_job else event["subject_id"] if event["subject"] == "track" else None
    if is_job:
        job = session.get(Job, event["job_id"])
        news["job"] = read_job(job).model_dump(mode="json") if job else None
    if track_id is not None:
        news["tracks_now"] = [read_track(session, t).model_dump(mode="json") for t in tracks_of(session, track_id)]
    return news
