"""The music catalogue: searching it, hearing previews, and licensing a piece into a production."""

from collections.abc import AsyncIterator
from dataclasses import asdict

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from evenseam.api.deps import ContextDep
from evenseam.api.problems import problem_of
from evenseam.api.schemas.catalogue import FetchRead, LicenceWanted, PieceRead
from evenseam.core.errors import EvenSeamError
from evenseam.services import catalogue
from evenseam.services.catalogue_client import Licence
from evenseam.services.context import Context

router = APIRouter(prefix="/api", tags=["catalogue"])


class Lines(StreamingResponse):
    """JSON values, one a line, as they come to be."""

    media_type = "application/x-ndjson"


@router.get("/catalogue", operation_id="searchCatalogue")
async def search(context: ContextDep, words: str = Query("", max_length=200), cue_id: int | None = None) -> list[PieceRead]:
    """Pieces of the catalogue that all words are found in; with a cue, what to expect of each in its slot."""
    found = await catalogue.search(context, words, cue_id)
    pieces = (piece.model_dump() | {"outlook": outlook and asdict(outlook)} for piece, outlook in found)
    return [PieceRead.model_validate(piece) for piece in pieces]


@router.get("/catalogue/{piece_id}/preview", operation_id="previewPiece", response_class=Response)
async def preview(context: ContextDep, piece_id: str) -> Response:
    """Some seconds of a piece, as the catalogue gives them."""
    sound, media_type = await context.catalogue.preview(piece_id)
    return Response(sound, media_type=media_type, headers={"Cache-Control": "private, max-age=3600"})


@router.post(
    "/productions/{production_id}/catalogue/{piece_id}",
    operation_id="licensePiece",
    response_class=Lines,
    responses={200: {"model": FetchRead}},
)
async def license_piece(context: ContextDep, production_id: int, piece_id: str, wanted: LicenceWanted) -> Lines:
    """License a piece and take its file in. Answers one line of JSON for every step; breaking off stops it."""
    licence = await catalogue.license_piece(context, production_id, piece_id, wanted.use)
    return Lines(_lines(context, production_id, licence))


async def _lines(context: Context, production_id: int, licence: Licence) -> AsyncIterator[str]:
    try:
        async for step in catalogue.fetch(context, production_id, licence):
            line = FetchRead(progress=step) if isinstance(step, float) else FetchRead(track_id=step)
            yield line.model_dump_json(exclude_none=True) + "\n"
    except EvenSeamError as error:
        yield FetchRead(problem=problem_of(error)).model_dump_json(exclude_none=True) + "\n"
