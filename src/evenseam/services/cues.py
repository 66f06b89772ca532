"""Cues on a picture: made, changed, taken away."""

import re
from collections.abc import Callable
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.errors import SpotError
from evenseam.core.timebase import FLICKS_PER_S, FrameRate, format_clock, format_timecode, frames_to_flicks
from evenseam.services.context import Context
from evenseam.services.stale import plainly, refuse_if_stale
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import change
from evenseam.store.models import Cue, Picture
from evenseam.store.productions import cues_of, get_cue, get_picture
from evenseam.store.sheets import rate_of
from evenseam.store.tracks import get_track

COLOURS = ("amber", "sage", "sky", "rose", "violet", "sand")
STATUSES = ("open", "working", "review", "approved")
_ANSWERED = {"slot_length_flicks", "track_id", "asks"}  # what a fit answers: with another one, another fit is chosen

Fields = dict[str, Any]


@again_on_deadlock
def add_cue(context: Context, picture_id: int, start_frames: int, end_frames: int, name: str) -> int:
    """Make a cue of a slot on a picture; one step of undo. Returns its id. Raises: SpotError, NotFoundError."""
    if not 0 <= start_frames < end_frames:
        raise SpotError("A slot has to end after it starts. Mark its in before its out.")
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        if start_frames >= picture.length_frames:
            raise SpotError("A slot has to start on the picture.")
        number = next_number(session, picture)
        cue = Cue(
            production_id=picture.production_id, picture_id=picture_id, number=number, name=name or f"Cue {number}",
            slot_start_frames=start_frames, slot_length_flicks=frames_to_flicks(end_frames - start_frames, rate_of(picture)),
            colour=COLOURS[len(cues_of(session, picture_id)) % len(COLOURS)], is_deleted=True,
        )  # fmt: skip
        session.add(cue)
        session.flush()
        change(session, f"adding {number}", (cue, {"is_deleted": False}))
        cue_id, production_id = cue.id, picture.production_id
    context.events.publish("production", production_id=production_id)
    return cue_id


@again_on_deadlock
def change_cue(
    context: Context, cue_id: int, make: Callable[[Cue], tuple[Fields, Fields, str]], seen_revision: int | None = None
) -> Cue:
    """Change a cue by `make(cue)`, which gives what is set, what moves from where it is, and the step in words.

    What moves from where it is adds up with what others do; what is set is refused if it was changed since a revision.
    Raises: NotFoundError, StaleError.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id, to_change=True)
        absolute, relative, words = make(cue)
        refuse_if_stale(session, cue, seen_revision, absolute, lambda name, value: _in_words(session, cue, name, value))
        fields = {**absolute, **relative}
        if fields.get("track_id") is not None:
            words = f"choosing {get_track(session, fields['track_id']).title}"
        if any(getattr(cue, name) != fields[name] for name in _ANSWERED & fields.keys()):
            fields["fit_id"] = None
        changed = change(session, words, (cue, fields))
    if changed:
        context.events.publish("production", production_id=cue.production_id)
    return cue


@again_on_deadlock
def remove_cue(context: Context, cue_id: int) -> None:
    """Take a cue away; one step of undo."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id, to_change=True)
        change(session, f"removing {cue.number}", (cue, {"is_deleted": True}))
        production_id = cue.production_id
    context.events.publish("production", production_id=production_id)


def next_number(session: Session, picture: Picture) -> str:
    """The trade's number for the next cue of a picture: reel, m, count. The reel is the hour its timecode starts at, or 1."""
    rate = rate_of(picture)
    reel = max(1, round(picture.start_frames / rate.nominal_fps) // 3600)
    counts = [int(m[1]) for c in cues_of(session, picture.id) if (m := re.fullmatch(r"\d+m(\d+)\w?", c.number))]
    return f"{reel}m{max(counts, default=0) + 1}"


def _in_words(session: Session, cue: Cue, name: str, value: Any) -> str:
    """A field of a cue and its value, as a person knows them."""
    if name == "slot_length_flicks":
        return f"{format_clock(value / FLICKS_PER_S)} long"
    if name == "slot_start_frames":
        rate: FrameRate = rate_of(cue.picture)
        return f"at {format_timecode(value + cue.picture.start_frames, rate)}"
    if name == "track_id":
        return f"fitted from {get_track(session, value).title}" if value is not None else "without a track"
    return plainly(name, value)
