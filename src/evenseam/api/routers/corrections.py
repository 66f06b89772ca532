"""Putting charts right, step by step, and hearing them with a click."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Body, Response

from evenseam.api.deps import ContextDep
from evenseam.api.edits.charts import correcting_of
from evenseam.api.readers.charts import read_chart
from evenseam.api.schemas.charts import ChartRead
from evenseam.api.schemas.corrections import Edit
from evenseam.api.sound import StretchDep, sound_response
from evenseam.core.chart import Corrections
from evenseam.services.correcting import correct, corrections_of
from evenseam.services.playing import play_track
from evenseam.store.tracks import get_track

router = APIRouter(prefix="/api/tracks", tags=["corrections"])


@router.get("/{track_id}/chart", operation_id="getChart")
def get_chart(context: ContextDep, track_id: int) -> ChartRead:
    """The chart of a track as it is used: what was heard, with its corrections."""
    with context.database.transaction() as session:
        track = get_track(session, track_id)
        return read_chart(context.planners.get(track).chart, corrections_of(track))


@router.post("/{track_id}/corrections", operation_id="correctChart")
def correct_chart(context: ContextDep, track_id: int, wanted: Annotated[Edit, Body(discriminator="kind")]) -> ChartRead:
    """Put one thing right; one step of undo. Returns the chart with it."""
    words, make = correcting_of(wanted)
    correct(context, track_id, words, make)
    return get_chart(context, track_id)


@router.delete("/{track_id}/corrections", operation_id="dropCorrections")
def drop_corrections(context: ContextDep, track_id: int) -> ChartRead:
    """Go back to what was heard, marks kept; one step of undo."""
    correct(context, track_id, "going back to what was heard", lambda before, *_: replace(Corrections(), marks=before.marks))
    return get_chart(context, track_id)


@router.get(
    "/{track_id}/sound",
    operation_id="getTrackSound",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_track_sound(context: ContextDep, track_id: int, wanted: StretchDep, click: bool = False) -> Response:
    """A stretch of a track: raw little-endian float32, one channel after the other; with a click on its beats if wanted.

    `start` and `stop` are samples at `rate`, the track's own if none is asked for.
    """
    with context.database.transaction() as session:
        warm = context.planners.get(get_track(session, track_id))
    return sound_response(play_track(warm, wanted, click))
