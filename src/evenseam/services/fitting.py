"""Fitting a cue: the fit of what it asks for now, and trials that are not kept."""

import logging
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from evenseam.core.errors import BriefError, EvenSeamError
from evenseam.core.plan import Brief, Plan
from evenseam.core.timebase import flicks_to_samples
from evenseam.services.context import Context
from evenseam.services.planners import WarmTrack
from evenseam.store.errors import FitUnreadableError
from evenseam.store.models import Cue, Fit
from evenseam.store.plans import read_plan, stored_plan
from evenseam.store.productions import find_fit, get_cue, get_fit, latest_fit
from evenseam.store.tracks import chart_id

_log = logging.getLogger(__name__)
_MOST_WARMED = 8


@dataclass(frozen=True, slots=True)
class CueFit:
    """The answer to what a cue asks for: a fit with its plan, or why there is none. `fit_id` is None for a trial.

    `is_outdated`: the track's chart was corrected since; the fit stays as it is until it is asked for anew. `is_missing`:
    nothing was planned yet for what the cue asks for now.
    """

    fit_id: int | None = None
    track_id: int | None = None
    plan: Plan | None = None
    problem: EvenSeamError | None = None
    is_outdated: bool = False
    is_missing: bool = False


def kept_fit(context: Context, cue_id: int) -> CueFit:
    """The fit that is kept for what a cue asks for now; nothing is planned and nothing written.

    A fit from the chart before it was corrected is given as it is.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        if cue.track is None:
            return CueFit()
        try:
            warm, chart = context.planners.get(cue.track), chart_id(cue.track)
        except EvenSeamError as problem:
            return CueFit(track_id=cue.track.id, problem=problem)
        target = flicks_to_samples(cue.slot_length_flicks, warm.chart.rate)
        fit = find_fit(session, cue_id, cue.track.id, target, chart)
        plan = _readable(fit)
        if fit is None or plan is None:
            return CueFit(track_id=cue.track.id, is_missing=True)
        return CueFit(fit.id, cue.track.id, plan, is_outdated=fit.chart_id != chart)


def fit_cue(context: Context, cue_id: int) -> CueFit:
    """The fit of a cue from the chart as it is now, made and kept if it is not there yet. A refusal is an answer, no error."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        if cue.track is None:
            return CueFit()
        track_id = cue.track.id
        try:
            warm, chart = context.planners.get(cue.track), chart_id(cue.track)
            target = flicks_to_samples(cue.slot_length_flicks, warm.chart.rate)
            fit = find_fit(session, cue_id, track_id, target, chart)
            if fit is not None and fit.chart_id != chart:
                fit = None
            known = _readable(fit)
            if fit is not None and known is not None:
                return CueFit(fit.id, track_id, known)
            plan = warm.planner.plan(Brief(target, kept_seams=_seams_before(session, cue)))
        except EvenSeamError as problem:
            return CueFit(track_id=track_id, problem=problem)
        if fit is not None:
            fit.plan, fit.chart_id = stored_plan(plan), chart
            return CueFit(fit.id, track_id, plan)
    return CueFit(_keep(context, cue_id, track_id, plan, chart), track_id, plan)


def _seams_before(session: Session, cue: Cue) -> tuple[tuple[int, int], ...]:
    """The seams that the cue had on the version of the picture before, with the same track."""
    if cue.carried_from_id is None:
        return ()
    before = latest_fit(session, cue.carried_from_id, cue.track_id)
    plan = _readable(before)
    return tuple((s.source_from_samples, s.source_to_samples) for s in plan.seams) if plan is not None else ()


def _readable(fit: Fit | None) -> Plan | None:
    """The plan of a fit; None where there is none that can be read, so that it is made anew."""
    try:
        return read_plan(fit.plan) if fit is not None else None
    except FitUnreadableError:
        _log.warning("fit %d cannot be read and is made anew", fit.id if fit is not None else 0)
        return None


def _keep(context: Context, cue_id: int, track_id: int, plan: Plan, chart: str) -> int:
    """Keep a plan as a fit; if another request was faster, its row is as good."""
    try:
        with context.database.transaction() as session:
            length = plan.target_samples
            fit = Fit(cue_id=cue_id, track_id=track_id, target_samples=length, chart_id=chart, plan=stored_plan(plan))
            session.add(fit)
            session.flush()
            return fit.id
    except IntegrityError:
        with context.database.transaction() as session:
            found = find_fit(session, cue_id, track_id, plan.target_samples, chart)
            if found is None:
                raise
            return found.id


def warm_up(context: Context) -> None:
    """Plan every cue once, so that the first page somebody opens does not wait for compiled code and files."""
    try:
        with context.database.transaction() as session:
            cue_ids = list(session.scalars(select(Cue.id).order_by(Cue.id).limit(_MOST_WARMED)))
        for cue_id in cue_ids:
            if kept_fit(context, cue_id).is_missing:
                fit_cue(context, cue_id)
    except Exception:  # only a head start: whatever is wrong is told where it is asked for
        _log.debug("warming up ended early", exc_info=True)


def try_length(context: Context, cue_id: int, length_flicks: int) -> CueFit:
    """What a cue's fit would be at another length, without keeping anything: for dragging."""
    if length_flicks <= 0:
        raise BriefError("The length must be above zero.")
    with context.database.transaction() as session:
        cue: Cue = get_cue(session, cue_id)
        if cue.track is None:
            return CueFit()
        track = cue.track
    track_id = track.id
    try:
        warm = context.planners.get(track)
        return CueFit(None, track_id, warm.planner.plan(Brief(flicks_to_samples(length_flicks, warm.chart.rate))))
    except EvenSeamError as problem:
        return CueFit(track_id=track_id, problem=problem)


def open_fit(context: Context, fit_id: int) -> tuple[Plan, WarmTrack, str]:
    """A kept fit, its warm track and the hash of its recording, to be heard. Raises: NotFoundError, NotReadyError."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        stored, track = fit.plan, fit.track
    return read_plan(stored), context.planners.get(track), track.sha256
