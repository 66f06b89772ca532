"""Pictures coming in, their films, and new versions of them."""

import asyncio
from pathlib import Path
from urllib.parse import unquote

from fastapi import APIRouter, Header, Query, Request, Response
from fastapi.responses import FileResponse

from evenseam.api.deps import ContextDep
from evenseam.api.readers.cues import read_cue
from evenseam.api.readers.pictures import picture_jobs, read_picture
from evenseam.api.readers.versions import read_likeness
from evenseam.api.receiving import BODY_IS_A_FILE, receive, receive_small
from evenseam.api.schemas.cues import CueRead
from evenseam.api.schemas.pictures import BlankPicture, PictureRead, PictureUpdate
from evenseam.api.schemas.versions import LikenessRead, PlaceCue
from evenseam.core.errors import SpotError
from evenseam.core.spot import Sheet
from evenseam.core.timebase import FrameRate, nearest, parse_timecode_frames, parse_typed
from evenseam.services import pictures as service
from evenseam.services import versions
from evenseam.services.context import Context
from evenseam.services.incoming import check_room
from evenseam.store.errors import NotFoundError
from evenseam.store.media import film_copy_name, film_name, thumbs_name
from evenseam.store.models import Film
from evenseam.store.productions import get_picture
from evenseam.store.sheets import rate_of

router = APIRouter(prefix="/api", tags=["pictures"])
_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
_KINDS = {".webm": "video/webm", ".mkv": "video/x-matroska"}


def _read(context: Context, picture_id: int) -> PictureRead:
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        job = picture_jobs(session, picture.production_id).get(picture_id)
        session.refresh(picture)  # the job may have ended since it was read
        return read_picture(picture, job)


@router.post("/productions/{production_id}/pictures", operation_id="addFilm", status_code=201, openapi_extra=BODY_IS_A_FILE)
async def add_film(
    context: ContextDep,
    production_id: int,
    request: Request,
    file_name: str = Query(min_length=1, max_length=1000),
    version_of: int | None = None,
    content_length: int | None = Header(None, include_in_schema=False),
) -> PictureRead:
    """Add a film, sent as the body; as a new version of a picture if one is named, whose marks are then carried onto it."""
    check_room(context, content_length or 0)
    upload, sha256 = await receive(context, request, service.check_looks_like_film)
    try:
        take_in, name = service.take_in_film, unquote(file_name)
        picture_id = await asyncio.to_thread(take_in, context, production_id, upload, sha256, name, version_of)
    finally:
        upload.unlink(missing_ok=True)
    return await asyncio.to_thread(_read, context, picture_id)


@router.post("/productions/{production_id}/pictures/blank", operation_id="addBlankPicture", status_code=201)
def add_blank_picture(context: ContextDep, production_id: int, wanted: BlankPicture) -> PictureRead:
    """Add a picture that is only a length and a rate."""
    rate = FrameRate.parse(wanted.rate)
    length = nearest(parse_typed(wanted.length, rate) * rate.fps)
    start = parse_timecode_frames(wanted.start, rate) if wanted.start else 0
    return _read(context, service.add_blank(context, production_id, wanted.name, Sheet(rate, length, start)))


@router.post(
    "/productions/{production_id}/pictures/list",
    operation_id="addPictureFromList",
    status_code=201,
    openapi_extra=BODY_IS_A_FILE,
)
async def add_picture_from_list(
    context: ContextDep,
    production_id: int,
    request: Request,
    rate: str = Query(max_length=20),
    file_name: str = Query(min_length=1, max_length=1000),
) -> PictureRead:
    """Add a picture made of the shots of an edit list (CMX 3600 or OpenTimelineIO), as long as they are."""
    data, name = await receive_small(request), unquote(file_name)

    def add() -> int:
        sheet, notes = service.sheet_from_list(name, data, FrameRate.parse(rate), 0)
        return service.add_blank(context, production_id, Path(name).stem.replace("_", " "), sheet, notes)

    return await asyncio.to_thread(lambda: _read(context, add()))


@router.post("/pictures/{picture_id}/versions", operation_id="addVersion", status_code=201, openapi_extra=BODY_IS_A_FILE)
async def add_version(
    context: ContextDep,
    picture_id: int,
    request: Request,
    file_name: str = Query(min_length=1),
    shift: bool = False,
    aligned: bool = False,
    refused: list[int] = Query([]),
) -> PictureRead:
    """Add a new version of a picture from an edit list, and carry everything onto it; one step of undo.

    Where no reel says which shot is which this is answered `shots_unknown`, unless they are to be `aligned` by order and
    length; old shots that are `refused` are then not taken for any new one.
    """
    listed = versions.NewList(unquote(file_name), await receive_small(request), shift)
    add = versions.add_version
    return await asyncio.to_thread(lambda: _read(context, add(context, picture_id, listed, aligned, set(refused))))


@router.post("/pictures/{picture_id}/likeness", operation_id="compareVersion", openapi_extra=BODY_IS_A_FILE)
async def compare_version(
    context: ContextDep,
    picture_id: int,
    request: Request,
    file_name: str = Query(min_length=1),
    shift: bool = False,
    refused: list[int] = Query([]),
) -> LikenessRead:
    """Which shots of an edit list seem to be those of a picture, by order and length, and how sure that is; nothing is kept."""
    listed = versions.NewList(unquote(file_name), await receive_small(request), shift)
    found = await asyncio.to_thread(versions.likeness, context, picture_id, listed, set(refused))
    return read_likeness(found)


@router.post("/pictures/{picture_id}/left/{cue_id}", operation_id="placeLeftCue", status_code=201)
def place_left_cue(context: ContextDep, picture_id: int, cue_id: int, wanted: PlaceCue) -> CueRead:
    """Put a cue of the version before that could not be carried at a frame of this one; one step of undo."""
    return read_cue(versions.place_left_cue(context, picture_id, cue_id, wanted.start_frames))


@router.patch("/pictures/{picture_id}", operation_id="updatePicture")
def update_picture(context: ContextDep, picture_id: int, wanted: PictureUpdate) -> PictureRead:
    """Change what a picture is called, or the timecode of its first frame; one step of undo."""
    with context.database.transaction() as session:
        rate = rate_of(get_picture(session, picture_id))
    start = None if wanted.start is None else parse_timecode_frames(wanted.start, rate)
    service.change_picture(context, picture_id, wanted.name, start, wanted.revision)
    return _read(context, picture_id)


@router.post("/pictures/{picture_id}/scan", operation_id="scanAgain", status_code=202)
def scan_again(context: ContextDep, picture_id: int) -> PictureRead:
    """Look through the film of a picture once more."""
    service.scan_again(context, picture_id)
    return _read(context, picture_id)


@router.delete("/pictures/{picture_id}", operation_id="removePicture", status_code=204)
def remove_picture(context: ContextDep, picture_id: int) -> None:
    """Take a picture away with its cues; one step of undo."""
    service.remove_picture(context, picture_id)


def _film(context: Context, picture_id: int) -> Film:
    with context.database.transaction() as session:
        film = get_picture(session, picture_id).film
        if film is None:
            raise NotFoundError("This picture has no film.", picture_id=picture_id)
        return film


@router.get("/pictures/{picture_id}/film", operation_id="getFilm", response_class=Response)
def get_film(context: ContextDep, picture_id: int) -> FileResponse:
    """The film, or the copy of it that browsers play, with ranges."""
    film = _film(context, picture_id)
    if film.has_copy:
        return FileResponse(context.media.local_path(film_copy_name(film.sha256)), media_type="video/mp4", headers=_FOREVER)
    if not film.is_playable:
        raise SpotError("This film cannot be played as it is; a copy of it is being made.")
    path = context.media.local_path(film_name(film.sha256, film.suffix))
    return FileResponse(path, media_type=_KINDS.get(film.suffix, "video/mp4"), headers=_FOREVER)


@router.get("/pictures/{picture_id}/thumbs", operation_id="getThumbs", response_class=Response)
def get_thumbs(context: ContextDep, picture_id: int) -> FileResponse:
    """The small pictures of the film, on one sheet."""
    film = _film(context, picture_id)
    if film.thumbs is None:
        raise NotFoundError("The film was not looked through yet.", picture_id=picture_id)
    return FileResponse(context.media.local_path(thumbs_name(film.sha256)), media_type="image/jpeg", headers=_FOREVER)
