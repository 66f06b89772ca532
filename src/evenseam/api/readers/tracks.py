"""Tracks to what goes out."""

from sqlalchemy.orm import Session

from evenseam.api.readers.jobs import read_job
from evenseam.api.schemas.tracks import TrackRead
from evenseam.core.chart import CHART_VERSION
from evenseam.store.jobs import OPEN_STATES, listening_job, listening_jobs
from evenseam.store.models import Job, Track
from evenseam.store.tracks import chart_id, list_tracks


def read_tracks(session: Session, production_id: int) -> list[TrackRead]:
    """All tracks of a production; their jobs are asked for at once."""
    jobs = listening_jobs(session, production_id)
    return [_read_track(t, jobs.get(t.sha256)) for t in list_tracks(session, production_id)]


def read_track(session: Session, track: Track) -> TrackRead:
    """A track row with its recording and its listening job."""
    return _read_track(track, listening_job(session, track.sha256))


def _read_track(track: Track, job: Job | None) -> TrackRead:
    recording = track.recording
    ready = recording.chart_version == CHART_VERSION
    if ready and job is not None and job.state not in OPEN_STATES:
        job = None
    state = "ready" if ready else "failed" if job is None else _STATES.get(job.state, "listening")
    heard = (
        "rate_hz", "channels", "n_samples", "tempo_bpm", "meter", "free_time", "key_name", "loudness_lufs",
        "true_peak_dbtp", "voice_pct", "size_bytes",
    )  # fmt: skip
    return TrackRead.model_validate(
        {
            "id": track.id,
            "production_id": track.production_id,
            "title": track.title,
            "file_name": track.file_name,
            "state": state,
            "job": read_job(job) if job else None,
            **{name: getattr(recording, name) for name in heard},
            **_as_corrected(track),
            "artist": track.artist,
            "tags": track.tags or [],
            "has_cover": recording.cover_suffix is not None,
            "sections": _sections(track),
            "licence": track.licence,
            "chart_id": f"{chart_id(track)}.{recording.hearings}",
            "revision": track.revision,
        }
    )


def _sections(track: Track) -> list[dict[str, object]]:
    """Those set by hand, else those that were heard."""
    set_by_hand = (track.corrections or {}).get("sections")
    if set_by_hand is not None:
        return list(set_by_hand)
    names = ("start_samples", "end_samples", "label")
    return [dict(zip(names, s, strict=True)) for s in track.recording.sections or []]


def _as_corrected(track: Track) -> dict[str, object]:
    """Tempo and metre where they were set by hand."""
    if track.set_meter is None:
        return {}
    return {"tempo_bpm": track.set_tempo_bpm, "meter": track.set_meter, "free_time": False}


_STATES = {"failed": "failed", "cancelled": "cancelled"}
