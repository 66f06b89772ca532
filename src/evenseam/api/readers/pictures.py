"""Pictures to what goes out."""

from sqlalchemy.orm import Session

from evenseam.api.readers.jobs import read_job
from evenseam.api.schemas.pictures import FilmRead, PictureRead, RateRead, ThumbsRead
from evenseam.store.jobs import OPEN_STATES, newest_of
from evenseam.store.models import Job, Picture


def picture_jobs(session: Session, production_id: int) -> dict[int, Job]:
    """What is told at each picture of a production, by its id: how its film is looked through, else what is found in it."""
    finding = newest_of(session, production_id, ["dialogue"])
    scanning = newest_of(session, production_id, ["film"])
    open_ones = {picture_id: job for picture_id, job in finding.items() if job.state in OPEN_STATES}
    return open_ones | {
        picture_id: job for picture_id, job in scanning.items() if job.state != "done" or picture_id not in open_ones
    }


def read_picture(picture: Picture, job: Job | None) -> PictureRead:
    """A picture row, with the job that is told at it."""
    # Rows are read one after the other: a job may end between its picture and itself.
    is_seen = picture.film is None or picture.film.thumbs is not None
    is_told = job is not None and not (job.state == "done" and is_seen)
    rate = RateRead(num=picture.rate_num, den=picture.rate_den, drop_frame=picture.drop_frame)
    return PictureRead(
        id=picture.id,
        name=picture.name,
        rate=rate,
        length_frames=picture.length_frames,
        start_frames=picture.start_frames,
        film=_read_film(picture),
        job=read_job(job) if job is not None and is_told else None,
        sound_track_id=picture.sound_track_id,
        version_of_id=picture.version_of_id,
        notes=picture.notes or [],
        revision=picture.revision,
    )


def _read_film(picture: Picture) -> FilmRead | None:
    film = picture.film
    if film is None:
        return None
    at = f"/api/pictures/{picture.id}"
    # The address changes with what is behind it, so that a browser never keeps the film before its copy.
    url = f"{at}/film?of={film.sha256[:12]}{'c' if film.has_copy else ''}" if film.has_copy or film.is_playable else None
    return FilmRead(
        url=url,
        width_px=film.width_px,
        height_px=film.height_px,
        has_sound=film.has_sound,
        thumbs_url=f"{at}/thumbs?of={film.sha256[:12]}" if film.thumbs else None,
        thumbs=ThumbsRead(**film.thumbs) if film.thumbs else None,
    )
