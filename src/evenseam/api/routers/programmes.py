"""Programmes: what sounds on a picture, of a cue alone, of a track; its sounds, its levels, and prints of it."""

from typing import Any

from fastapi import APIRouter, Response

from evenseam.api.deps import ContextDep
from evenseam.api.readers.jobs import read_job
from evenseam.api.readers.programmes import read_mix, read_programme
from evenseam.api.schemas.fits import RenderRequest
from evenseam.api.schemas.jobs import JobRead
from evenseam.api.schemas.programmes import LevelSet, MixRead, ProgrammeRead
from evenseam.api.sound import StretchDep, sound_response
from evenseam.core.timebase import format_clock
from evenseam.services import programmes
from evenseam.services.context import Context
from evenseam.services.fitting import open_fit
from evenseam.services.mixing import set_level
from evenseam.services.planners import WarmTrack
from evenseam.services.playing import play_click, play_track
from evenseam.store.fits import get_fit
from evenseam.store.jobs import add_job
from evenseam.store.productions import get_picture
from evenseam.store.tracks import get_track

router = APIRouter(prefix="/api", tags=["programmes"])
_SOUND: dict[str, Any] = {"response_class": Response, "responses": {200: {"content": {"application/octet-stream": {}}}}}


@router.get("/pictures/{picture_id}/programme", operation_id="getPictureProgramme")
def get_picture_programme(context: ContextDep, picture_id: int) -> ProgrammeRead:
    """Everything that sounds on a picture: its cues as they are fitted and levelled, and its own sound. Nothing is planned."""
    return read_programme(programmes.programme_of_picture(context, picture_id))


@router.get("/cues/{cue_id}/programme", operation_id="getCueProgramme")
def get_cue_programme(context: ContextDep, cue_id: int, fit_id: int | None = None) -> ProgrammeRead:
    """A cue alone, at its level; with another fit of it in the place of the one it has, if one is named."""
    return read_programme(programmes.programme_of_cue(context, cue_id, fit_id))


@router.get("/tracks/{track_id}/programme", operation_id="getTrackProgramme")
def get_track_programme(context: ContextDep, track_id: int, click: bool = False) -> ProgrammeRead:
    """A track as it is, with a click on its beats if wanted."""
    return read_programme(programmes.programme_of_track(context, track_id, click))


@router.get("/fits/{fit_id}/sound", operation_id="getFitSound", **_SOUND)
def get_fit_sound(context: ContextDep, fit_id: int, wanted: StretchDep) -> Response:
    """A stretch of the fitted music, ready to play: raw little-endian float32, one channel after the other.

    `start` and `stop` are samples at `rate`, the fit's own if none is asked for, counted from the fit's own sample
    `from_samples`. The renderer that makes the file makes this too; what it has not come to yet is a draft, and a header says
    so. `after_draft`: what was played before was one.
    """
    return sound_response(*context.previews.play(fit_id, open_fit(context, fit_id), wanted))


@router.get("/tracks/{track_id}/sound", operation_id="getTrackSound", **_SOUND)
def get_track_sound(context: ContextDep, track_id: int, wanted: StretchDep) -> Response:
    """A stretch of a track, as that of a fit."""
    return sound_response(play_track(_warm(context, track_id), wanted))


@router.get("/tracks/{track_id}/click", operation_id="getTrackClick", **_SOUND)
def get_track_click(context: ContextDep, track_id: int, wanted: StretchDep) -> Response:
    """A stretch of clicks on the beats of a track, in one channel; silence in free time."""
    return sound_response(play_click(_warm(context, track_id), wanted))


@router.get("/pictures/{picture_id}/mix", operation_id="getMix")
def get_mix(context: ContextDep, picture_id: int) -> MixRead:
    """What is set of the cues and buses of a picture; what is not there is as it came."""
    with context.database.transaction() as session:
        return read_mix(get_picture(session, picture_id))


@router.patch("/pictures/{picture_id}/mix/cues/{cue_id}", operation_id="setCueLevel")
def set_cue_level(context: ContextDep, picture_id: int, cue_id: int, wanted: LevelSet) -> MixRead:
    """Set some of the level of a cue; one step of undo. It holds for every fit and every track in its place."""
    return read_mix(set_level(context, picture_id, cue_id, wanted.fields(), wanted.revision))


@router.patch("/pictures/{picture_id}/mix/buses/{name}", operation_id="setBusLevel")
def set_bus_level(context: ContextDep, picture_id: int, name: str, wanted: LevelSet) -> MixRead:
    """Set some of the level of a bus; one step of undo."""
    return read_mix(set_level(context, picture_id, name, wanted.fields(), wanted.revision))


@router.post("/fits/{fit_id}/renders", operation_id="renderFit", status_code=202)
def render_fit(context: ContextDep, fit_id: int, wanted: RenderRequest) -> JobRead:
    """Have a cue with one of its fits written to a WAV file, as it is heard by itself; the job tells when it is there."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        length = _length_in_a_name(fit.target_samples / fit.plan["rate"])
        name = f"{fit.cue.number} {fit.cue.name} {length} {fit.track.title}.wav"
        production_id = fit.cue.production_id
    return _print(context, production_id, ("fit", fit_id), wanted, name)


@router.post("/pictures/{picture_id}/renders", operation_id="renderPicture", status_code=202)
def render_picture(context: ContextDep, picture_id: int, wanted: RenderRequest) -> JobRead:
    """Have all that sounds on a picture written to a WAV file; the job tells when it is there."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        name, production_id = f"{picture.name}.wav", picture.production_id
    return _print(context, production_id, ("picture", picture_id), wanted, name)


def _print(context: Context, production_id: int, subject: tuple[str, int], wanted: RenderRequest, name: str) -> JobRead:
    with context.database.transaction() as session:
        job = add_job(session, production_id, "render", subject, {"sample_format": wanted.sample_format, "name": name})
        session.flush()
        read = read_job(job)
    context.jobs.submit()
    return read


def _length_in_a_name(seconds: float) -> str:
    return format_clock(seconds).replace(":", "-").removesuffix(".000")


def _warm(context: Context, track_id: int) -> WarmTrack:
    with context.database.transaction() as session:
        return context.planners.get(get_track(session, track_id))
