"""Cues and their fits."""

from dataclasses import asdict
from typing import Any
from urllib.parse import unquote

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from evenseam.api.deps import ContextDep
from evenseam.api.readers.cues import read_cue
from evenseam.api.readers.fits import read_change, read_cue_fit, read_fit, read_way
from evenseam.api.readers.jobs import read_job
from evenseam.api.receiving import BODY_IS_A_FILE, receive_small
from evenseam.api.schemas.base import MOST_FLICKS
from evenseam.api.schemas.cues import CueCreate, CueRead, CueUpdate
from evenseam.api.schemas.fits import (
    ChangeRead,
    CueFitRead,
    FitChoice,
    FitName,
    FitRead,
    RenderRequest,
    Trial,
    VerdictGiven,
    VerdictRead,
    WayRead,
)
from evenseam.api.schemas.forecasts import ForecastsRead, TrackOutlookRead
from evenseam.api.schemas.jobs import JobRead
from evenseam.api.sound import StretchDep, sound_response
from evenseam.core.errors import BriefError
from evenseam.core.timebase import (
    FrameRate,
    format_clock,
    format_timecode,
    frames_to_flicks,
    is_relative,
    parse_position,
    parse_typed,
    seconds_to_flicks,
)
from evenseam.core.timebase.samples import FLICKS_PER_S
from evenseam.services import cues, following
from evenseam.services.fitting import changes_that_would_do, fit_cue, forecasts, kept_fit, open_fit, tried_methods, try_fit
from evenseam.services.proofing import choose_fit, name_fit, say_of_seam
from evenseam.store.fits import fits_of, get_fit, verdicts_of
from evenseam.store.jobs import add_job
from evenseam.store.models import Cue
from evenseam.store.productions import get_cue
from evenseam.store.sheets import rate_of, slot_end_frames

router = APIRouter(prefix="/api", tags=["cues"])
_MOST_JUDGED = 500  # tracks at a time: a second or so when none of them is warm
_OF_THE_TRACK = ("kept_seams", "forbidden_seams", "pinned_bars", "forbidden_bars", "held_bars")
_AS_THEY_ARE = {"name", "number", "colour", "status", "notes", "look_again"}


@router.post("/pictures/{picture_id}/cues", operation_id="addCue", status_code=201)
def add_cue(context: ContextDep, picture_id: int, wanted: CueCreate) -> CueRead:
    """Make a cue of a slot on a picture; one step of undo."""
    cue_id = cues.add_cue(context, picture_id, wanted.start_frames, wanted.end_frames, wanted.name)
    with context.database.transaction() as session:
        return read_cue(get_cue(session, cue_id))


@router.delete("/cues/{cue_id}", operation_id="removeCue", status_code=204)
def remove_cue(context: ContextDep, cue_id: int) -> None:
    """Take a cue away; one step of undo."""
    cues.remove_cue(context, cue_id)


@router.patch("/cues/{cue_id}", operation_id="updateCue")
def update_cue(context: ContextDep, cue_id: int, wanted: CueUpdate) -> CueRead:
    """Change a cue; one step of undo. What moves from where it is adds up; what is set against an old revision is refused."""
    return read_cue(cues.change_cue(context, cue_id, lambda cue: _fields(cue, wanted), wanted.revision))


def _fields(cue: Cue, wanted: CueUpdate) -> tuple[dict[str, Any], dict[str, Any], str]:
    """The fields to set, those to move from where they are, and the step in words."""
    fields = wanted.model_dump(include=_AS_THEY_ARE, exclude_none=True)
    words = f"naming the cue {wanted.name}" if wanted.name is not None else f"changing {cue.number}"
    if "track_id" in wanted.model_fields_set:
        fields["track_id"], words = wanted.track_id, "taking the track away"
        if wanted.track_id != cue.track_id:  # what was said of the seams and bars of one track says nothing of another's
            fields["asks"] = {k: v for k, v in (cue.asks or {}).items() if k not in _OF_THE_TRACK} or None
    if wanted.asks is not None:
        fields["asks"], words = wanted.asks.stored() or None, f"asking more of {cue.number}"
    rate, moved = rate_of(cue.picture), dict[str, Any]()
    start, length = _slot(cue, wanted, rate)
    if start != cue.slot_start_frames:
        if not 0 <= start < cue.picture.length_frames:
            raise BriefError("A cue has to start on the picture.")
        (moved if is_relative(wanted.start) else fields)["slot_start_frames"] = start
        words = f"moving {cue.number} to {format_timecode(start + cue.picture.start_frames, rate)}"
    if length is not None:
        if not 0 < length <= MOST_FLICKS:
            raise BriefError("The length must be above zero and at most 3 hours.")
        (moved if is_relative(wanted.end) else fields)["slot_length_flicks"] = length
        words = f"setting the length to {format_clock(length / FLICKS_PER_S)}"
    return fields, moved, words


def _slot(cue: Cue, wanted: CueUpdate, rate: FrameRate) -> tuple[int, int | None]:
    """First frame and length in flicks that are wanted of a slot; no length where none was asked for."""
    picture, start, length = cue.picture, cue.slot_start_frames, wanted.slot_length_flicks
    if wanted.start is not None:
        start = parse_position(wanted.start, rate, start, picture.start_frames)
    elif wanted.slot_start_frames is not None:
        start = wanted.slot_start_frames
    if wanted.length is not None:
        length = seconds_to_flicks(parse_typed(wanted.length, rate))
    elif wanted.end is not None:
        end = parse_position(wanted.end, rate, slot_end_frames(cue, picture), picture.start_frames)
        length = frames_to_flicks(end - start, rate)
    return start, length


@router.post("/cues/{cue_id}/tempo-map", operation_id="followMidi", openapi_extra=BODY_IS_A_FILE)
async def follow_midi(context: ContextDep, cue_id: int, request: Request, file_name: str = Query(min_length=1)) -> CueRead:
    """Have a cue follow the tempo map of a Standard MIDI File, which starts with its slot; one step of undo."""
    data, name = await receive_small(request), unquote(file_name)
    return read_cue(await run_in_threadpool(following.follow_midi, context, cue_id, name, data))


@router.post("/cues/{cue_id}/follow", operation_id="followPicture")
def follow_picture(context: ContextDep, cue_id: int) -> CueRead:
    """Have a cue follow the tempo map of its picture; one step of undo."""
    return read_cue(following.follow_picture(context, cue_id))


@router.get("/cues/{cue_id}/fits", operation_id="listFits")
def list_fits(context: ContextDep, cue_id: int) -> list[FitRead]:
    """Every fit that a cue ever had, newest first."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        return [read_fit(fit, cue) for fit in fits_of(session, cue_id)]


@router.put("/cues/{cue_id}/fit", operation_id="chooseFit")
def choose_cue_fit(context: ContextDep, cue_id: int, wanted: FitChoice) -> CueFitRead:
    """Go back to a fit that a cue had, with its track and what it was asked for; one step of undo."""
    return read_cue_fit(choose_fit(context, cue_id, wanted.fit_id))


@router.patch("/fits/{fit_id}", operation_id="nameFit")
def name_a_fit(context: ContextDep, fit_id: int, wanted: FitName) -> FitRead:
    """Give a fit a name."""
    fit = name_fit(context, fit_id, wanted.name)
    return read_fit(fit, fit.cue)


@router.get("/cues/{cue_id}/fit", operation_id="getCueFit")
def get_cue_fit(context: ContextDep, cue_id: int) -> CueFitRead:
    """The fit that is kept for what a cue asks for now; `is_missing` where there is none yet. Nothing is planned."""
    return read_cue_fit(kept_fit(context, cue_id))


@router.get("/fits/{fit_id}/verdicts", operation_id="listVerdicts")
def list_verdicts(context: ContextDep, fit_id: int) -> list[VerdictRead]:
    """What was said of the seams of a fit."""
    with context.database.transaction() as session:
        get_fit(session, fit_id)
        said = [v for v in verdicts_of(session, fit_id).values() if v.verdict]
        return [VerdictRead.model_validate(v) for v in sorted(said, key=lambda v: v.id)]


@router.put("/fits/{fit_id}/verdicts", operation_id="judgeSeam")
def judge_seam(context: ContextDep, fit_id: int, wanted: VerdictGiven) -> list[VerdictRead]:
    """Say what was heard at a seam, or take it back; one step of undo."""
    seam = (wanted.source_from_samples, wanted.source_to_samples)
    say_of_seam(context, fit_id, seam, wanted.verdict, wanted.words)
    return list_verdicts(context, fit_id)


@router.post("/cues/{cue_id}/fit", operation_id="fitCue")
def fit_again(context: ContextDep, cue_id: int) -> CueFitRead:
    """The fit of a cue from the chart as it is now, made if it is not there; one from before a correction stays beside it."""
    return read_cue_fit(fit_cue(context, cue_id))


@router.post("/cues/{cue_id}/try", operation_id="tryFit")
def try_cue_fit(context: ContextDep, cue_id: int, wanted: Trial) -> CueFitRead:
    """What the fit would be at another length, or if something else were asked for; nothing is kept."""
    asks = None if wanted.asks is None else wanted.asks.stored()
    return read_cue_fit(try_fit(context, cue_id, wanted.slot_length_flicks, asks))


@router.get("/cues/{cue_id}/ways", operation_id="compareMethods")
def compare_methods(context: ContextDep, cue_id: int) -> list[WayRead]:
    """What every method makes of what the cue asks for, the one that costs the listener least first; nothing is kept."""
    return [read_way(tried) for tried in tried_methods(context, cue_id)]


@router.get("/cues/{cue_id}/changes", operation_id="listChanges")
def list_changes(context: ContextDep, cue_id: int) -> list[ChangeRead]:
    """The smallest changes of what a cue asks for that would have all its musts met; none where they are."""
    changes, samples_per_frame = changes_that_would_do(context, cue_id)
    return [read_change(change, samples_per_frame) for change in changes]


@router.get("/cues/{cue_id}/forecasts", operation_id="getForecasts")
def get_forecasts(
    context: ContextDep, cue_id: int, after: int = 0, most: int = Query(_MOST_JUDGED, ge=1, le=_MOST_JUDGED)
) -> ForecastsRead:
    """How the tracks of the library would do in the cue's slot, so many at a time; nothing is planned."""
    judged = forecasts(context, cue_id, after, most)
    found = [TrackOutlookRead(track_id=k, **asdict(one)) for k, one in judged.outlooks.items()]
    found.sort(key=lambda one: (-one.suits, one.track_id))
    return ForecastsRead(outlooks=found, looked_at=judged.looked_at, n_tracks=judged.n_tracks, next_after=judged.next_after)


@router.get(
    "/fits/{fit_id}/sound",
    operation_id="getFitSound",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_fit_sound(context: ContextDep, fit_id: int, wanted: StretchDep) -> Response:
    """A stretch of the fitted music, ready to play: raw little-endian float32, one channel after the other.

    `start` and `stop` are samples at `rate`, the fit's own if none is asked for. The renderer that makes the file makes
    this too; what it has not come to yet is a draft, and a header says so. `after_draft`: what was played before was one.
    """
    return sound_response(*context.previews.play(fit_id, open_fit(context, fit_id), wanted))


@router.post("/fits/{fit_id}/renders", operation_id="renderFit", status_code=202)
def render_fit(context: ContextDep, fit_id: int, wanted: RenderRequest) -> JobRead:
    """Have a fit written to a WAV file; the job tells when it is there."""
    with context.database.transaction() as session:
        production_id = get_fit(session, fit_id).cue.production_id
        asked = {"sample_format": wanted.sample_format}
        job = add_job(session, production_id, "render", ("fit", fit_id), asked)
        session.flush()
        read = read_job(job)
    context.jobs.submit()
    return read
