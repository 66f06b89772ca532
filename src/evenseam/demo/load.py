"""Load the demo production once: an observatory's open night."""

import hashlib
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from evenseam.core.exchange.marks import read_captions
from evenseam.core.picture import probe
from evenseam.core.spot import Line
from evenseam.core.spot.edit import free_ids
from evenseam.core.timebase import frames_to_flicks
from evenseam.demo.film.cuts import FIFTEEN, FILM, THIRTY, DemoFilm
from evenseam.demo.film.cuts import RATE as FILM_RATE
from evenseam.demo.scores import SCORES, Score
from evenseam.store.database import Database
from evenseam.store.jobs import add_job
from evenseam.store.media import MediaStore, film_name, original_name
from evenseam.store.models import Cue, Film, Picture, Production, Track
from evenseam.store.sheets import sheet_fields
from evenseam.store.tracks import add_track

MUSIC = Path(__file__).parent / "music"
FILMS_FOLDER = Path(__file__).parent / "film"


def load_demo(database: Database, media: MediaStore, scores: Sequence[Score] = SCORES) -> bool:
    """Put the demo production into an empty database; its tracks wait to be listened to. Returns whether it did.

    `scores`: the music that is put in, the one that is fitted first.
    """
    with database.transaction() as session:
        if session.scalar(select(func.count()).select_from(Production)):
            return False
        production = Production(name="Harrow Fell Observatory: Open Night")
        session.add(production)
        session.flush()
        pictures = {film.slug: _add_film(session, media, production.id, film) for film in (FILM, THIRTY, FIFTEEN)}
        # The first of them on top of the list, which begins with what came last.
        tracks = {score.slug: _add(session, media, production.id, score) for score in reversed(scores)}
        chosen = tracks[scores[0].slug].id
        # What is on screen first comes first: the chosen track, then the films, then the other tracks.
        waiting = [("listen", ("track", tracks[s.slug].id)) for s in scores]
        films = [("film", ("picture", p.id)) for p in pictures.values()]
        for kind, of in (waiting[0], *films, *waiting[1:]):
            add_job(session, production.id, kind, of)
            session.flush()
        for film in (FILM, THIRTY, FIFTEEN):
            picture = pictures[film.slug]
            reel = max(1, film.start_frames // (3600 * FILM_RATE.nominal_fps))
            session.add(
                Cue(
                    production_id=production.id,
                    picture_id=picture.id,
                    number=f"{reel}m1",
                    name="Open Night",
                    slot_length_flicks=frames_to_flicks(picture.length_frames, FILM_RATE),
                    track_id=chosen,
                )
            )
    return True


def _add_film(session: Session, media: MediaStore, production_id: int, film: DemoFilm) -> Picture:
    """A film that waits to be looked through, its hits and lines marked; its shot changes are for whoever opens it."""
    source = FILMS_FOLDER / f"{film.slug}.mp4"
    sha256 = hashlib.sha256(source.read_bytes()).hexdigest()
    found = probe(source)
    row = Film(
        sha256=sha256, size_bytes=source.stat().st_size, suffix=source.suffix, width_px=found.width_px,
        height_px=found.height_px, codec=found.codec, has_sound=found.has_sound, is_playable=found.is_playable,
    )  # fmt: skip
    session.add(row)
    _put_copy(media, source, film_name(sha256, source.suffix))
    picture = Picture(
        production_id=production_id, name=film.title, rate_num=FILM_RATE.num, rate_den=FILM_RATE.den,
        length_frames=found.length_frames, start_frames=found.start_frames, film=row,
    )  # fmt: skip
    spotted = replace(film.sheet, shots=(), hits=film.hits, lines=_lines(film))
    for column, value in sheet_fields(free_ids(spotted)).items():
        setattr(picture.sheet, column, value)
    session.add(picture)
    session.flush()
    return picture


def _lines(film: DemoFilm) -> tuple[Line, ...]:
    """What is spoken in a film, where it ships as captions."""
    captions = FILMS_FOLDER / f"{film.slug}.srt"
    return read_captions(captions.read_text(encoding="utf-8"), FILM_RATE).lines if captions.is_file() else ()


def _put_copy(media: MediaStore, source: Path, name: str) -> None:
    if not media.exists(name):
        with tempfile.NamedTemporaryFile(delete=False) as copy:
            shutil.copyfile(source, copy.name)
        media.put_file(Path(copy.name), name)


def _add(session: Session, media: MediaStore, production_id: int, score: Score) -> Track:
    source = MUSIC / f"{score.slug}.ogg"
    data = source.read_bytes()
    sha256 = hashlib.sha256(data).hexdigest()
    track, _ = add_track(session, production_id, sha256, len(data), source.name)
    track.title, track.tags = score.title, score.style.split(", ")
    _put_copy(media, source, original_name(sha256, track.recording.suffix))
    return track
