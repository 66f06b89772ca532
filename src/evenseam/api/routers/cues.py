"""Cues: their slots and what is asked of their fits."""

from typing import Any
from urllib.parse import unquote

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from evenseam.api.deps import ContextDep
from evenseam.api.readers.cues import read_cue
from evenseam.api.receiving import BODY_IS_A_FILE, receive_small
from evenseam.api.schemas.base import MOST_FLICKS
from evenseam.api.schemas.cues import CueCreate, CueRead, CueUpdate
from evenseam.core.errors import BriefError
from evenseam.core.timebase import (
    FrameRate,
    format_clock,
    format_timecode,
    frames_to_flicks,
    is_relative,
    parse_position,
    parse_typed,
    seconds_to_flicks,
)
from evenseam.core.timebase.samples import FLICKS_PER_S
from evenseam.services import cues, following
from evenseam.store.models import Cue
from evenseam.store.productions import get_cue
from evenseam.store.sheets import rate_of, slot_end_frames

router = APIRouter(prefix="/api", tags=["cues"])
_OF_THE_TRACK = ("pinned_bars", "forbidden_bars", "held_bars")
_AS_THEY_ARE = {"name", "number", "colour", "status", "notes", "look_again"}


@router.post("/pictures/{picture_id}/cues", operation_id="addCue", status_code=201)
def add_cue(context: ContextDep, picture_id: int, wanted: CueCreate) -> CueRead:
    """Make a cue of a slot on a picture; one step of undo."""
    cue_id = cues.add_cue(context, picture_id, wanted.start_frames, wanted.end_frames, wanted.name)
    with context.database.transaction() as session:
        return read_cue(get_cue(session, cue_id))


@router.delete("/cues/{cue_id}", operation_id="removeCue", status_code=204)
def remove_cue(context: ContextDep, cue_id: int) -> None:
    """Take a cue away; one step of undo."""
    cues.remove_cue(context, cue_id)


@router.patch("/cues/{cue_id}", operation_id="updateCue")
def update_cue(context: ContextDep, cue_id: int, wanted: CueUpdate) -> CueRead:
    """Change a cue; one step of undo. What moves from where it is adds up; what is set against an old revision is refused."""
    return read_cue(cues.change_cue(context, cue_id, lambda cue: _fields(cue, wanted), wanted.revision))


def _fields(cue: Cue, wanted: CueUpdate) -> tuple[dict[str, Any], dict[str, Any], str]:
    """The fields to set, those to move from where they are, and the step in words."""
    fields = wanted.model_dump(include=_AS_THEY_ARE, exclude_none=True)
    words = f"naming the cue {wanted.name}" if wanted.name is not None else f"changing {cue.number}"
    if "track_id" in wanted.model_fields_set:
        fields["track_id"], words = wanted.track_id, "taking the track away"
        if wanted.track_id != cue.track_id:  # what was said of the bars of one track says nothing of another's
            fields["asks"] = {k: v for k, v in (cue.asks or {}).items() if k not in _OF_THE_TRACK} or None
    if wanted.asks is not None:
        fields["asks"], words = wanted.asks.kept(), f"asking more of {cue.number}"
    rate, moved = rate_of(cue.picture), dict[str, Any]()
    start, length = _slot(cue, wanted, rate)
    if start != cue.slot_start_frames:
        if not 0 <= start < cue.picture.length_frames:
            raise BriefError("A cue has to start on the picture.")
        (moved if is_relative(wanted.start) else fields)["slot_start_frames"] = start
        words = f"moving {cue.number} to {format_timecode(start + cue.picture.start_frames, rate)}"
    if length is not None:
        if not 0 < length <= MOST_FLICKS:
            raise BriefError("The length must be above zero and at most 3 hours.")
        (moved if is_relative(wanted.end) else fields)["slot_length_flicks"] = length
        words = f"setting the length to {format_clock(length / FLICKS_PER_S)}"
    return fields, moved, words


def _slot(cue: Cue, wanted: CueUpdate, rate: FrameRate) -> tuple[int, int | None]:
    """First frame and length in flicks that are wanted of a slot; no length where none was asked for."""
    picture, start, length = cue.picture, cue.slot_start_frames, wanted.slot_length_flicks
    if wanted.start is not None:
        start = parse_position(wanted.start, rate, start, picture.start_frames)
    elif wanted.slot_start_frames is not None:
        start = wanted.slot_start_frames
    if wanted.length is not None:
        length = seconds_to_flicks(parse_typed(wanted.length, rate))
    elif wanted.end is not None:
        end = parse_position(wanted.end, rate, slot_end_frames(cue, picture), picture.start_frames)
        length = frames_to_flicks(end - start, rate)
    return start, length


@router.post("/cues/{cue_id}/tempo-map", operation_id="followMidi", openapi_extra=BODY_IS_A_FILE)
async def follow_midi(context: ContextDep, cue_id: int, request: Request, file_name: str = Query(min_length=1)) -> CueRead:
    """Have a cue follow the tempo map of a Standard MIDI File, which starts with its slot; one step of undo."""
    data, name = await receive_small(request), unquote(file_name)
    return read_cue(await run_in_threadpool(following.follow_midi, context, cue_id, name, data))


@router.post("/cues/{cue_id}/follow", operation_id="followPicture")
def follow_picture(context: ContextDep, cue_id: int) -> CueRead:
    """Have a cue follow the tempo map of its picture; one step of undo."""
    return read_cue(following.follow_picture(context, cue_id))
