"""Pictures coming in and going out: films, lengths, edit lists."""

from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from evenseam.core.errors import FilmUnreadableError, SpotError
from evenseam.core.exchange.marks import read_marks
from evenseam.core.picture import probe
from evenseam.core.spot import Sheet, edit
from evenseam.core.timebase import FrameRate, format_timecode
from evenseam.jobs.kinds import Afterwards
from evenseam.services.context import Context
from evenseam.services.sheets import announce, suffix_of
from evenseam.services.stale import plainly, refuse_if_stale
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import change, forget_history
from evenseam.store.holding import hold_production
from evenseam.store.jobs import OPEN_STATES, add_job, newest_of
from evenseam.store.media import film_derived_names, film_name
from evenseam.store.models import Film, Picture, PictureSheet, Refusal
from evenseam.store.productions import cues_of, get_picture, get_production
from evenseam.store.sheets import rate_of, sheet_fields
from evenseam.store.tracks import file_suffix

_MAGIC = (b"\x1aE\xdf\xa3", b"RIFF", b"\x06\x0e+4", b"FLV", b"0&\xb2u", b"\x00\x00\x01\xba", b"\x00\x00\x01\xb3", b"OggS")
_ATOMS = (b"ftyp", b"moov", b"wide", b"mdat", b"free", b"skip", b"pnot")
_TRANSPORT_SYNC = 0x47
LONGEST_FRAMES = 4 * 3600 * 240


def check_looks_like_film(head: bytes) -> None:
    """Refuse at the first bytes what is no film whatever it is called. Raises: FilmUnreadableError."""
    if not head:
        raise FilmUnreadableError("The file is empty. Export it again and add the new file.")
    if not (head.startswith(_MAGIC) or head[4:8] in _ATOMS or head[0] == _TRANSPORT_SYNC):
        raise FilmUnreadableError("This is not a film. MP4, MOV, MKV and WebM can be added, and edit lists.")


@again_on_deadlock
def add_blank(context: Context, production_id: int, name: str, sheet: Sheet, notes: tuple[str, ...] = ()) -> int:
    """Add a picture that is only a length and a rate, perhaps with shots. Returns its id."""
    if sheet.length_frames > LONGEST_FRAMES:
        raise SpotError("A picture can be 4 hours long at most. Cut it into reels and add those.")
    with context.database.transaction() as session:
        hold_production(session, production_id)
        get_production(session, production_id)
        picture = new_picture(session, production_id, name, edit.free_ids(sheet))
        picture.notes = list(notes)
        adopt(session, picture, f"adding {name}")
        picture_id = picture.id
    announce(context, production_id, picture_id)
    return picture_id


def sheet_from_list(file_name: str, data: bytes, rate: FrameRate, start_frames: int) -> tuple[Sheet, tuple[str, ...]]:
    """A picture made of the shots of an edit list, as long as they are. Raises: SpotError."""
    read = read_marks(suffix_of(file_name), data, rate, start_frames, shift=True)
    if not read.shots:
        raise SpotError("The file holds no shots, so it does not say how long the picture is. Read it into a picture instead.")
    length = max(shot.end_frames for shot in read.shots)
    return Sheet(rate, length, start_frames, read.shots, read.hits, read.lines), read.notes


def take_in_film(
    context: Context, production_id: int, upload: Path, sha256: str, file_name: str, version_of_id: int | None = None
) -> int:
    """Add an uploaded film as a picture and have it scanned. Returns the picture's id. Raises: FilmUnreadableError.

    Moves `upload` into the media store. Its length is what its header claims until it was scanned.
    """
    found, name = probe(upload), Path(file_name).name or "Untitled"
    film = Film(
        sha256=sha256, size_bytes=upload.stat().st_size, suffix=file_suffix(name), width_px=found.width_px,
        height_px=found.height_px, codec=found.codec, has_sound=found.has_sound, is_playable=found.is_playable,
    )  # fmt: skip
    title = name.removesuffix(film.suffix).replace("_", " ").strip() or "Untitled"
    sheet = Sheet(found.rate, found.length_frames, found.start_frames)
    picture_id = _add_film(context, production_id, upload, film, (title, sheet, list(found.notes)), version_of_id)
    context.jobs.submit()
    announce(context, production_id, picture_id)
    return picture_id


@again_on_deadlock
def _add_film(
    context: Context,
    production_id: int,
    upload: Path,
    found: Film,
    shown: tuple[str, Sheet, list[str]],
    version_of_id: int | None,
) -> int:
    title, sheet, notes = shown
    with context.database.transaction() as session:
        hold_production(session, production_id)
        get_production(session, production_id)
        old = get_picture(session, version_of_id) if version_of_id is not None else None
        if old is not None and old.production_id != production_id:
            raise SpotError("The picture of which this is to be a version belongs to another production.")
        film = session.get(Film, found.sha256) or session.merge(found)
        context.media.take_in(upload, film_name(film.sha256, film.suffix))
        picture = new_picture(session, production_id, next_name(session, old) if old is not None else title, sheet)
        picture.film, picture.version_of_id, picture.notes = film, version_of_id, notes
        session.flush()
        adopt(session, picture, f"adding {picture.name}")
        add_job(session, production_id, "film", ("picture", picture.id))
        return picture.id


@again_on_deadlock
def scan_again(context: Context, picture_id: int) -> None:
    """Have a film looked through once more, after it was stopped or failed. Raises: SpotError for a picture without one."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        if picture.film_sha256 is None:
            raise SpotError("This picture has no film.")
        production_id = picture.production_id
        job = newest_of(session, production_id, ["film"]).get(picture_id)
        if job is None or job.state not in OPEN_STATES:
            add_job(session, production_id, "film", ("picture", picture_id))
    context.jobs.submit()
    announce(context, production_id, picture_id)


@again_on_deadlock
def change_picture(
    context: Context, picture_id: int, name: str | None, start_frames: int | None, seen_revision: int | None
) -> None:
    """Change what a picture is called, or the timecode of its first frame; one step of undo.

    Raises: NotFoundError, StaleError.
    """
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)

        def in_words(field: str, value: Any) -> str:
            return f"starting at {_timecode(picture, value)}" if field == "start_frames" else plainly(field, value)

        fields: dict[str, Any] = {"name": name, "start_frames": start_frames}
        fields = {field: value for field, value in fields.items() if value is not None}
        refuse_if_stale(session, picture, seen_revision, fields, in_words)
        words = f"renaming {picture.name}"
        if start_frames is not None:
            words = f"starting {picture.name} at {_timecode(picture, start_frames)}"
        change(session, words, (picture, fields))
        production_id = picture.production_id
    announce(context, production_id, picture_id)


def _timecode(picture: Picture, frames: int) -> str:
    return format_timecode(frames, rate_of(picture))


@again_on_deadlock
def remove_picture(context: Context, picture_id: int) -> None:
    """Take a picture away with its cues; one step of undo."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        production_id = picture.production_id
        change(session, f"removing {picture.name}", (picture, {"is_deleted": True}))
    announce(context, production_id, picture_id)


def refuse_film(context: Context, session: Session, picture_id: int, reason: str) -> Afterwards:
    """Take a picture out again whose film turned out to be no use, unless work was done on it already.

    Returns: what is to be done after the commit.
    """
    picture = session.get_one(Picture, picture_id)
    production_id, names = picture.production_id, tuple[str, ...]()
    if picture.sheet.hits or picture.sheet.lines or cues_of(session, picture_id):
        picture.notes = [*(picture.notes or []), reason]
    else:
        session.add(Refusal(production_id=production_id, name=picture.name, reason=reason))
        film = picture.film
        for kind in ("picture", "sheet"):
            forget_history(session, kind, [picture_id])
        session.delete(picture)
        session.flush()
        names = _drop_film(session, film)

    def afterwards() -> None:
        for name in names:
            context.media.remove(name)
        context.events.publish("tracks", production_id=production_id)
        announce(context, production_id, picture_id)

    return afterwards


def _drop_film(session: Session, film: Film | None) -> tuple[str, ...]:
    """Let go of a film that no picture has any more. Returns: its files."""
    if film is None or session.scalar(select(Picture.id).where(Picture.film_sha256 == film.sha256).limit(1)):
        return ()
    session.delete(film)
    return film_name(film.sha256, film.suffix), *film_derived_names(film.sha256)


def new_picture(session: Session, production_id: int, name: str, sheet: Sheet) -> Picture:
    """A picture that is not there yet: `adopt` makes it so, in one step of undo."""
    picture = Picture(
        production_id=production_id, name=name[:200], rate_num=sheet.rate.num, rate_den=sheet.rate.den,
        drop_frame=sheet.rate.drop_frame, length_frames=sheet.length_frames, start_frames=sheet.start_frames, is_deleted=True,
        sheet=PictureSheet(**sheet_fields(sheet)),
    )  # fmt: skip
    session.add(picture)
    session.flush()
    return picture


def adopt(session: Session, picture: Picture, words: str) -> None:
    """Have a new picture be there."""
    change(session, words, (picture, {"is_deleted": False}))


def next_name(session: Session, old: Picture) -> str:
    """'Film' is followed by 'Film, version 2', and that by 'Film, version 3'."""
    base, sign, number = old.name.rpartition(", version ")
    base = base if sign and number.isdecimal() else old.name
    names = {p.name for p in get_production(session, old.production_id).pictures if not p.is_deleted}
    return next(name for k in range(2, 10_000) if (name := f"{base[:180]}, version {k}") not in names)
