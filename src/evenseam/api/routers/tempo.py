"""Which steady tempi meet the hits of a picture, and one of them as a file."""

import tempfile
from pathlib import Path
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Query, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from evenseam.api.base import MOST_FRAMES, Answer
from evenseam.api.deps import ContextDep
from evenseam.core.tempo.steady import FASTEST_BPM, SLOWEST_BPM
from evenseam.services import tempo

router = APIRouter(prefix="/api/pictures", tags=["tempo"])
_Bpm = Annotated[float, Query(ge=SLOWEST_BPM, le=FASTEST_BPM)]
_Meter = Annotated[int, Query(ge=1, le=12)]


class MetRead(Answer):
    """What a tempo makes of a hit: how far off the beat is (late above 0), and which beat of which bar it is, both from 1."""

    hit_id: int
    off_frames: float
    bar: int
    beat: int
    is_met: bool


class TempoRead(Answer):
    """A tempo, where its bar one starts, whole and half tempi of the same answer, and its hits in order of time."""

    bpm: float
    starts_s: float
    also_bpm: list[float]
    hits: list[MetRead]


@router.get("/{picture_id}/tempi", operation_id="findTempi")
def find_tempi(
    context: ContextDep,
    picture_id: int,
    low_bpm: _Bpm = 60,
    high_bpm: _Bpm = 180,
    meter: _Meter = 4,
    starts_frames: Annotated[int | None, Query(ge=0, le=MOST_FRAMES)] = None,
) -> list[TempoRead]:
    """The steady tempi of a range that meet the hits of a picture best, best first."""
    hits, found, rate = tempo.find_tempi(context, picture_id, low_bpm, high_bpm, meter, starts_frames)
    return [
        TempoRead(
            bpm=one.bpm,
            starts_s=one.starts_s,
            also_bpm=list(one.also_bpm),
            hits=[
                MetRead(hit_id=hit.id, off_frames=float(off * rate.fps), bar=bar, beat=beat, is_met=met)
                for hit, off, (bar, beat), met in zip(hits, one.off_s, one.places, one.is_met, strict=True)
            ],
        )
        for one in found
    ]


@router.get("/{picture_id}/tempo", operation_id="exportTempo", response_class=Response)
def export_tempo(
    context: ContextDep,
    picture_id: int,
    form: Literal[".mid", ".csv", ".wav"],
    bpm: _Bpm,
    meter: _Meter = 4,
    starts_s: Annotated[float, Query(ge=0, le=86_400)] = 0,
) -> Response:
    """A tempo on a picture: a tempo map with its hits, a table of its bars, or a click that starts with it."""
    wanted = tempo.SteadyTempo(bpm, meter, starts_s)
    if form != ".wav":
        data, name = (tempo.tempo_map if form == ".mid" else tempo.bars_of)(context, picture_id, wanted)
        headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
        return Response(data, media_type="application/octet-stream", headers=headers)
    with tempfile.NamedTemporaryFile(dir=context.settings.scratch_dir, suffix=".wav", delete=False) as file:
        path = Path(file.name)
    try:
        name = tempo.click_of(context, picture_id, wanted, path)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return FileResponse(path, media_type="audio/wav", filename=name, background=BackgroundTask(path.unlink, missing_ok=True))
