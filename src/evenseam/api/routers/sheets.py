"""What is spotted on a picture: hits, lines, shots; marks in and out in open forms."""

from typing import Annotated, Literal
from urllib.parse import unquote

from fastapi import APIRouter, Body, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from evenseam.api.deps import ContextDep
from evenseam.api.edits.sheets import editing_of, seen_of
from evenseam.api.files import download
from evenseam.api.readers.jobs import read_job
from evenseam.api.receiving import BODY_IS_A_FILE, receive_small
from evenseam.api.schemas.jobs import JobRead
from evenseam.api.schemas.sheets import (
    CarriedRead,
    Edit,
    FindDialogue,
    HitRead,
    ImportRead,
    LineRead,
    PositionRead,
    SheetRead,
    ShotRead,
)
from evenseam.core.timebase import parse_position
from evenseam.services import sheets
from evenseam.services.context import Context
from evenseam.store.productions import get_picture
from evenseam.store.sheets import rate_of, sheet_of

router = APIRouter(prefix="/api/pictures", tags=["spotting"])
_Form = Literal[".csv", ".edl", ".otio", ".vtt", ".srt", ".mid"]


def read_sheet(context: Context, picture_id: int) -> SheetRead:
    """What was spotted on a picture, without its shots."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        kept = picture.sheet
        return SheetRead(
            revision=kept.revision,
            hits=[HitRead.model_validate(h) for h in kept.hits or ()],
            lines=[LineRead.model_validate(x) for x in kept.lines or ()],
            suggested_cuts=kept.suggested_cuts or [],
            carried=CarriedRead.model_validate(kept.carried) if kept.carried else None,
        )


@router.get("/{picture_id}/sheet", operation_id="getSheet")
def get_sheet(context: ContextDep, picture_id: int) -> SheetRead:
    """What was spotted on a picture."""
    return read_sheet(context, picture_id)


@router.get("/{picture_id}/shots", operation_id="getShots")
def get_shots(context: ContextDep, picture_id: int) -> list[ShotRead]:
    """The shots of a picture."""
    with context.database.transaction() as session:
        return [ShotRead.model_validate(s) for s in sheet_of(get_picture(session, picture_id)).shots]


@router.post("/{picture_id}/edits", operation_id="editSheet")
def edit_sheet(context: ContextDep, picture_id: int, wanted: Annotated[Edit, Body(discriminator="edit")]) -> SheetRead:
    """Change one thing on a sheet; one step of undo. Returns the sheet with it."""
    words, make = editing_of(wanted)
    sheets.edit_sheet(context, picture_id, words, make, seen_of(wanted))
    return read_sheet(context, picture_id)


@router.get("/{picture_id}/position", operation_id="readPosition")
def read_position(context: ContextDep, picture_id: int, text: str = Query(max_length=64), here_frames: int = 0) -> PositionRead:
    """The frame that a person means by what was typed, kept inside the picture."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
    frames = parse_position(text, rate_of(picture), here_frames, picture.start_frames)
    return PositionRead(frames=min(max(0, frames), picture.length_frames))


@router.post("/{picture_id}/marks", operation_id="importMarks", openapi_extra=BODY_IS_A_FILE)
async def import_marks(
    context: ContextDep, picture_id: int, request: Request, file_name: str = Query(min_length=1), shift: bool = False
) -> ImportRead:
    """Add the marks of a file: CSV, CMX 3600, OpenTimelineIO, WebVTT, SRT or MIDI; one step of undo."""
    data, name = await receive_small(request), unquote(file_name)
    words, notes = await run_in_threadpool(sheets.import_marks, context, picture_id, name, data, shift)
    return ImportRead(words=words, notes=list(notes))


@router.get("/{picture_id}/marks", operation_id="exportMarks", response_class=Response)
def export_marks(context: ContextDep, picture_id: int, form: _Form) -> Response:
    """The marks of a picture as a file."""
    return download(*sheets.export_marks(context, picture_id, form))


@router.post("/{picture_id}/dialogue", operation_id="findDialogue", status_code=202)
def find_dialogue(context: ContextDep, picture_id: int, wanted: FindDialogue) -> JobRead:
    """Have the lines marked that are spoken in a sound; the job says how many they are. One step of undo."""
    return read_job(sheets.find_dialogue(context, picture_id, wanted.track_id, wanted.at_frames))
