"""Fitting a cue: the fit of what it asks for now, the one that is chosen, and trials that are not kept."""

import logging
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Any, Self

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from evenseam.core.chart import Chart
from evenseam.core.errors import BriefError, EvenSeamError
from evenseam.core.plan import Plan, SeamName
from evenseam.core.plan.judging.changes import Change
from evenseam.core.plan.judging.choices import HitChoices, choices_of
from evenseam.core.plan.judging.forecast import Outlook
from evenseam.core.plan.planner import Tried
from evenseam.core.plan.seams import Beats
from evenseam.services.context import Context
from evenseam.services.planners import WarmTrack
from evenseam.store.briefs import BriefDocument, asked_of, fit_key, keep_brief
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import FitUnreadableError, NotReadyError
from evenseam.store.fits import find_fit, get_fit, outdated_fit
from evenseam.store.history import change
from evenseam.store.models import Cue, CueSeam, Fit, Track
from evenseam.store.plans import read_plan, stored_plan
from evenseam.store.productions import get_cue
from evenseam.store.seams import said_of
from evenseam.store.sheets import rate_of
from evenseam.store.tracks import chart_id, count_tracks, some_tracks

_log = logging.getLogger(__name__)
_MOST_WARMED = 8


@dataclass(frozen=True, slots=True)
class SeamSaid:
    """What is said of a seam: its name by where its beats are now, how it was heard, and whether it is wanted."""

    name: SeamName
    verdict: str = ""
    words: str = ""
    wish: str = ""
    moved_to: SeamName | None = None

    @classmethod
    def of(cls, name: SeamName, row: CueSeam | None, beats: Beats) -> Self:
        """What a row says of a seam; nothing where there is none."""
        if row is None:
            return cls(name)
        moved_to = SeamName(*row.moved_to).on(beats) if row.wish == "moved" else None
        return cls(name, row.verdict, row.words, row.wish, moved_to)


@dataclass(frozen=True, slots=True)
class CueFit:
    """The answer to what a cue asks for: a fit with its plan, or why there is none. `fit_id` is None for a trial.

    `is_outdated`: the track's chart was corrected since, or hits were moved; the fit stays as it is until it is asked
    for anew. `is_missing`: nothing was planned yet for what the cue asks for now. `choices`: the bars that could land on
    its hits. `seams`: what is said of the plan's seams, in their order, whichever fit it was said of.
    """

    fit_id: int | None = None
    track_id: int | None = None
    plan: Plan | None = None
    problem: EvenSeamError | None = None
    is_outdated: bool = False
    is_missing: bool = False
    choices: tuple[HitChoices, ...] = ()
    seams: tuple[SeamSaid, ...] = ()


@dataclass(frozen=True, slots=True)
class _Asked:
    """A cue as it asks now: its track, the document of what it asks, and the fit that is kept for that, if it can be read."""

    cue: Cue
    track: Track
    document: BriefDocument
    fit: Fit | None
    plan: Plan | None
    is_outdated: bool = False

    def answer(self, plan: Plan, fit_id: int | None, chart: Chart) -> CueFit:
        """What is answered with a plan."""
        choices = () if self.is_outdated else choices_of(plan, chart)
        said = said_of(self.cue, self.track.sha256, chart.beats)
        names = [SeamName(s.source_from_samples, s.source_to_samples) for s in plan.seams]
        seams = tuple(SeamSaid.of(n.on(chart.beats), said.get(n.places(chart.beats)), chart.beats) for n in names)
        return CueFit(fit_id, self.track.id, plan, is_outdated=self.is_outdated, choices=choices, seams=seams)


def kept_fit(context: Context, cue_id: int) -> CueFit:
    """The fit that is kept for what a cue asks for now; nothing is planned and nothing written.

    A fit from the chart before it was corrected is given as it is.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        if cue.track is None:
            return CueFit()
        document = asked_of(cue)
        fit = find_fit(session, cue, cue.track, document.digest)
        is_outdated = fit is None or "hits" in (cue.asks or {})
        fit = fit or outdated_fit(session, cue, cue.track, document.digest)
        asked = _Asked(cue, cue.track, document, fit, _readable(fit), is_outdated)
    try:
        chart = context.planners.get(asked.track).chart
    except EvenSeamError as problem:
        return CueFit(track_id=asked.track.id, problem=problem)
    if asked.fit is None or asked.plan is None:
        return CueFit(track_id=asked.track.id, is_missing=True)
    return asked.answer(asked.plan, asked.fit.id, chart)


def fit_cue(context: Context, cue_id: int) -> CueFit:
    """The fit of a cue from chart and hits as they are now, made and kept if it is not there yet.

    A refusal is an answer, no error. Nobody waits for it to be planned.
    """
    asked = _asked_anew(context, cue_id)
    if asked is None:
        return CueFit()
    try:
        warm = context.planners.get(asked.track)
        if asked.fit is not None and asked.plan is not None:
            return asked.answer(asked.plan, asked.fit.id, warm.chart)
        plan = warm.planner.plan(asked.document.at(warm.chart.rate))
    except EvenSeamError as problem:
        return CueFit(track_id=asked.track.id, problem=problem)
    fit_id = _keep(context, asked, plan)
    context.events.publish("programme", production_id=asked.cue.production_id)
    return asked.answer(plan, fit_id, warm.chart)


@again_on_deadlock
def _asked_anew(context: Context, cue_id: int) -> _Asked | None:
    """A cue that asks for the hits that are in its slot now, whatever it asked for before; None while it has no track."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id, to_change=True)
        if cue.track is None:
            return None
        asks = {name: value for name, value in (cue.asks or {}).items() if name != "hits"}
        is_changed = change(session, f"fitting {cue.number} to its hits", (cue, {"asks": asks or None}))
        document = asked_of(cue)
        fit = find_fit(session, cue, cue.track, document.digest)
        plan = _readable(fit)
        if fit is not None and plan is None:
            session.delete(fit)  # it is made anew
            fit = None
        asked = _Asked(cue, cue.track, document, fit, plan)
    if is_changed:
        context.events.publish("production", production_id=cue.production_id)
    return asked


def _readable(fit: Fit | None) -> Plan | None:
    """The plan of a fit; None where there is none that can be read, so that it is made anew."""
    try:
        return read_plan(fit.plan) if fit is not None else None
    except FitUnreadableError:
        _log.warning("fit %d cannot be read and is made anew", fit.id if fit is not None else 0)
        return None


@again_on_deadlock
def _keep(context: Context, asked: _Asked, plan: Plan) -> int:
    """Keep a fit and choose it for its cue; if another request was faster, its row is as good."""
    track, document, chart = asked.track, asked.document, chart_id(asked.track)
    answer = Fit(cue_id=asked.cue.id, track_id=track.id, chart_id=chart, key=fit_key(document.digest, chart, track.sha256))
    answer.target_samples, answer.plan = plan.target_samples, stored_plan(plan)
    try:
        with context.database.transaction() as session:
            cue = get_cue(session, answer.cue_id, to_change=True)
            answer.brief_digest = keep_brief(session, document)
            session.add(answer)
            session.flush()
            if cue.track_id == track.id and asked_of(cue).digest == document.digest:
                cue.fit_id = answer.id  # no step of undo: it follows from what is asked
            return answer.id
    except IntegrityError:
        with context.database.transaction() as session:
            found = session.scalar(select(Fit.id).where(Fit.cue_id == answer.cue_id, Fit.key == answer.key))
            if found is None:
                raise
            return found


def seams_said(cue: Cue, sha256: str, beats: Beats) -> list[SeamSaid]:
    """All that is said of the seams of a cue and a recording, in the order in which it was first said."""
    rows = [s for s in cue.seams if s.sha256 == sha256 and (s.verdict or s.words or s.wish)]
    return [SeamSaid.of(SeamName(*row.name).on(beats), row, beats) for row in rows]


def said_of_cue(context: Context, cue_id: int) -> list[SeamSaid]:
    """All that is said of the seams of a cue and the track it has. Raises: NotFoundError, NotReadyError."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
    if cue.track is None:
        return []
    return seams_said(cue, cue.track.sha256, context.planners.get(cue.track).chart.beats)


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


def try_fit(context: Context, cue_id: int, length_flicks: int | None = None, asks: dict[str, Any] | None = None) -> CueFit:
    """What a cue's fit would be at another length, or if it asked for something else; nothing is kept: for dragging."""
    if length_flicks is not None and length_flicks <= 0:
        raise BriefError("The length must be above zero.")
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        if cue.track is None:
            return CueFit()
        asked = _Asked(cue, cue.track, asked_of(cue, length_flicks, asks), None, None)
    try:
        warm = context.planners.get(asked.track)
        return asked.answer(warm.planner.plan(asked.document.at(warm.chart.rate)), None, warm.chart)
    except EvenSeamError as problem:
        return CueFit(track_id=asked.track.id, problem=problem)


def tried_methods(context: Context, cue_id: int) -> tuple[Tried, ...]:
    """What every method makes of what a cue asks for, without keeping anything. None while no track is chosen.

    Raises: NotReadyError while the track has not been listened to.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        if cue.track is None:
            return ()
        warm, asked = context.planners.get(cue.track), asked_of(cue)
    return warm.planner.tried(asked.at(warm.chart.rate))


def changes_that_would_do(context: Context, cue_id: int) -> tuple[tuple[Change, ...], Fraction]:
    """The smallest changes that would have all musts of a cue met, and how many samples of its track a frame has.

    Raises: NotReadyError while the track has not been listened to.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        rate = rate_of(cue.picture)
        if cue.track is None:
            return (), Fraction(1)
        warm, asked = context.planners.get(cue.track), asked_of(cue)
    return warm.planner.changes(asked.at(warm.chart.rate)), warm.chart.rate / rate.fps


@dataclass(frozen=True, slots=True)
class Judged:
    """Outlooks of some of a library's tracks, by id: of those that were listened to, out of `looked_at` of all `n_tracks`.

    `next_after`: the track after which to go on; None at the end of the library.
    """

    outlooks: dict[int, Outlook]
    looked_at: int
    n_tracks: int
    next_after: int | None


def forecasts(context: Context, cue_id: int, after: int, most: int) -> Judged:
    """How the tracks of a library after one of them, up to `most`, would do in the slot of a cue."""
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id)
        asked, n_tracks = asked_of(cue), count_tracks(session, cue.production_id)
        tracks = some_tracks(session, cue.production_id, after, most)
    found: dict[int, Outlook] = {}
    brief_at = cache(asked.at)
    for track in tracks:
        try:
            forecast = context.planners.forecast(track)
        except NotReadyError:
            continue
        brief = brief_at(forecast.rate)
        found[track.id] = forecast.at(brief.target_samples, brief.aims)
    return Judged(found, len(tracks), n_tracks, tracks[-1].id if len(tracks) == most else None)


def open_fit(context: Context, fit_id: int) -> tuple[Plan, WarmTrack, str]:
    """A kept fit, its warm track and the hash of its recording, to be heard. Raises: NotFoundError, NotReadyError."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        stored, track = fit.plan, fit.track
    return read_plan(stored), context.planners.get(track), track.sha256


def seams_to_keep(session: Session, cue: Cue) -> dict[tuple[int, int], str]:
    """The seams of the fit that a cue has, as what a copy of it on a new version of the picture asks to keep."""
    fit = find_fit(session, cue, cue.track, asked_of(cue).digest) if cue.track is not None else None
    plan = _readable(fit)
    return {(s.source_from_samples, s.source_to_samples): "kept" for s in plan.seams} if plan is not None else {}
