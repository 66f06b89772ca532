"""Fits of cues: what came of what is asked, what else could, and what is said of it."""

from dataclasses import asdict

from fastapi import APIRouter, Query

from evenseam.api.deps import ContextDep
from evenseam.api.edits.seams import seam_say_of
from evenseam.api.readers.fits import read_change, read_cue_fit, read_fit, read_seam, read_way
from evenseam.api.schemas.fits import (
    ChangeRead,
    CueFitRead,
    FitChoice,
    FitName,
    FitRead,
    SeamSaidRead,
    SeamsSay,
    Trial,
    WayRead,
)
from evenseam.api.schemas.forecasts import ForecastsRead, TrackOutlookRead
from evenseam.services.fitting import (
    changes_that_would_do,
    fit_cue,
    forecasts,
    kept_fit,
    said_of_cue,
    tried_methods,
    try_fit,
)
from evenseam.services.proofing import choose_fit, name_fit, say_of_seams
from evenseam.store.fits import fits_of
from evenseam.store.productions import get_cue

router = APIRouter(prefix="/api", tags=["fits"])
_MOST_JUDGED = 500  # tracks at a time: a second or so when none of them is warm


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


@router.get("/cues/{cue_id}/seams", operation_id="listSeams")
def list_seams(context: ContextDep, cue_id: int) -> list[SeamSaidRead]:
    """What is said of the seams of a cue and the track it has: verdicts, and which fits are to have or to leave out."""
    return [read_seam(said) for said in said_of_cue(context, cue_id)]


@router.put("/cues/{cue_id}/seams", operation_id="saySeams")
def say_seams(context: ContextDep, cue_id: int, wanted: SeamsSay) -> list[SeamSaidRead]:
    """Say of seams how they were heard and whether they are wanted, or take it back; one step of undo."""
    return [read_seam(said) for said in say_of_seams(context, cue_id, [seam_say_of(one) for one in wanted.seams])]


@router.post("/cues/{cue_id}/fit", operation_id="fitCue")
def fit_again(context: ContextDep, cue_id: int) -> CueFitRead:
    """The fit of a cue from the chart as it is now, made if it is not there; one from before a correction stays beside it."""
    return read_cue_fit(fit_cue(context, cue_id))


@router.post("/cues/{cue_id}/try", operation_id="tryFit")
def try_cue_fit(context: ContextDep, cue_id: int, wanted: Trial) -> CueFitRead:
    """What the fit would be at another length, or if something else were asked for; nothing is kept."""
    asks = None if wanted.asks is None else wanted.asks.kept() or {}
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
