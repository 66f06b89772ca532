"""Looking through a film: its exact length, shot changes, small pictures, a copy that plays, its sound."""

import hashlib
import io
import tempfile
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path

import numpy as np
from sqlalchemy.orm import Session

from evenseam.core.errors import AudioUnreadableError
from evenseam.core.picture import Film, extract_sound, measure, scan
from evenseam.jobs.kinds import Afterwards, Call, JobKind
from evenseam.jobs.worker import MediaPlace, tell
from evenseam.services import versions
from evenseam.services.context import Context
from evenseam.services.pictures import refuse_film
from evenseam.services.sheets import announce
from evenseam.services.versions import KnownAgain
from evenseam.store.errors import NotFoundError
from evenseam.store.jobs import add_job
from evenseam.store.media import MediaStore, film_copy_name, film_name, likeness_name, original_name, thumbs_name
from evenseam.store.models import Film as FilmRow
from evenseam.store.models import Job, Picture
from evenseam.store.sheets import sheet_of
from evenseam.store.tracks import add_track

SOUND_SUFFIX = ".flac"
_SCAN_SHARE = 0.9


@dataclass(frozen=True, slots=True)
class Scanned:
    """What was found in a film. `sound_sha256` names its own sound among the originals; `size` is that file's, in bytes."""

    film: Film
    cuts: tuple[int, ...]
    thumbs: dict[str, int]
    sound_sha256: str | None
    sound_size_bytes: int
    notes: tuple[str, ...]


def scan_film(job_id: int, place: MediaPlace, sha256: str, suffix: str) -> Scanned:
    """Measure and look through a film; small pictures, a copy to play and its sound go to the media store.

    Raises: EvenSeamError with the reason when the film cannot be used.
    """
    media = place.open()
    tell(job_id, 0.01, "Reading the film")
    path = media.local_path(film_name(sha256, suffix))
    film = measure(path)
    words = "Making a copy that plays here" if film.needs_copy else "Looking for shot changes"
    with tempfile.TemporaryDirectory(dir=place.scratch_dir) as folder:
        copy = Path(folder) / "copy.mp4" if film.needs_copy else None
        seen = scan(path, film, copy, lambda share: tell(job_id, _SCAN_SHARE * share, words))
        if copy is not None:
            media.put_file(copy, film_copy_name(sha256))
        media.put_bytes(seen.thumbs.jpeg, thumbs_name(sha256))
        squares = io.BytesIO()
        np.save(squares, seen.likeness)
        media.put_bytes(squares.getvalue(), likeness_name(sha256))
        tell(job_id, _SCAN_SHARE, "Taking out its sound")
        sound, size, notes = _own_sound(media, path, Path(folder) / "own.flac")
    thumbs = {name: value for name, value in asdict(seen.thumbs).items() if name != "jpeg"}
    return Scanned(film, seen.cuts, thumbs, sound, size, (*film.notes, *notes))


def _own_sound(media: MediaStore, path: Path, target: Path) -> tuple[str | None, int, tuple[str, ...]]:
    """Hash and size of a film's sound, put among the originals; a sound that cannot be read is told, not fatal."""
    try:
        if not extract_sound(path, target):
            return None, 0, ()
    except AudioUnreadableError as error:
        return None, 0, (f"The film's own sound cannot be used. {error.detail}",)
    sha256, size = hashlib.sha256(target.read_bytes()).hexdigest(), target.stat().st_size
    media.put_file(target, original_name(sha256, SOUND_SUFFIX))
    return sha256, size, ()


@dataclass(frozen=True, slots=True)
class _Settled:
    """What was found, and the shots of the film known again in the version before."""

    scanned: Scanned
    known: KnownAgain | None


class Scanning(JobKind):
    """Subject: a picture with a film."""

    name = "film"

    def __init__(self, context: Context) -> None:
        self._context = context

    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """The film is looked through for the picture, whoever else shows it."""
        film = session.get_one(Picture, job.subject_id).film
        if film is None:
            raise NotFoundError("This picture has no film.", picture_id=job.subject_id)
        return partial(scan_film, job.id, place, film.sha256, film.suffix)

    def settle(self, job_id: int, result: Scanned) -> _Settled:
        """A second's work for a long film, while nobody waits for the production."""
        with self._context.database.transaction() as session:
            job = session.get(Job, job_id)
            picture = session.get(Picture, job.subject_id) if job is not None else None
            old = _not_carried_yet(session, picture) if picture is not None else None
            if picture is None or old is None:
                return _Settled(result, None)
            return _Settled(result, versions.known_again(self._context.media, old, picture, result.film, result.cuts))

    def keep(self, session: Session, job: Job, result: _Settled) -> Afterwards:
        """Note what was found, add the sound as a track, and carry the marks of the version before onto it."""
        context, scanned = self._context, result.scanned
        picture = session.get_one(Picture, job.subject_id)
        _note(session, picture, scanned)
        old = _not_carried_yet(session, picture)
        if old is not None:
            known = result.known
            if known is None or not known.holds(old, picture):  # their shots were changed in this second
                known = versions.known_again(context.media, old, picture, scanned.film, scanned.cuts)
            versions.carry_onto_film(session, old, picture, scanned.film, known)
        if scanned.sound_sha256 is not None:
            _add_own_sound(session, picture, scanned.sound_sha256, scanned.sound_size_bytes)

        def afterwards() -> None:
            context.jobs.submit()
            context.events.publish("tracks", production_id=job.production_id)
            announce(context, job.production_id, job.subject_id)

        return afterwards

    def refuse(self, session: Session, job: Job, reason: str) -> Afterwards:
        """The picture goes again, unless work was done on it."""
        return refuse_film(self._context, session, job.subject_id, reason)


KIND = Scanning


def _not_carried_yet(session: Session, picture: Picture) -> Picture | None:
    """The version before, if its marks are to be carried: once, however often a film is looked through."""
    if picture.version_of_id is None or picture.sheet.carried is not None:
        return None
    return session.get(Picture, picture.version_of_id)


def _note(session: Session, picture: Picture, scanned: Scanned) -> None:
    film, found = session.get_one(FilmRow, picture.film_sha256), scanned.film
    film.thumbs, film.has_copy, film.is_playable = scanned.thumbs, found.needs_copy, found.is_playable
    film.width_px, film.height_px = found.width_px, found.height_px
    picture.rate_num, picture.rate_den, picture.drop_frame = found.rate.num, found.rate.den, found.rate.drop_frame
    known = {shot.start_frames for shot in sheet_of(picture).shots}
    picture.length_frames, picture.notes = found.length_frames, list(scanned.notes)
    picture.sheet.suggested_cuts = [cut for cut in scanned.cuts if cut not in known] or None


def _add_own_sound(session: Session, picture: Picture, sha256: str, size_bytes: int) -> None:
    name = f"{picture.name}: own sound{SOUND_SUFFIX}"
    track, is_new = add_track(session, picture.production_id, sha256, size_bytes, name)
    if is_new:
        track.tags = ["picture sound"]
        add_job(session, picture.production_id, "listen", ("track", track.id))
    picture.sound_track_id = track.id
