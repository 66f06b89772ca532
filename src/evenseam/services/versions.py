"""New versions of a picture: marks and cues carried along with their shots, and what becomes of those that cannot be."""

import io
from collections.abc import Collection, Sequence
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from evenseam.core.errors import EvenSeamError, SpotError
from evenseam.core.exchange.marks import read_marks
from evenseam.core.picture import Film, matched_shots
from evenseam.core.spot import Carried, Moved, Pair, Sheet, Shot, aligned, carry, edit, is_known_again
from evenseam.core.timebase import FrameRate, frames_to_flicks
from evenseam.services.context import Context
from evenseam.services.fitting import seams_to_keep
from evenseam.services.pictures import adopt, new_picture, next_name
from evenseam.services.sheets import announce, suffix_of
from evenseam.services.tempo_maps import carry_map
from evenseam.store.briefs import asked_of, on_picture
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import NotFoundError
from evenseam.store.history import change, highest_row_id
from evenseam.store.media import MediaStore, likeness_name
from evenseam.store.mixes import copy_mix
from evenseam.store.models import Cue, Picture
from evenseam.store.productions import cues_of, get_cue, get_picture
from evenseam.store.seams import copy_seams
from evenseam.store.sheets import rate_of, sheet_fields, sheet_of

# Somebody looks at the same lists several times before a version is made of them, which then holds its production.
_aligned = lru_cache(maxsize=8)(aligned)


class ShotsUnknownError(EvenSeamError):
    """No shot of an edit list can be known again by its reel."""

    code = "shots_unknown"


@dataclass(frozen=True, slots=True)
class NewList:
    """An edit list that came in for a new version. `shift`: it is laid on the picture's start wherever it starts."""

    file_name: str
    data: bytes
    shift: bool = False


@dataclass(frozen=True, slots=True)
class Likeness:
    """Which shots of two versions seem to be the same, where no reel says so, and what would come along by that."""

    old_shots: tuple[Shot, ...]
    new_shots: tuple[Shot, ...]
    pairs: tuple[Pair, ...]
    n_carried: int
    n_marks: int


def likeness(context: Context, picture_id: int, listed: NewList, refused: Collection[int] = ()) -> Likeness:
    """What an alignment by order and length would do; nothing is changed. `refused`: old shots that are not to be paired.

    Raises: SpotError, NotFoundError.
    """
    with context.database.transaction() as session:
        old = get_picture(session, picture_id)
        sheet, _ = _read(old, listed)
        before = _before(session, old)
    pairs = _pairs(before, sheet, refused)
    carried = carry(before, sheet, [(p.old_index, p.new_index) for p in pairs])
    n_marks = len(before.hits) + len(before.lines) + len(before.slots)
    return Likeness(before.shots, sheet.shots, pairs, n_marks - len(carried.left), n_marks)


@again_on_deadlock
def add_version(
    context: Context, picture_id: int, listed: NewList, is_aligned: bool = False, refused: Collection[int] = ()
) -> int:
    """Add a new version of a picture from an edit list and carry everything onto it. Returns the new picture's id.

    Parameters: is_aligned: shots without a reel in common are the same by their order and lengths, but for old ones that are
    `refused`. Raises: SpotError, NotFoundError; ShotsUnknownError where that has to be asked.
    """
    with context.database.transaction() as session:
        old = get_picture(session, picture_id, to_change=True)
        sheet, notes = _read(old, listed)
        before = _before(session, old)
        is_known = is_known_again(before.shots, sheet.shots)
        if not is_known and not is_aligned:
            raise ShotsUnknownError(
                f"No shot of the list is known by its reel in {old.name}. Give the new film or the old edit list, or have the "
                "shots compared by their order and length.",
                picture_id=picture_id,
            )
        pairs = None if is_known else _pairs(before, sheet, refused)
        picture = new_picture(session, old.production_id, next_name(session, old), sheet)
        picture.notes = list(notes)
        carry_onto(session, old, picture, sheet, pairs)
        adopt(session, picture, f"the new version {picture.name}")
        production_id, new_id = picture.production_id, picture.id
    announce(context, production_id, new_id)
    return new_id


@again_on_deadlock
def place_left_cue(context: Context, picture_id: int, cue_id: int, start_frames: int) -> Cue:
    """Put a cue that could not be carried onto the new version; one step of undo. Raises: SpotError, NotFoundError."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        told = picture.sheet.carried or {}
        if all(slot["id"] != cue_id for slot in told.get("left_slots", ())):
            raise NotFoundError("This cue is on the picture already. Reload the page.", cue_id=cue_id)
        if not 0 <= start_frames < picture.length_frames:
            raise SpotError("A cue has to start on the picture.")
        was = get_cue(session, cue_id)
        cue = _copied(session, was, picture, start_frames, was.slot_length_flicks)
        cue.look_again = cue.is_deleted = True
        session.flush()
        still_left = [slot for slot in told["left_slots"] if slot["id"] != cue_id]
        sheet = {"carried": {**told, "left_slots": still_left}}
        change(session, f"placing {cue.number}", (cue, {"is_deleted": False}), (picture.sheet, sheet))
        production_id = picture.production_id
    announce(context, production_id, picture_id)
    return cue


@dataclass(frozen=True, slots=True)
class KnownAgain:
    """The shots of a new film, known again in the old one, and the shots of both pictures that this was found by."""

    shots: tuple[Shot, ...]
    old_shots: tuple[Shot, ...]
    new_shots: tuple[Shot, ...]

    def holds(self, old: Picture, new: Picture) -> bool:
        """Whether neither picture's shots were changed since."""
        return self.old_shots == shots_of(old) and self.new_shots == sheet_of(new).shots


def known_again(media: MediaStore, old: Picture, new: Picture, film: Film, cuts: tuple[int, ...]) -> KnownAgain:
    """The shots of a film, known again by how they look where the old picture has a film too."""
    assert new.film_sha256 is not None
    sheet = replace(sheet_of(new), rate=film.rate, length_frames=film.length_frames, suggested_cuts=cuts)
    shots = edit.accept_cuts(sheet, cuts).shots or (Shot(0, sheet.length_frames),)
    own = tuple(replace(s, reel=f"film {new.film_sha256[:8]}") for s in shots)
    before = shots_of(old)
    if old.film_sha256 is not None and media.exists(likeness_name(old.film_sha256)):
        own = matched_shots(before, _seen(media, old.film_sha256), own, _seen(media, new.film_sha256))
    return KnownAgain(own, before, sheet_of(new).shots)


def carry_onto_film(session: Session, old: Picture, new: Picture, film: Film, known: KnownAgain) -> None:
    """Put the marks and cues of `old` onto a film that was looked through, beside what is marked on it by now."""
    sheet = replace(sheet_of(new), rate=film.rate, length_frames=film.length_frames, shots=known.shots, suggested_cuts=())
    carry_onto(session, old, new, sheet)


def shots_of(picture: Picture) -> tuple[Shot, ...]:
    """A picture's shots; where none were accepted yet, those that its suggested cuts make."""
    sheet = sheet_of(picture)
    return sheet.shots or edit.accept_cuts(sheet, sheet.suggested_cuts).shots or (Shot(0, sheet.length_frames),)


def carry_onto(session: Session, old: Picture, new: Picture, sheet: Sheet, pairs: tuple[Pair, ...] | None = None) -> None:
    """Put the marks and cues of `old` onto the new version, and note what became of them."""
    before = _named_after(_before(session, old), sheet)
    carried = carry(before, sheet, None if pairs is None else [(p.old_index, p.new_index) for p in pairs])
    marked = edit.ids_above(carried.sheet, sheet, highest_row_id(session, new.sheet))
    for column, value in sheet_fields(marked).items():
        setattr(new.sheet, column, value)
    carry_map(old, new, sheet.rate)
    touched = {slot.id for slot in carried.touched_slots}
    lengths = {slot.id: slot.length_frames for slot in before.slots}
    copies: dict[int, int] = {}
    for slot in carried.sheet.slots:
        was = session.get_one(Cue, slot.id)
        is_same = slot.length_frames == lengths[slot.id]
        length = was.slot_length_flicks if is_same else frames_to_flicks(slot.length_frames, sheet.rate)
        cue = _copied(session, was, new, slot.start_frames, length)
        cue.look_again = slot.id in touched
        copies[was.id] = cue.id
    copy_mix(session, old, new, copies, lambda flicks: _carried_moment(flicks, carried.moved, rate_of(old), sheet.rate))
    new.version_of_id, new.sheet.carried = old.id, _told(old, carried)


def _carried_moment(flicks: int, moved: Sequence[Moved], old: FrameRate, new: FrameRate) -> int | None:
    """Where a moment of the version before is on this one, with the shot that it lies in; None where that is gone."""
    frame = flicks // frames_to_flicks(1, old)
    shot = next((m for m in moved if m.before and m.before.start_frames <= frame < m.before.end_frames), None)
    if shot is None or shot.before is None or shot.after is None:
        return None
    into = min(frame - shot.before.start_frames, shot.after.length_frames - 1)
    return frames_to_flicks(shot.after.start_frames + into, new)


def _copied(session: Session, was: Cue, onto: Picture, start_frames: int, length_flicks: int) -> Cue:
    """A cue of the version before on this one. It asks for what that asked, and to keep its seams where it can."""
    asked = on_picture(asked_of(was), was.picture, onto)
    asked = asked.model_copy(update={"hits": None})
    cue = Cue(
        production_id=was.production_id, picture_id=onto.id, number=was.number, name=was.name, track_id=was.track_id,
        slot_start_frames=start_frames, slot_length_flicks=length_flicks, asks=asked.kept(), colour=was.colour,
        notes=was.notes, status=was.status, carried_from_id=was.id,
    )  # fmt: skip
    session.add(cue)
    session.flush()
    copy_seams(session, was, cue, seams_to_keep(session, was))
    return cue


def _read(old: Picture, listed: NewList) -> tuple[Sheet, tuple[str, ...]]:
    """The sheet of a list, and what a person should know of it. Raises: SpotError."""
    read = read_marks(suffix_of(listed.file_name), listed.data, rate_of(old), old.start_frames, listed.shift)
    if not read.shots:
        raise SpotError("The file holds no shots, so nothing can be carried by it. Use an edit list or OpenTimelineIO.")
    length = max(shot.end_frames for shot in read.shots)
    return Sheet(rate_of(old), length, old.start_frames, read.shots, read.hits, read.lines), read.notes


def _before(session: Session, old: Picture) -> Sheet:
    return replace(sheet_of(old, cues_of(session, old.id)), shots=shots_of(old))


def _pairs(before: Sheet, sheet: Sheet, refused: Collection[int]) -> tuple[Pair, ...]:
    return tuple(p for p in _aligned(before.shots, sheet.shots) if p.old_index not in refused)


def _seen(media: MediaStore, sha256: str) -> Any:
    return np.load(io.BytesIO(media.read(likeness_name(sha256))), allow_pickle=False)


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
    offers = {o.slot.id: o for o in carried.offers}
    for slot in left["slot"]:
        offer = offers[slot["id"]]
        slot |= {"at_first_hit_frames": offer.at_first_hit_frames, "at_old_time_frames": offer.at_old_time_frames}
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
