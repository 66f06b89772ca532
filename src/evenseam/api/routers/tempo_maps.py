"""The tempo map of a picture."""

from typing import Annotated, Literal
from urllib.parse import unquote

from fastapi import APIRouter, Body, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from evenseam.api.deps import ContextDep
from evenseam.api.edits.tempo_maps import map_editing_of
from evenseam.api.files import download, made_wav
from evenseam.api.readers.tempo_maps import map_read
from evenseam.api.receiving import BODY_IS_A_FILE, receive_small
from evenseam.api.schemas.tempi import CountIn, Parts
from evenseam.api.schemas.tempo_maps import MapEdit, SteadyLaid, TempoMapRead
from evenseam.core.exchange.tempi.click_wav import ClickStyle
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.services import tempo_maps
from evenseam.services.context import Context

router = APIRouter(prefix="/api/pictures", tags=["tempo"])


@router.get("/{picture_id}/tempo-map", operation_id="getTempoMap")
def get_tempo_map(context: ContextDep, picture_id: int) -> TempoMapRead | None:
    """The tempo map that was laid on a picture; null where there is none."""
    return _read(context, picture_id)


@router.put("/{picture_id}/tempo-map", operation_id="layTempo")
def lay_tempo(context: ContextDep, picture_id: int, wanted: SteadyLaid) -> TempoMapRead | None:
    """Lay a steady tempo on a picture; one step of undo."""
    tempo_maps.lay_map(context, picture_id, TempoMap.steady(wanted.bpm, wanted.meter, wanted.starts_s))
    return _read(context, picture_id)


@router.post("/{picture_id}/tempo-map", operation_id="readTempoMap", openapi_extra=BODY_IS_A_FILE)
async def read_tempo_map(
    context: ContextDep, picture_id: int, request: Request, file_name: str = Query(min_length=1)
) -> TempoMapRead | None:
    """Lay the tempo map of a Standard MIDI File on a picture, from its first frame; one step of undo."""
    data, name = await receive_small(request), unquote(file_name)
    await run_in_threadpool(tempo_maps.read_map, context, picture_id, name, data)
    return await run_in_threadpool(_read, context, picture_id)


@router.post("/{picture_id}/tempo-map/edits", operation_id="editTempoMap")
def edit_tempo_map(
    context: ContextDep, picture_id: int, wanted: Annotated[MapEdit, Body(discriminator="edit")]
) -> TempoMapRead | None:
    """Change one thing of a tempo map; one step of undo. Returns the map with it."""
    tempo_maps.edit_map(context, picture_id, *map_editing_of(wanted))
    return _read(context, picture_id)


@router.post("/{picture_id}/tempo-map/try", operation_id="tryTempoMap")
def try_tempo_map(context: ContextDep, picture_id: int, wanted: Annotated[MapEdit, Body(discriminator="edit")]) -> TempoMapRead:
    """The tempo map as a change would have it; nothing is kept."""
    return map_read(tempo_maps.try_map(context, picture_id, map_editing_of(wanted)[1]))


@router.delete("/{picture_id}/tempo-map", operation_id="removeTempoMap", status_code=204)
def remove_tempo_map(context: ContextDep, picture_id: int) -> None:
    """Take the tempo map of a picture away; one step of undo."""
    tempo_maps.remove_map(context, picture_id)


@router.get("/{picture_id}/tempo-map/file", operation_id="exportTempoMap", response_class=Response)
def export_tempo_map(
    context: ContextDep,
    picture_id: int,
    form: Annotated[Literal[".mid", ".csv", ".wav"], Query()],
    count_in: CountIn = 0,
    accent: bool = True,
    parts: Parts = 1,
) -> Response:
    """The tempo map of a picture as MIDI with its hits, as a table of bars, or as a click as that of a tempo is."""
    laid = tempo_maps.need_map(context, picture_id)
    if form == ".wav":
        return made_wav(context, lambda path: laid.write_click(path, ClickStyle(count_in, accent, parts)))
    return download(*(laid.midi() if form == ".mid" else laid.bars()))


def _read(context: Context, picture_id: int) -> TempoMapRead | None:
    laid = tempo_maps.laid_map(context, picture_id)
    return None if laid is None else map_read(laid)
