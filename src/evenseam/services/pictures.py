"""Pictures coming in: films, lengths, edit lists; and new versions, onto which marks and cues are carried."""

import io
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from evenseam.core.errors import FilmUnreadableError, SpotError
from evenseam.core.exchange import read_marks
from evenseam.core.picture import matched_shots, probe
from evenseam.core.spot import Carried, Moved, Sheet, Shot, carry, edit
from evenseam.core.timebase import FrameRate, frames_to_flicks
from evenseam.jobs.film_task import SOUND_SUFFIX, Scanned
from evenseam.services.context import Context
from evenseam.services.sheets import announce, suffix_of
from evenseam.store.holding import hold_production
from evenseam.store.jobs import OPEN_STATES, film_jobs, finish
from evenseam.store.media import MediaStore, film_derived_names, film_name, likeness_name
from evenseam.store.models import Cue, Film, Job, Picture, Refusal
from evenseam.store.productions import change, cues_of, get_picture, get_production
from evenseam.store.sheets import rate_of, sheet_fields, sheet_of
from evenseam.store.tracks import add_track, file_suffix

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


def add_blank(context: Context, production_id: int, name: str, sheet: Sheet, notes: tuple[str, ...] = ()) -> int:
    """Add a picture that is only a length and a rate, perhaps with shots. Returns its id."""
    if sheet.length_frames > LONGEST_FRAMES:
        raise SpotError("A picture can be 4 hours long at most. Cut it into reels and add those.")
    with context.database.transaction() as session:
        get_production(session, production_id)
        picture = _new_picture(session, production_id, name, edit.free_ids(sheet))
        picture.notes = list(notes)
        _adopt(session, picture, f"adding {name}")
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


def add_version(context: Context, picture_id: int, file_name: str, data: bytes, shift: bool) -> int:
    """Add a new version of a picture from an edit list and carry everything onto it. Returns the new picture's id."""
    with context.database.transaction() as session:
        old = get_picture(session, picture_id, to_change=True)
        read = read_marks(suffix_of(file_name), data, rate_of(old), old.start_frames, shift)
        if not read.shots:
            raise SpotError("The file holds no shots, so nothing can be carried by it. Use an edit list or OpenTimelineIO.")
        length = max(shot.end_frames for shot in read.shots)
        sheet = Sheet(rate_of(old), length, old.start_frames, read.shots, read.hits, read.lines)
        picture = _new_picture(session, old.production_id, _next_name(session, old), sheet)
        picture.notes = list(read.notes)
        _carry_onto(session, old, picture, sheet)
        _adopt(session, picture, f"the new version {picture.name}")
        production_id, new_id = picture.production_id, picture.id
    announce(context, production_id, new_id)
    return new_id


def take_in_film(
    context: Context, production_id: int, upload: Path, sha256: str, file_name: str, version_of_id: int | None = None
) -> int:
    """Add an uploaded film as a picture and have it scanned. Returns the picture's id. Raises: FilmUnreadableError.

    Moves `upload` into the media store. Its length is what its header claims until it was scanned.
    """
    found = probe(upload)
    name = Path(file_name).name or "Untitled"
    size = upload.stat().st_size
    with context.database.transaction() as session:
        hold_production(session, production_id)
        get_production(session, production_id)
        old = get_picture(session, version_of_id) if version_of_id is not None else None
        if old is not None and old.production_id != production_id:
            raise SpotError("The picture of which this is to be a version belongs to another production.")
        film = session.get(Film, sha256)
        if film is None:
            film = Film(
                sha256=sha256, size_bytes=size, suffix=file_suffix(name), width_px=found.width_px, height_px=found.height_px,
                codec=found.codec, has_sound=found.has_sound, is_playable=found.is_playable,
            )  # fmt: skip
            session.add(film)
        stored = film_name(sha256, film.suffix)
        if context.media.exists(stored):
            upload.unlink()
        else:
            context.media.put_file(upload, stored)
        title = _next_name(session, old) if old is not None else name.removesuffix(film.suffix).replace("_", " ").strip()
        sheet = Sheet(found.rate, found.length_frames, found.start_frames)
        picture = _new_picture(session, production_id, title or "Untitled", sheet)
        picture.film, picture.version_of_id, picture.notes = film, version_of_id, list(found.notes)
        session.flush()
        _adopt(session, picture, f"adding {picture.name}")
        session.add(Job(kind="film", production_id=production_id, picture_id=picture.id))
        picture_id = picture.id
    context.jobs.submit()
    announce(context, production_id, picture_id)
    return picture_id


def scan_again(context: Context, picture_id: int) -> None:
    """Have a film looked through once more, after it was stopped or failed. Raises: SpotError for a picture without one."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        if picture.film_sha256 is None:
            raise SpotError("This picture has no film.")
        job = film_jobs(session, picture.production_id).get(picture_id)
        production_id = picture.production_id
        if job is None or job.state not in OPEN_STATES:
            session.add(Job(kind="film", production_id=production_id, picture_id=picture_id))
    context.jobs.submit()
    announce(context, production_id, picture_id)


def keep_scanned(context: Context, job_id: int, scanned: Scanned) -> None:
    """Note what was found in a film, add its sound as a track, and carry the marks of the version before onto it.

    The job ends in the same transaction: whatever happens, nothing is carried twice.
    """
    with context.database.transaction() as session:
        found_job = session.get(Job, job_id)
        if found_job is None:
            return
        hold_production(session, found_job.production_id)
        job = finish(session, job_id, "done")
        if job is None or job.picture_id is None:
            return
        picture = session.get_one(Picture, job.picture_id)
        film, found = session.get_one(Film, picture.film_sha256), scanned.film
        film.thumbs, film.has_copy, film.is_playable = scanned.thumbs, found.needs_copy, found.is_playable
        film.width_px, film.height_px = found.width_px, found.height_px
        picture.rate_num, picture.rate_den, picture.drop_frame = found.rate.num, found.rate.den, found.rate.drop_frame
        known = {shot.start_frames for shot in sheet_of(picture).shots}
        picture.length_frames, picture.notes = found.length_frames, list(scanned.notes)
        picture.suggested_cuts = [cut for cut in scanned.cuts if cut not in known]
        old = session.get(Picture, picture.version_of_id) if picture.version_of_id is not None else None
        if old is not None:
            _carry_onto(session, old, picture, _known_again(context.media, old, picture))
        if scanned.sound_sha256 is not None:
            _add_own_sound(session, picture, scanned.sound_sha256, scanned.sound_size_bytes)
        production_id, picture_id = picture.production_id, picture.id
    context.jobs.submit()
    context.events.publish("tracks", production_id=production_id)
    announce(context, production_id, picture_id)


def refuse_film(context: Context, picture_id: int, reason: str) -> None:
    """Take a picture out again whose film turned out to be no use, unless work was done on it already."""
    with context.database.transaction() as session:
        picture = session.get_one(Picture, picture_id)
        if picture.hits or picture.lines or cues_of(session, picture_id):
            picture.notes = [*(picture.notes or []), reason]
        else:
            session.add(Refusal(production_id=picture.production_id, name=picture.name, reason=reason))
            film = picture.film
            session.delete(picture)
            session.flush()
            _drop_film(session, context.media, film)
        production_id = picture.production_id
    context.events.publish("tracks", production_id=production_id)
    announce(context, production_id, picture_id)


def _drop_film(session: Session, media: MediaStore, film: Film | None) -> None:
    """Let go of a film that no picture has any more."""
    if film is None or session.scalar(select(Picture.id).where(Picture.film_sha256 == film.sha256).limit(1)):
        return
    for name in (film_name(film.sha256, film.suffix), *film_derived_names(film.sha256)):
        media.remove(name)
    session.delete(film)


def _new_picture(session: Session, production_id: int, name: str, sheet: Sheet) -> Picture:
    """A picture that is not there yet: `_adopt` makes it so, in one step of undo."""
    picture = Picture(
        production_id=production_id, name=name[:200], rate_num=sheet.rate.num, rate_den=sheet.rate.den,
        drop_frame=sheet.rate.drop_frame, length_frames=sheet.length_frames, start_frames=sheet.start_frames, is_deleted=True,
        **sheet_fields(sheet),
    )  # fmt: skip
    session.add(picture)
    session.flush()
    return picture


def _adopt(session: Session, thing: Picture | Cue, words: str) -> None:
    change(session, thing, {"is_deleted": False}, words)


def _next_name(session: Session, old: Picture) -> str:
    """'Film' is followed by 'Film, version 2', and that by 'Film, version 3'."""
    base, sign, number = old.name.rpartition(", version ")
    base = base if sign and number.isdecimal() else old.name
    names = {p.name for p in get_production(session, old.production_id).pictures if not p.is_deleted}
    return next(name for k in range(2, 10_000) if (name := f"{base[:180]}, version {k}") not in names)


def _add_own_sound(session: Session, picture: Picture, sha256: str, size_bytes: int) -> None:
    name = f"{picture.name}: own sound{SOUND_SUFFIX}"
    track, is_new = add_track(session, picture.production_id, sha256, size_bytes, name)
    if is_new:
        track.tags = ["picture sound"]
        session.add(Job(kind="listen", production_id=picture.production_id, track_id=track.id))
    picture.sound_track_id = track.id


def _known_again(media: MediaStore, old: Picture, new: Picture) -> Sheet:
    """The sheet of a new film, its shots known again by how they look where the old one has a film too."""
    sheet = sheet_of(new)
    assert new.film is not None
    shots = edit.accept_cuts(sheet, sheet.suggested_cuts).shots or (Shot(0, sheet.length_frames),)
    own = tuple(replace(s, reel=f"film {new.film.sha256[:8]}") for s in shots)
    if old.film_sha256 is not None and media.exists(likeness_name(old.film_sha256)):
        own = matched_shots(_shots_of(old), _seen(media, old.film_sha256), own, _seen(media, new.film.sha256))
    return replace(sheet, shots=own, suggested_cuts=())


def _seen(media: MediaStore, sha256: str) -> Any:
    return np.load(io.BytesIO(media.read(likeness_name(sha256))), allow_pickle=False)


def _shots_of(picture: Picture) -> tuple[Shot, ...]:
    """A picture's shots; where none were accepted yet, those that its suggested cuts make."""
    sheet = sheet_of(picture)
    return sheet.shots or edit.accept_cuts(sheet, sheet.suggested_cuts).shots or (Shot(0, sheet.length_frames),)


def _carry_onto(session: Session, old: Picture, new: Picture, sheet: Sheet) -> None:
    """Put the marks and cues of `old` onto the new version, and note what became of them."""
    before = replace(sheet_of(old, cues_of(session, old.id)), shots=_shots_of(old))
    carried = carry(_named_after(before, sheet), sheet)
    for column, value in sheet_fields(edit.free_ids(carried.sheet)).items():
        setattr(new, column, value)
    touched = {slot.id for slot in carried.touched_slots}
    lengths = {slot.id: slot.length_frames for slot in before.slots}
    for slot in carried.sheet.slots:
        was = session.get_one(Cue, slot.id)
        is_same = slot.length_frames == lengths[slot.id]
        length = was.slot_length_flicks if is_same else frames_to_flicks(slot.length_frames, sheet.rate)
        session.add(
            Cue(
                production_id=was.production_id, picture_id=new.id, number=was.number, name=was.name, track_id=was.track_id,
                slot_start_frames=slot.start_frames, slot_length_flicks=length, colour=was.colour, notes=was.notes,
                status=was.status, look_again=slot.id in touched, carried_from_id=was.id,
            )
        )  # fmt: skip
    new.version_of_id, new.carried = old.id, _told(old, carried)


def _named_after(before: Sheet, sheet: Sheet) -> Sheet:
    """The marks that are carried under ids after those that are there: steps of undo know the marks that were made here."""
    highest = max([*(h.id for h in sheet.hits), *(x.id for x in sheet.lines)], default=0)
    hits = tuple(replace(h, id=h.id + highest) for h in before.hits)
    return replace(before, hits=hits, lines=tuple(replace(x, id=x.id + highest) for x in before.lines))


def _told(old: Picture, carried: Carried) -> dict[str, Any]:
    """What became of shots and marks, as it is stored."""
    left: dict[str, list[dict[str, Any]]] = {"hit": [], "line": [], "slot": []}
    for mark in carried.left:
        left[type(mark).__name__.lower()].append(asdict(mark))
    return {
        "from_id": old.id,
        "from_name": old.name,
        "moved": [_told_shot(m) for m in carried.moved if m.change != "same"],
        "n_same": sum(m.change == "same" for m in carried.moved),
        "left_hits": left["hit"],
        "left_lines": left["line"],
        "left_slots": left["slot"],
    }


def _told_shot(moved: Moved) -> dict[str, Any]:
    shot = moved.after or moved.before
    assert shot is not None
    spans = {"before": moved.before, "after": moved.after}
    return {
        "change": moved.change,
        "name": shot.name or shot.reel,
        **{side: {"start_frames": s.start_frames, "end_frames": s.end_frames} if s else None for side, s in spans.items()},
    }
