"""Fits: found again by what they answer, and never changed."""

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from evenseam.store.briefs import fit_key
from evenseam.store.errors import NotFoundError
from evenseam.store.models import Cue, Fit, Track
from evenseam.store.tracks import chart_id


def get_fit(session: Session, fit_id: int) -> Fit:
    """One fit with cue, track and recording. Raises: NotFoundError."""
    fit = session.get(
        Fit, fit_id, options=[joinedload(Fit.cue), joinedload(Fit.brief), joinedload(Fit.track).joinedload(Track.recording)]
    )
    if fit is None:
        raise NotFoundError("This fit is not there any more. Reload the page.", fit_id=fit_id)
    return fit


def find_fit(session: Session, cue: Cue, track: Track, brief_digest: str) -> Fit | None:
    """The fit of a cue for a brief, its track as charted now: the chosen one if it answers that, else the best planned."""
    chart = chart_id(track)
    chosen = session.get(Fit, cue.fit_id) if cue.fit_id is not None else None
    if chosen is not None and (chosen.brief_digest, chosen.track_id, chosen.chart_id) == (brief_digest, track.id, chart):
        return chosen
    key = fit_key(brief_digest, chart, track.sha256)
    return session.scalar(select(Fit).where(Fit.cue_id == cue.id, Fit.key == key).order_by(Fit.rank).limit(1))


def outdated_fit(session: Session, cue: Cue, track: Track, brief_digest: str) -> Fit | None:
    """The newest fit of a cue for a brief from an earlier chart of its track, or an earlier planner."""
    query = select(Fit).where(Fit.cue_id == cue.id, Fit.track_id == track.id, Fit.brief_digest == brief_digest)
    return session.scalar(query.order_by((Fit.id == cue.fit_id).desc(), Fit.id.desc()).limit(1))


def heard_fit(session: Session, cue: Cue, track: Track, brief_digest: str) -> Fit | None:
    """The fit that is heard of a cue: the one for what it asks now; until that is made, the one that it had with the track."""
    asked = find_fit(session, cue, track, brief_digest) or outdated_fit(session, cue, track, brief_digest)
    query = select(Fit).where(Fit.cue_id == cue.id, Fit.track_id == track.id).order_by(Fit.id.desc()).limit(1)
    return asked or session.scalar(query)


def fits_of(session: Session, cue_id: int) -> list[Fit]:
    """Every fit that a cue ever had, newest first."""
    query = select(Fit).where(Fit.cue_id == cue_id).options(joinedload(Fit.track), joinedload(Fit.brief))
    return list(session.scalars(query.order_by(Fit.id.desc())))
