"""Cues on a picture: made, changed, taken away."""

import re

from sqlalchemy.orm import Session

from evenseam.core.errors import SpotError
from evenseam.core.timebase import frames_to_flicks
from evenseam.services.context import Context
from evenseam.store.models import Cue, Picture
from evenseam.store.productions import change, cues_of, get_cue, get_picture
from evenseam.store.sheets import rate_of

COLOURS = ("amber", "sage", "sky", "rose", "violet", "sand")
STATUSES = ("open", "working", "review", "approved")


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
        change(session, cue, {"is_deleted": False}, f"adding {number}")
        cue_id, production_id = cue.id, picture.production_id
    context.events.publish("production", production_id=production_id)
    return cue_id


def remove_cue(context: Context, cue_id: int) -> None:
    """Take a cue away; one step of undo."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id, to_change=True)
        change(session, cue, {"is_deleted": True}, f"removing {cue.number}")
        production_id = cue.production_id
    context.events.publish("production", production_id=production_id)


def next_number(session: Session, picture: Picture) -> str:
    """The trade's number for the next cue of a picture: reel, m, count. The reel is the hour its timecode starts at, or 1."""
    rate = rate_of(picture)
    reel = max(1, round(picture.start_frames / rate.nominal_fps) // 3600)
    counts = [int(m[1]) for c in cues_of(session, picture.id) if (m := re.fullmatch(r"\d+m(\d+)\w?", c.number))]
    return f"{reel}m{max(counts, default=0) + 1}"
