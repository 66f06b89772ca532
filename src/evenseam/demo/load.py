"""Load the demo production once: an observatory's open night."""

import hashlib
import shutil
import tempfile
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from evenseam.core.timebase import FrameRate, frames_to_flicks
from evenseam.demo.scores import SCORES, Score
from evenseam.store.database import Database
from evenseam.store.media import MediaStore, original_name
from evenseam.store.models import Cue, Job, Picture, Production, Track
from evenseam.store.tracks import add_track

MUSIC = Path(__file__).parent / "music"
_RATE = FrameRate(25)
_FILM_FRAMES = 72 * 25


def load_demo(database: Database, media: MediaStore) -> bool:
    """Put the demo production into an empty database; its tracks wait to be listened to. Returns whether it did."""
    with database.transaction() as session:
        if session.scalar(select(func.count()).select_from(Production)):
            return False
        production = Production(name="Harrow Fell Observatory: Open Night")
        session.add(production)
        session.flush()
        picture = Picture(
            production_id=production.id,
            name="Open Night, film, 72 s",
            rate_num=_RATE.num,
            rate_den=_RATE.den,
            length_frames=_FILM_FRAMES,
        )
        session.add(picture)
        session.flush()
        # The first of them on top of the list, which begins with what came last.
        tracks = {score.slug: _add(session, media, production.id, score) for score in reversed(SCORES)}
        session.add(
            Cue(
                production_id=production.id,
                picture_id=picture.id,
                number="1m1",
                name="Open Night",
                slot_length_flicks=frames_to_flicks(_FILM_FRAMES, _RATE),
                track_id=tracks[SCORES[0].slug].id,
            )
        )
    return True


def _add(session: Session, media: MediaStore, production_id: int, score: Score) -> Track:
    source = MUSIC / f"{score.slug}.ogg"
    data = source.read_bytes()
    sha256 = hashlib.sha256(data).hexdigest()
    track, _ = add_track(session, production_id, sha256, len(data), source.name)
    track.title, track.tags = score.title, score.style.split(", ")
    name = original_name(sha256, track.recording.suffix)
    if not media.exists(name):
        with tempfile.NamedTemporaryFile(delete=False) as copy:
            shutil.copyfile(source, copy.name)
        media.put_file(Path(copy.name), name)
    session.add(Job(kind="listen", production_id=production_id, track_id=track.id))
    return track
