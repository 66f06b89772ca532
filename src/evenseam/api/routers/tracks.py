"""Tracks: uploads, what was heard, peaks and sound."""

import asyncio
import contextlib
from urllib.parse import unquote

from fastapi import APIRouter, Header, Query, Request, Response
from fastapi.responses import FileResponse

from evenseam.api.deps import ContextDep
from evenseam.api.readers.tracks import read_track, read_tracks
from evenseam.api.receiving import BODY_IS_A_FILE, receive
from evenseam.api.schemas.tracks import RefusalRead, TrackRead, TrackUpdate
from evenseam.core.audio.tags import clean_tags
from evenseam.core.errors import EvenSeamError
from evenseam.services import tracks as service
from evenseam.services.context import Context
from evenseam.services.incoming import check_room
from evenseam.store import tracks as rows
from evenseam.store.errors import NotFoundError
from evenseam.store.media import cover_name, original_name, peaks_name
from evenseam.store.productions import get_production

router = APIRouter(prefix="/api", tags=["tracks"])
_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}


@router.get("/productions/{production_id}/tracks", operation_id="listTracks")
def list_tracks(context: ContextDep, production_id: int) -> list[TrackRead]:
    """The tracks of a production."""
    with context.database.transaction() as session:
        return read_tracks(session, production_id)


@router.get("/productions/{production_id}/refusals", operation_id="listRefusals")
def list_refusals(context: ContextDep, production_id: int) -> list[RefusalRead]:
    """Files that turned out to be no use, until they are put away."""
    with context.database.transaction() as session:
        return [RefusalRead.model_validate(r) for r in rows.list_refusals(session, production_id)]


@router.delete("/refusals/{refusal_id}", operation_id="putAwayRefusal", status_code=204)
def put_away_refusal(context: ContextDep, refusal_id: int) -> None:
    """Put a refusal away; one that is gone already is no error."""
    service.put_away_refusal(context, refusal_id)


@router.post(
    "/productions/{production_id}/tracks",
    operation_id="addTrack",
    status_code=201,
    openapi_extra=BODY_IS_A_FILE,
)
async def add_track(
    context: ContextDep,
    production_id: int,
    request: Request,
    file_name: str = Query(min_length=1, max_length=1000),
    content_length: int | None = Header(None, include_in_schema=False),
) -> TrackRead:
    """Add an audio file, sent as the body. It streams to disk and is refused as early as it can be."""
    await asyncio.to_thread(_check_production, context, production_id)
    check_room(context, content_length or 0)
    upload, sha256 = await receive(context, request, service.check_looks_like_sound)
    try:
        track_id = await asyncio.to_thread(service.take_in, context, production_id, upload, sha256, unquote(file_name))
    finally:
        upload.unlink(missing_ok=True)
    return await asyncio.to_thread(_read, context, track_id)


def _check_production(context: Context, production_id: int) -> None:
    with context.database.transaction() as session:
        get_production(session, production_id)


def _read(context: Context, track_id: int) -> TrackRead:
    with context.database.transaction() as session:
        return read_track(session, rows.get_track(session, track_id))


@router.get("/tracks/{track_id}", operation_id="getTrack")
def get_track(context: ContextDep, track_id: int) -> TrackRead:
    """One track."""
    return _read(context, track_id)


@router.patch("/tracks/{track_id}", operation_id="updateTrack")
def update_track(context: ContextDep, track_id: int, wanted: TrackUpdate) -> TrackRead:
    """Change what a track is called, its artist and its tags; one step of undo."""
    fields = wanted.model_dump(exclude_none=True, exclude={"revision"})
    if wanted.tags is not None:
        fields["tags"] = clean_tags(wanted.tags)
    service.label(context, track_id, fields, wanted.revision)
    return _read(context, track_id)


@router.delete("/tracks/{track_id}", operation_id="deleteTrack", status_code=204)
async def delete_track(context: ContextDep, track_id: int) -> None:
    """Delete a track, and its files if no other track uses them."""
    track = await asyncio.to_thread(_read, context, track_id)
    if track.job is not None and track.job.state in ("waiting", "running"):
        with contextlib.suppress(EvenSeamError):  # it may have ended in this very moment
            await context.jobs.cancel(track.job.id)
    await asyncio.to_thread(service.remove, context, track_id)


@router.post("/tracks/{track_id}/listen", operation_id="listenAgain", status_code=202)
def listen_again(context: ContextDep, track_id: int) -> TrackRead:
    """Listen to a track once more. What was corrected by hand stays."""
    track = _read(context, track_id)
    if track.job is None or track.job.state not in ("waiting", "running"):
        service.listen_again(context, track.production_id, track_id)
    return _read(context, track_id)


@router.get("/tracks/{track_id}/peaks", operation_id="getPeaks", response_class=Response)
def get_peaks(context: ContextDep, track_id: int) -> FileResponse:
    """The waveform for drawing, as audiowaveform .dat."""
    with context.database.transaction() as session:
        track = rows.get_track(session, track_id)
    context.planners.get(track)
    path = context.media.local_path(peaks_name(track.sha256))
    return FileResponse(path, media_type="application/octet-stream", headers=_FOREVER)


@router.get("/tracks/{track_id}/cover", operation_id="getCover", response_class=Response)
def get_cover(context: ContextDep, track_id: int) -> FileResponse:
    """The cover picture that came inside the file."""
    with context.database.transaction() as session:
        recording = rows.get_track(session, track_id).recording
    if recording.cover_suffix is None:
        raise NotFoundError("This track has no cover picture.", track_id=track_id)
    path = context.media.local_path(cover_name(recording.sha256, recording.cover_suffix))
    kind = "image/png" if recording.cover_suffix == ".png" else "image/jpeg"
    return FileResponse(path, media_type=kind, headers={**_FOREVER, "X-Content-Type-Options": "nosniff"})


@router.get("/tracks/{track_id}/original", operation_id="getOriginal", response_class=Response)
def get_original(context: ContextDep, track_id: int) -> FileResponse:
    """The file as it came in, with ranges; always to be saved, whatever its name says that it is."""
    with context.database.transaction() as session:
        track = rows.get_track(session, track_id)
        recording = track.recording
    path = context.media.local_path(original_name(recording.sha256, recording.suffix))
    return FileResponse(path, media_type="application/octet-stream", filename=track.file_name)
