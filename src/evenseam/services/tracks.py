"""Tracks coming in and going out."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.audio.tags import Labels, read_labels
from evenseam.core.chart import CHART_VERSION
from evenseam.core.errors import AudioUnreadableError
from evenseam.jobs.kinds import Afterwards, nothing
from evenseam.services.context import Context
from evenseam.services.stale import refuse_if_stale
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import change
from evenseam.store.holding import hold_production
from evenseam.store.jobs import OPEN_STATES, add_job, listening_job
from evenseam.store.media import cover_name, derived_names, original_name
from evenseam.store.models import Recording, Refusal, Track
from evenseam.store.productions import get_production, list_productions
from evenseam.store.tracks import add_track, delete_track, get_track, outdated_tracks, refuse_recording

_MAGIC = (b"RIFF", b"RF64", b"FORM", b"fLaC", b"OggS", b"ID3", b"caff", b"\x1aE\xdf\xa3", b"0&\xb2u", b"wvpk", b"MAC ", b".snd")


@dataclass(frozen=True, slots=True)
class Origin:
    """What the catalogue that a track comes from says of it, and the terms it was licensed under."""

    title: str
    artist: str
    tags: tuple[str, ...]
    licence: dict[str, Any]


def check_looks_like_sound(head: bytes) -> None:
    """Refuse at the first bytes what is no audio file whatever it is called. Raises: AudioUnreadableError."""
    if not head:
        raise AudioUnreadableError("The file is empty. Export it again and add the new file.")
    mpeg_frame = len(head) > 1 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0
    if not (head.startswith(_MAGIC) or head[4:8] == b"ftyp" or mpeg_frame):
        raise AudioUnreadableError("This is not an audio file. WAV, AIFF, FLAC, Ogg, MP3 and M4A can be added.")


def take_in(
    context: Context,
    production_id: int,
    upload: Path,
    sha256: str,
    file_name: str,
    origin: Origin | None = None,
) -> int:
    """Add an uploaded file to a production and have it listened to, unless it was before. Returns the track's id.

    Moves `upload` into the media store. The row comes last: a file without a row is only space, a row without a file
    would be a track that cannot be opened.
    """
    arrived = _Arrived(upload, sha256, upload.stat().st_size, Path(file_name).name or "Untitled", read_labels(upload))
    track_id = _add(context, production_id, arrived, origin)
    context.jobs.submit()
    context.events.publish("tracks", production_id=production_id, track_id=track_id)
    return track_id


@dataclass(frozen=True, slots=True)
class _Arrived:
    """A file that came in, and what it says of itself."""

    upload: Path
    sha256: str
    size_bytes: int
    name: str
    labels: Labels


@again_on_deadlock
def _add(context: Context, production_id: int, arrived: _Arrived, origin: Origin | None) -> int:
    with context.database.transaction() as session:
        hold_production(session, production_id)
        get_production(session, production_id)
        track, is_new = add_track(session, production_id, arrived.sha256, arrived.size_bytes, arrived.name)
        if is_new:
            _label(context, track, arrived.labels)
        if origin is not None:
            _note_origin(track, origin, is_new)
        context.media.take_in(arrived.upload, original_name(arrived.sha256, track.recording.suffix))
        if track.recording.chart_version != CHART_VERSION and not _is_being_heard(session, arrived.sha256):
            add_job(session, production_id, "listen", ("track", track.id))
        return track.id


def _label(context: Context, track: Track, labels: Labels) -> None:
    """What the file says of itself; its name stays the title when it says none."""
    track.title = labels.title or track.title
    track.artist, track.tags = labels.artist, list(labels.tags)
    if labels.cover is not None and labels.cover_suffix is not None:
        context.media.put_bytes(labels.cover, cover_name(track.sha256, labels.cover_suffix))
        track.recording.cover_suffix = labels.cover_suffix


def _note_origin(track: Track, origin: Origin, is_new: bool) -> None:
    """The licence in any case; the names only where nobody has given others yet."""
    track.licence = origin.licence
    if is_new:
        track.title, track.artist, track.tags = origin.title, origin.artist, list(origin.tags)


def _is_being_heard(session: Session, sha256: str) -> bool:
    job = listening_job(session, sha256)
    return job is not None and job.state in OPEN_STATES


@again_on_deadlock
def listen_again(context: Context, production_id: int, track_id: int) -> None:
    """Have a track listened to once more, after a failure."""
    with context.database.transaction() as session:
        add_job(session, production_id, "listen", ("track", track_id))
    context.jobs.submit()
    context.events.publish("tracks", production_id=production_id, track_id=track_id)


@again_on_deadlock
def listen_to_outdated(context: Context) -> int:
    """Have everything that an earlier version listened to listened to again. Returns how many recordings."""
    with context.database.transaction() as session:
        for production in list_productions(session):
            hold_production(session, production.id)  # another process may start at this moment
        tracks = outdated_tracks(session)
        for track in tracks:
            add_job(session, track.production_id, "listen", ("track", track.id))
        count = len(tracks)
    if count:
        context.jobs.submit()
    return count


@again_on_deadlock
def remove(context: Context, track_id: int) -> None:
    """Delete a track and everything that only it used."""
    with context.database.transaction() as session:
        get_track(session, track_id, to_change=True)
        gone = delete_track(session, track_id)
    _remove_files(context, [gone])


def _remove_files(context: Context, gone: Sequence[tuple[Recording | None, list[str]]]) -> None:
    """Remove what deleted tracks left: after the commit, so that a file is never gone before its row."""
    for recording, rendered in gone:
        names = list(rendered)
        if recording is not None:
            context.planners.forget(recording.sha256)
            names += [original_name(recording.sha256, recording.suffix), *derived_names(recording.sha256)]
        if recording is not None and recording.cover_suffix:
            names.append(cover_name(recording.sha256, recording.cover_suffix))
        for name in names:
            context.media.remove(name)
    context.events.publish("tracks")


def refuse(context: Context, session: Session, track_id: int, reason: str) -> Afterwards:
    """Take a track out again whose file turned out to be no use; its name and the reason stay until they are put away.

    What was heard before stays: a track that was ready is not taken away because hearing it again went wrong.
    Returns: what is to be done after the commit.
    """
    track = get_track(session, track_id)
    if track.recording.hearings:
        return nothing
    gone = [delete_track(session, refused) for refused in refuse_recording(session, track.sha256, reason)]
    return lambda: _remove_files(context, gone)


@again_on_deadlock
def label(context: Context, track_id: int, fields: dict[str, Any], seen_revision: int | None) -> None:
    """Change what a track is called, its artist and its tags; one step of undo. Raises: NotFoundError, StaleError."""
    with context.database.transaction() as session:
        track = get_track(session, track_id, to_change=True)
        refuse_if_stale(session, track, seen_revision, fields)
        change(session, f"renaming {track.title}" if "title" in fields else f"labelling {track.title}", (track, fields))
        production_id = track.production_id
    context.events.publish("tracks", production_id=production_id, track_id=track_id)


@again_on_deadlock
def put_away_refusal(context: Context, refusal_id: int) -> None:
    """Put a refusal away; one that is gone already is no error."""
    with context.database.transaction() as session:
        found = session.get(Refusal, refusal_id)
        if found is not None:
            session.delete(found)
    context.events.publish("tracks")
