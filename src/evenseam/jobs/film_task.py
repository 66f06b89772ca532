"""Scanning a film, in a worker process."""

import hashlib
import io
import tempfile
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np

from evenseam.core.errors import AudioUnreadableError
from evenseam.core.picture import Film, extract_sound, measure, scan
from evenseam.jobs.tasks import MediaPlace, tell
from evenseam.store.media import MediaStore, film_copy_name, film_name, likeness_name, original_name, thumbs_name

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
