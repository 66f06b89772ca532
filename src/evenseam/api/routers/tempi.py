"""Which steady tempi meet the hits of a picture, and one of them as a file."""

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from evenseam.api.deps import ContextDep
from evenseam.api.files import download, made_wav
from evenseam.api.schemas.base import MOST_FRAMES
from evenseam.api.schemas.tempi import CountIn, MetRead, Parts, TempoRead
from evenseam.core.exchange.tempi.click_wav import ClickStyle
from evenseam.core.tempo.steady import FASTEST_BPM, SLOWEST_BPM
from evenseam.services import tempi

router = APIRouter(prefix="/api", tags=["tempo"])
_Form = Literal[".mid", ".csv", ".wav"]
_Bpm = Annotated[float, Query(ge=SLOWEST_BPM, le=FASTEST_BPM)]
_Meter = Annotated[int, Query(ge=1, le=12)]


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
    hits, found, rate = tempi.find_tempi(context, picture_id, low_bpm, high_bpm, meter or None, starts_frames)
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
    wanted = tempi.SteadyTempo(bpm, meter, starts_s)
    if form != ".wav":
        return download(*(tempi.tempo_map if form == ".mid" else tempi.bars_of)(context, picture_id, wanted))
    style = ClickStyle(count_in, accent, parts)
    return made_wav(context, lambda path: tempi.click_of(context, picture_id, wanted, style, path))


@router.get("/fits/{fit_id}/beats", operation_id="exportBeats", response_class=Response)
def export_beats(context: ContextDep, fit_id: int, form: _Form) -> Response:
    """The beats of a fit as they are heard: a tempo map with its hits, a table of its bars, or a click as long as it is."""
    fit = tempi.beats_of_fit(context, fit_id)
    if form != ".wav":
        return download(fit.tempo_map() if form == ".mid" else fit.table(), f"{fit.name} bars{form}")

    def write(path: Path) -> str:
        fit.write_click(path)
        return f"{fit.name} click.wav"

    return made_wav(context, write)
