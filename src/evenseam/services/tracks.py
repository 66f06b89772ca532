"""Tracks coming in and going out."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.audio.labels import Labels, read_labels
from evenseam.core.chart import CHART_VERSION
from evenseam.core.errors import AudioUnreadableError
from evenseam.services.context import Context
from evenseam.store.holding import hold_production
from evenseam.store.jobs import OPEN_STATES, listening_job
from evenseam.store.media import cover_name, derived_names, original_name
from evenseam.store.models import Job, Recording, Track
from evenseam.store.productions import get_production
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
    size = upload.stat().st_size
    name = Path(file_name).name or "Untitled"
    labels = read_labels(upload)
    with context.database.transaction() as session:
        hold_production(session, production_id)
        get_production(session, production_id)
        track, is_new = add_track(session, production_id, sha256, size, name)
        if is_new:
            _label(context, track, labels)
        if origin is not None:
            _note_origin(track, origin, is_new)
        stored = original_name(sha256, track.recording.suffix)
        if context.media.exists(stored):
            upload.unlink()
        else:
            context.media.put_file(upload, stored)
        track_id = track.id
        if track.recording.chart_version != CHART_VERSION and not _is_being_heard(session, sha256):
            session.add(Job(kind="listen", production_id=production_id, track_id=track_id))
    context.jobs.submit()
    context.events.publish("tracks", production_id=production_id)
    return track_id


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


def listen_again(context: Context, production_id: int, track_id: int) -> None:
    """Have a track listened to once more, after a failure."""
    with context.database.transaction() as session:
        session.add(Job(kind="listen", production_id=production_id, track_id=track_id))
    context.jobs.submit()
    context.events.publish("tracks", production_id=production_id)


def listen_to_outdated(context: Context) -> int:
    """Have everything that an earlier version listened to listened to again. Returns how many recordings."""
    with context.database.transaction() as session:
        tracks = outdated_tracks(session)
        session.add_all(Job(kind="listen", production_id=t.production_id, track_id=t.id) for t in tracks)
        count = len(tracks)
    if count:
        context.jobs.submit()
    return count


def remove(context: Context, track_id: int) -> None:
    """Delete a track and everything that only it used."""
    with context.database.transaction() as session:
        recording, rendered = delete_track(session, track_id)
    for name in rendered:
        context.media.remove(name)
    if recording is not None:
        _remove_files(context, recording)
    context.events.publish("tracks")


def _remove_files(context: Context, recording: Recording) -> None:
    sha256 = recording.sha256
    context.planners.forget(sha256)
    names = [original_name(sha256, recording.suffix), *derived_names(sha256)]
    if recording.cover_suffix:
        names.append(cover_name(sha256, recording.cover_suffix))
    for name in names:
        context.media.remove(name)


def refuse(context: Context, track_id: int, reason: str) -> None:
    """Take a track out again whose file turned out to be no use; its name and the reason stay until they are put away.

    What was heard before stays: a track that was ready is not taken away because hearing it again went wrong.
    """
    with context.database.transaction() as session:
        track = get_track(session, track_id)
        if track.recording.hearings:
            return
        tracks = refuse_recording(session, track.sha256, reason)
    for refused in tracks:
        remove(context, refused)
