"""Putting charts right, step by step."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Body

from evenseam.api.deps import ContextDep
from evenseam.api.edits.charts import correcting_of
from evenseam.api.readers.charts import read_chart
from evenseam.api.schemas.charts import ChartRead
from evenseam.api.schemas.corrections import Edit
from evenseam.core.chart import Corrections
from evenseam.services.correcting import correct, corrections_of
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
