"""What is spotted on a picture: one step of undo each."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal

from sqlalchemy.orm import Session

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks import MarksRead, read_marks, write_marks
from evenseam.core.spot import Line, Sheet, edit
from evenseam.core.timebase import format_timecode
from evenseam.services.context import Context
from evenseam.services.stale import plainly, stale
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import NotReadyError
from evenseam.store.history import change, changed_since
from evenseam.store.jobs import OPEN_STATES, add_job, newest_of
from evenseam.store.models import Job, Patch, Picture
from evenseam.store.patches import touches_row
from evenseam.store.productions import cues_of, get_picture
from evenseam.store.sheets import rate_of, sheet_fields, sheet_of
from evenseam.store.tracks import get_track

Editing = Callable[[Sheet], Sheet]


@dataclass(frozen=True, slots=True)
class SeenRow:
    """A row of a sheet that is set to something absolute by somebody who looked at it at a revision."""

    revision: int
    table: Literal["hits", "lines"]
    id: int


@again_on_deadlock
def edit_sheet(context: Context, picture_id: int, words: str, make: Editing, seen: SeenRow | None = None) -> None:
    """Change the sheet of a picture by `make`. Raises: NotFoundError, SpotError, StaleError; then nothing is changed."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        changed = edit_held(session, picture, words, make, seen)
        production_id = picture.production_id
    if changed:
        announce(context, production_id, picture_id)


def edit_held(session: Session, picture: Picture, words: str, make: Editing, seen: SeenRow | None = None) -> bool:
    """The same in a transaction that holds the production already. Returns whether anything is different."""
    before = sheet_of(picture)
    after = make(before)
    if seen is not None:
        _refuse_stale_row(session, picture, seen, before, after)
    return change(session, f"{words} on {picture.name}", (picture.sheet, sheet_fields(after)))


def _refuse_stale_row(session: Session, picture: Picture, seen: SeenRow, before: Sheet, after: Sheet) -> None:
    """Raises: StaleError if somebody else changed the row since, into something else than what is wanted now."""
    now, wanted = (next((row for row in getattr(s, seen.table) if row.id == seen.id), None) for s in (before, after))
    if now is None or wanted is None or now == wanted:
        return
    theirs, yours = asdict(now), asdict(wanted)
    names = [name for name in theirs if theirs[name] != yours[name]]

    def touches(patch: Patch) -> bool:
        return touches_row(patch.before.get(seen.table), patch.after.get(seen.table), seen.id, names)

    step = changed_since(session, picture.sheet, seen.revision, touches)
    if step is None:
        return

    def in_words(row: dict[str, Any]) -> str:
        return ", ".join(_field_in_words(picture, name, row[name]) for name in names)

    raise stale(step, in_words(theirs), in_words(yours), picture.sheet.revision)


def _field_in_words(picture: Picture, name: str, value: Any) -> str:
    """A field of a hit or a line; places as timecodes of the picture."""
    if name in ("at_frames", "start_frames", "end_frames", "until_frames") and value is not None:
        word = {"at": "at", "start": "from", "end": "to", "until": "to"}[name.removesuffix("_frames")]
        return f"{word} {format_timecode(value + picture.start_frames, rate_of(picture))}"
    return plainly(name, value)


def announce(context: Context, production_id: int, picture_id: int) -> None:
    """Tell open pages that a picture changed."""
    context.events.publish("picture", picture_id=picture_id, production_id=production_id)
    context.events.publish("production", production_id=production_id)


def import_marks(context: Context, picture_id: int, file_name: str, data: bytes, shift: bool) -> tuple[str, tuple[str, ...]]:
    """Add the marks of a file to a picture, but those that are there; an edit list's shots take the place of those before.

    Returns: what came in, in words, and what a person should know of it. Raises: SpotError, with the reason.
    """
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        at = rate_of(picture), picture.start_frames
    found = [read_marks(suffix_of(file_name), data, *at, shift)]  # of a long list, while nobody waits for the production
    again = 0

    def make(sheet: Sheet) -> Sheet:
        nonlocal again
        if (sheet.rate, sheet.start_frames) != at:
            found.append(read_marks(suffix_of(file_name), data, sheet.rate, sheet.start_frames, shift))
        read = found[-1]
        hits = tuple(hit for hit in read.hits if hit not in sheet.hits)
        lines = tuple(line for line in read.lines if line not in sheet.lines)
        again = len(read.hits) + len(read.lines) - len(hits) - len(lines)
        after = edit.add_lines(edit.add_hits(sheet, hits), lines)
        return after if not read.shots else edit.with_shots(after, read.shots)

    edit_sheet(context, picture_id, f"reading {file_name}", make)
    read = found[-1]
    return counted(read), (*read.notes, *([f"{again} of them were marked already."] if again else []))


def counted(read: MarksRead) -> str:
    """What was read, in words."""
    kinds = (("hit", read.hits), ("line", read.lines), ("shot", read.shots))
    return ", ".join(f"{len(marks)} {name}{'' if len(marks) == 1 else 's'}" for name, marks in kinds if marks) or "nothing"


def suffix_of(file_name: str) -> str:
    """The ending of a file's name, with its dot."""
    _, dot, end = file_name.rpartition(".")
    return f".{end}" if dot else ""


def export_marks(context: Context, picture_id: int, form: str) -> tuple[bytes, str]:
    """The marks of a picture in an open form, and a name for the file. Raises: SpotError for a form that is not known."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        return write_marks(form, sheet_of(picture, cues_of(session, picture_id))), f"{picture.name}{form}"


@again_on_deadlock
def find_dialogue(context: Context, picture_id: int, track_id: int | None, at_frames: int) -> Job:
    """Have the lines found that are spoken in a track that starts at a frame; in the picture's own sound if none is named.

    Returns: the job. Raises: NotReadyError while the sound is not decoded, SpotError where there is none.
    """
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        chosen = track_id if track_id is not None else picture.sound_track_id
        if chosen is None:
            raise SpotError("This picture has no sound of its own. Choose the track with the narration.")
        track = get_track(session, chosen)
        if track.recording.rate_hz is None or track.recording.chart_version is None:
            raise NotReadyError("The sound is still being read. Try again in a moment.")
        asked = {"track_id": chosen, "at_frames": at_frames}
        job = newest_of(session, picture.production_id, ["dialogue"]).get(picture_id)
        if job is None or job.state not in OPEN_STATES:
            job = add_job(session, picture.production_id, "dialogue", ("picture", picture_id), asked)
            session.flush()
    context.jobs.submit()
    return job


def add_spoken(session: Session, picture: Picture, lines: tuple[Line, ...]) -> int:
    """Add lines that were heard, but for those that lie where one was marked before. Returns how many were added."""
    known = sheet_of(picture).lines
    fresh = tuple(x for x in lines if not any(_overlap(x, other) for other in known))
    if fresh:
        edit_held(session, picture, "finding dialogue", lambda sheet: edit.add_lines(sheet, fresh))
    return len(fresh)


def _overlap(a: Line, b: Line) -> bool:
    return a.start_frames < b.end_frames and b.start_frames < a.end_frames
