"""Fits to what goes out."""

from fractions import Fraction
from math import ceil

from evenseam.api.problems import problem_of
from evenseam.api.schemas.fits import ChangeRead, CueFitRead, FitRead, SeamSaidRead, WayRead
from evenseam.core.plan.judging.changes import Change
from evenseam.core.plan.planner import Tried
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.services.fitting import CueFit, SeamSaid
from evenseam.store.models import Cue, Fit


def read_cue_fit(found: CueFit) -> CueFitRead:
    """The answer to what a cue asks for."""
    return CueFitRead(
        fit_id=found.fit_id,
        track_id=found.track_id,
        plan=found.plan,
        problem=problem_of(found.problem) if found.problem else None,
        is_outdated=found.is_outdated,
        is_missing=found.is_missing,
        choices=list(found.choices),
        seams=[read_seam(said) for said in found.seams],
    )


def read_change(change: Change, samples_per_frame: Fraction) -> ChangeRead:
    """A change that would do; a tolerance in whole frames of the picture."""
    if change.kind == "tolerance_samples" and change.value is not None:
        return ChangeRead(kind="tolerance_frames", value=ceil(change.value / samples_per_frame))
    return ChangeRead(kind=change.kind, value=change.value)


def read_way(tried: Tried) -> WayRead:
    """What a method makes of a brief."""
    return WayRead(
        method=tried.method,
        score=round(tried.plan.score, 2) if tried.plan else None,
        costs=tried.costs,
        problem=problem_of(tried.problem) if tried.problem else None,
    )


def read_fit(fit: Fit, cue: Cue) -> FitRead:
    """A fit row, for a list."""
    seams = fit.plan.get("seams", ())
    return FitRead(
        id=fit.id,
        track_id=fit.track_id,
        track_title=fit.track.title,
        name=fit.name,
        rank=fit.rank,
        origin=fit.origin,
        length_s=fit.brief.document["length_flicks"] / FLICKS_PER_S,
        n_seams=len(seams),
        is_chosen=fit.id == cue.fit_id,
        created_at=fit.created_at,
    )


def read_seam(said: SeamSaid) -> SeamSaidRead:
    """What is said of a seam."""
    name, moved_to = said.name, said.moved_to
    return SeamSaidRead(
        leaves_samples=name.leaves_samples,
        enters_samples=name.enters_samples,
        verdict=said.verdict,
        words=said.words,
        wish=said.wish,
        moved_to=[moved_to.leaves_samples, moved_to.enters_samples] if moved_to else None,
    )
