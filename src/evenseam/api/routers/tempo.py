"""Which steady tempi meet the hits of a picture, and one of them as a file."""

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from evenseam.api.base import MOST_FRAMES, Answer
from evenseam.api.deps import ContextDep
from evenseam.api.files import download, made_wav
from evenseam.core.render.click import ClickStyle
from evenseam.core.tempo.steady import FASTEST_BPM, SLOWEST_BPM
from evenseam.services import tempo

router = APIRouter(prefix="/api", tags=["tempo"])
_Form = Literal[".mid", ".csv", ".wav"]
_Bpm = Annotated[float, Query(ge=SLOWEST_BPM, le=FASTEST_BPM)]
_Meter = Annotated[int, Query(ge=1, le=12)]
CountIn = Annotated[int, Query(ge=0, le=8)]
Parts = Annotated[int, Query(ge=1, le=4)]


class MetRead(Answer):
    """What a tempo makes of a hit: how far off the beat is (late above 0), and which beat of which bar it is, both from 1."""

    hit_id: int
    off_frames: float
    bar: int
    beat: int
    is_met: bool


class TempoRead(Answer):
    """A tempo, beats of its bars, where bar one starts, whole and half tempi of the same answer, and hits in order of time."""

    bpm: float
    meter: int
    starts_s: float
    also_bpm: list[float]
    hits: list[MetRead]


@router.get("/pictures/{picture_id}/tempi", operation_id="findTempi")
def find_tempi(
    context: ContextDep,
    picture_id: int,
    low_bpm: _Bpm = 60,
    high_bpm: _Bpm = 180,
    meter: Annotated[int, Query(ge=0, le=12)] = 4,
    starts_frames: Annotated[int | None, Query(ge=0, le=MOST_FRAMES)] = None,
) -> list[TempoRead]:
    """The steady tempi of a range that meet the hits of a picture best, best first. `meter`: 0 for whichever suits."""
    hits, found, rate = tempo.find_tempi(context, picture_id, low_bpm, high_bpm, meter or None, starts_frames)
    return [
        TempoRead(
            bpm=one.bpm,
            meter=one.meter,
            starts_s=one.starts_s,
            also_bpm=list(one.also_bpm),
            hits=[
                MetRead(hit_id=hit.id, off_frames=float(off * rate.fps), bar=bar, beat=beat, is_met=met)
                for hit, off, (bar, beat), met in zip(hits, one.off_s, one.places, one.is_met, strict=True)
            ],
        )
        for one in found
    ]


@router.get("/pictures/{picture_id}/tempo", operation_id="exportTempo", response_class=Response)
def export_tempo(
    context: ContextDep,
    picture_id: int,
    form: _Form,
    bpm: _Bpm,
    meter: _Meter = 4,
    starts_s: Annotated[float, Query(ge=0, le=86_400)] = 0,
    count_in: CountIn = 0,
    accent: bool = True,
    parts: Parts = 1,
) -> Response:
    """A tempo on a picture: a tempo map with its hits, a table of its bars, or a click that starts with it.

    Of a click: bars of `count_in` before bar one (the file then starts whole seconds earlier where it has to, and its name says
    so), whether bars are told apart, and into how many `parts` each beat is clicked.
    """
    wanted = tempo.SteadyTempo(bpm, meter, starts_s)
    if form != ".wav":
        return download(*(tempo.tempo_map if form == ".mid" else tempo.bars_of)(context, picture_id, wanted))
    style = ClickStyle(count_in, accent, parts)
    return made_wav(context, lambda path: tempo.click_of(context, picture_id, wanted, style, path))


@router.get("/fits/{fit_id}/beats", operation_id="exportBeats", response_class=Response)
def export_beats(context: ContextDep, fit_id: int, form: _Form) -> Response:
    """The beats of a fit as they are heard: a tempo map with its hits, a table of its bars, or a click as long as it is."""
    fit = tempo.beats_of_fit(context, fit_id)
    if form != ".wav":
        return download(fit.tempo_map() if form == ".mid" else fit.table(), f"{fit.name} bars{form}")

    def write(path: Path) -> str:
        fit.write_click(path)
        return f"{fit.name} click.wav"

    return made_wav(context, write)
