"""Tracks and recordings."""

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from evenseam.core.chart import CHART_VERSION, Chart
from evenseam.core.chart.chart import VOICE_FROM, finite, meter_name
from evenseam.store.errors import NotFoundError
from evenseam.store.history import forget_history
from evenseam.store.holding import hold_production_of
from evenseam.store.jobs import OPEN_STATES, delete_jobs
from evenseam.store.models import Cue, Fit, Job, Recording, Refusal, Track

_LONGEST_NAME = 300


def list_tracks(session: Session, production_id: int) -> list[Track]:
    """Tracks of a production, those that came last first: what was just added is what one looks for."""
    query = select(Track).where(Track.production_id == production_id).options(joinedload(Track.recording))
    return list(session.scalars(query.order_by(Track.id.desc())))


def tracks_of(session: Session, track_id: int) -> list[Track]:
    """A track and all others, in whatever production, that share its recording; none if it is not there."""
    recording = select(Track.sha256).where(Track.id == track_id).scalar_subquery()
    return list(session.scalars(select(Track).where(Track.sha256 == recording).order_by(Track.id)))


def some_tracks(session: Session, production_id: int, after_id: int, most: int) -> list[Track]:
    """Up to `most` tracks of a production after one of them, as they came: for what goes through all of them."""
    query = select(Track).where(Track.production_id == production_id, Track.id > after_id).options(joinedload(Track.recording))
    return list(session.scalars(query.order_by(Track.id).limit(most)))


def count_tracks(session: Session, production_id: int) -> int:
    """How many tracks a production has."""
    return session.scalar(select(func.count()).select_from(Track).where(Track.production_id == production_id)) or 0


def get_track(session: Session, track_id: int, to_change: bool = False) -> Track:
    """One track with its recording; `to_change` waits for whoever changes its production now. Raises: NotFoundError."""
    if to_change:
        hold_production_of(session, Track, track_id)
    track = session.get(Track, track_id, options=[joinedload(Track.recording)])
    if track is None:
        raise NotFoundError("This track is not there any more. Reload the page.", track_id=track_id)
    return track


def add_track(session: Session, production_id: int, sha256: str, size_bytes: int, file_name: str) -> tuple[Track, bool]:
    """Add a recording to a production; the same content twice gives the track that is there. Returns track, is new."""
    suffix = file_suffix(file_name)
    found = session.scalar(
        select(Track).where(Track.production_id == production_id, Track.sha256 == sha256).options(joinedload(Track.recording))
    )
    if found is not None:
        return found, False
    recording = session.get(Recording, sha256) or Recording(sha256=sha256, size_bytes=size_bytes, suffix=suffix)
    name = file_name[-_LONGEST_NAME:]
    title = (name[: -len(suffix)] if suffix and name.lower().endswith(suffix) else name).replace("_", " ").strip()
    track = Track(production_id=production_id, recording=recording, file_name=name, title=title or "Untitled")
    session.add(track)
    session.flush()
    return track, True


def file_suffix(file_name: str) -> str:
    """The ending of a name if it is one word of letters and digits, in lower case, else nothing."""
    _, dot, end = file_name.rpartition(".")
    return f".{end.lower()}" if dot and end.isascii() and end.isalnum() and len(end) <= 8 else ""


def keep_heard(session: Session, sha256: str, chart: Chart, channels: int) -> None:
    """Note that a recording was listened to, with what the list of tracks shows of it."""
    recording = session.get_one(Recording, sha256)
    recording.chart_version = CHART_VERSION
    recording.hearings += 1
    recording.rate_hz, recording.channels, recording.n_samples = chart.rate, channels, chart.n_samples
    recording.tempo_bpm, recording.meter, recording.key_name = chart.tempo_bpm, meter_name(chart), chart.key
    recording.free_time = chart.free_time
    recording.sections = [[s.start_samples, s.end_samples, s.label] for s in chart.sections]
    recording.loudness_lufs, recording.true_peak_dbtp = finite(chart.loudness_lufs), finite(chart.true_peak_dbtp)
    recording.voice_pct = 100 * float((chart.voice > VOICE_FROM).mean()) if chart.voice.size else 0.0


def chart_id(track: Track) -> str:
    """Names the chart a track is fitted by now: of this version, with its corrections."""
    return f"{CHART_VERSION}.{track.corrections_digest}"


def outdated_tracks(session: Session) -> list[Track]:
    """One track of every recording that an earlier version listened to, and that waits for no new hearing."""
    waiting = select(Track.sha256).join(Job, Job.subject_id == Track.id).where(Job.kind == "listen", Job.state.in_(OPEN_STATES))
    query = (
        select(func.min(Track.id))
        .join(Recording, Recording.sha256 == Track.sha256)
        .where(Recording.chart_version.is_not(None), Recording.chart_version != CHART_VERSION, Track.sha256.not_in(waiting))
        .group_by(Track.sha256)
    )
    return list(session.scalars(select(Track).where(Track.id.in_(query)).order_by(Track.id)))


def refuse_recording(session: Session, sha256: str, reason: str) -> list[int]:
    """Note that a recording is no use, under every track that it came as. Returns the ids of those tracks."""
    tracks = list(session.scalars(select(Track).where(Track.sha256 == sha256)))
    session.add_all(Refusal(production_id=t.production_id, name=t.file_name, reason=reason) for t in tracks)
    return [t.id for t in tracks]


def list_refusals(session: Session, production_id: int) -> list[Refusal]:
    """What was refused and not yet put away, oldest first."""
    return list(session.scalars(select(Refusal).where(Refusal.production_id == production_id).order_by(Refusal.id)))


def delete_track(session: Session, track_id: int) -> tuple[Recording | None, list[str]]:
    """Delete a track, its fits and jobs.

    Returns: the recording if nothing uses it any more and it went too (else None), and the rendered files that are now
    loose.
    """
    track = get_track(session, track_id)
    fits = list(session.scalars(select(Fit.id).where(Fit.track_id == track_id)))
    renders = select(Job.file).where(Job.subject == "fit", Job.subject_id.in_(fits))
    files = [f for f in session.scalars(renders) if f]
    delete_jobs(session, "fit", fits)
    delete_jobs(session, "track", [track_id])
    for kind, ids in (("track", [track_id]), ("fit", fits)):
        forget_history(session, kind, ids)
    for cue in session.scalars(select(Cue).where(Cue.track_id == track_id)):
        cue.track_id = None
    recording = track.recording
    session.delete(track)
    session.flush()
    if session.scalar(select(func.count()).select_from(Track).where(Track.sha256 == recording.sha256)):
        return None, files
    session.delete(recording)
    return recording, files
