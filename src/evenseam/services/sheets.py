"""What is spotted on a picture: one step of undo each."""

from collections.abc import Callable

from evenseam.core.errors import SpotError
from evenseam.core.exchange import MarksRead, read_marks, write_marks
from evenseam.core.spot import Line, Sheet, edit
from evenseam.core.spot.speech import find_lines
from evenseam.services.context import Context
from evenseam.store.errors import NotReadyError
from evenseam.store.productions import change, cues_of, get_picture
from evenseam.store.sheets import rate_of, sheet_fields, sheet_of
from evenseam.store.tracks import get_track

Editing = Callable[[Sheet], Sheet]


def edit_sheet(context: Context, picture_id: int, words: str, make: Editing) -> None:
    """Change the sheet of a picture by `make`. Raises: NotFoundError, SpotError; then nothing is changed."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        before = sheet_of(picture)
        was, now = sheet_fields(before), sheet_fields(make(before))
        fields = {name: value for name, value in now.items() if value != was[name]}
        changed = bool(fields) and change(session, picture, fields, f"{words} on {picture.name}")
        production_id = picture.production_id
    if changed:
        announce(context, production_id, picture_id)


def announce(context: Context, production_id: int, picture_id: int) -> None:
    """Tell open pages that a picture changed."""
    context.events.publish("picture", picture_id=picture_id, production_id=production_id)
    context.events.publish("production", production_id=production_id)


def import_marks(context: Context, picture_id: int, file_name: str, data: bytes, shift: bool) -> tuple[str, tuple[str, ...]]:
    """Add the marks of a file to a picture; an edit list's shots take the place of those that were there.

    Returns: what came in, in words, and what a person should know of it. Raises: SpotError, with the reason.
    """
    found: list[MarksRead] = []

    def make(sheet: Sheet) -> Sheet:
        read = read_marks(suffix_of(file_name), data, sheet.rate, sheet.start_frames, shift)
        found.append(read)
        after = edit.add_lines(edit.add_hits(sheet, read.hits), read.lines)
        return after if not read.shots else edit.with_shots(after, read.shots)

    edit_sheet(context, picture_id, f"reading {file_name}", make)
    read = found[-1]
    return counted(read), read.notes


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


def find_dialogue(context: Context, picture_id: int, track_id: int | None, at_frames: int) -> int:
    """Add the lines that are spoken in a track that starts at a frame; in the picture's own sound if none is named.

    Lines that lie where one was marked before are left out. Returns how many were added.
    Raises: NotReadyError while the sound is not decoded, SpotError when nobody speaks in it.
    """
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        chosen = track_id if track_id is not None else picture.sound_track_id
        if chosen is None:
            raise SpotError("This picture has no sound of its own. Choose the track with the narration.")
        track = get_track(session, chosen)
        if track.recording.rate_hz is None or track.recording.chart_version is None:
            raise NotReadyError("The sound is still being read. Try again in a moment.")
        samples, rate_hz = context.planners.samples(track), track.recording.rate_hz
        rate, length = rate_of(picture), picture.length_frames
    lines = find_lines(samples, rate_hz, rate, length, at_frames)
    if not lines:
        raise SpotError("Nobody was heard speaking in this sound. Mark the lines by hand, or read them from a file.")
    added: list[int] = []

    def make(sheet: Sheet) -> Sheet:
        fresh = tuple(x for x in lines if not any(_overlap(x, known) for known in sheet.lines))
        added.append(len(fresh))
        return edit.add_lines(sheet, fresh)

    edit_sheet(context, picture_id, "finding dialogue", make)
    return added[-1]


def _overlap(a: Line, b: Line) -> bool:
    return a.start_frames < b.end_frames and b.start_frames < a.end_frames
