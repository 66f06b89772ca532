"""Productions, pictures, cues, and the undo history of a production."""

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, joinedload, selectinload

from evenseam.store.errors import NotFoundError, NothingToUndoError
from evenseam.store.holding import hold_production, hold_production_of
from evenseam.store.models import Cue, Fit, Picture, Production, Track, UndoStep
from evenseam.store.patches import patched


def list_productions(session: Session) -> list[Production]:
    """All productions, oldest first."""
    return list(session.scalars(select(Production).order_by(Production.id)))


def get_production(session: Session, production_id: int) -> Production:
    """One production with pictures and cues. Raises: NotFoundError."""
    options = [
        selectinload(Production.pictures).joinedload(Picture.film),
        selectinload(Production.cues).joinedload(Cue.picture),
    ]
    production = session.get(Production, production_id, options=options)
    if production is None:
        raise NotFoundError("This production is not there any more. Reload the page.", production_id=production_id)
    return production


def get_cue(session: Session, cue_id: int, to_change: bool = False) -> Cue:
    """One cue with picture, track and recording; `to_change` waits for whoever changes its production now.

    Raises: NotFoundError.
    """
    if to_change:
        hold_production_of(session, Cue, cue_id)
    options = [joinedload(Cue.picture), joinedload(Cue.track).joinedload(Track.recording)]
    cue = session.get(Cue, cue_id, options=options)
    if cue is None:
        raise NotFoundError("This cue is not there any more. Reload the page.", cue_id=cue_id)
    return cue


def get_picture(session: Session, picture_id: int, to_change: bool = False) -> Picture:
    """One picture with its film; `to_change` waits for whoever changes its production now. Raises: NotFoundError."""
    if to_change:
        hold_production_of(session, Picture, picture_id)
    picture = session.get(Picture, picture_id, options=[joinedload(Picture.film)])
    if picture is None or picture.is_deleted:
        raise NotFoundError("This picture is not there any more. Reload the page.", picture_id=picture_id)
    return picture


def cues_of(session: Session, picture_id: int) -> list[Cue]:
    """The cues on a picture, in their order on it."""
    query = select(Cue).where(Cue.picture_id == picture_id, Cue.is_deleted.is_(False))
    return list(session.scalars(query.order_by(Cue.slot_start_frames, Cue.id)))


def change(session: Session, thing: Cue | Track | Picture, fields: dict[str, Any], words: str) -> bool:
    """Change fields of a cue, a track or a picture as one undoable step; what was undone before can then no longer be redone.

    Returns: whether anything was different.
    """
    before = {name: getattr(thing, name) for name in fields}
    if before == fields:
        return False
    production_id, which = thing.production_id, f"{type(thing).__name__.lower()}_id"
    session.execute(delete(UndoStep).where(UndoStep.production_id == production_id, UndoStep.undone.is_(True)))
    session.add(UndoStep(production_id=production_id, words=words[:200], before=before, after=fields, **{which: thing.id}))
    _apply(session, thing, fields)
    return True


def step_history(session: Session, production_id: int, back: bool) -> UndoStep:
    """Undo the latest step, or redo the one undone last. Raises: NothingToUndoError."""
    hold_production(session, production_id)
    query = select(UndoStep).where(UndoStep.production_id == production_id, UndoStep.undone.is_(not back))
    step = session.scalar(query.order_by(UndoStep.id.desc() if back else UndoStep.id.asc()).limit(1))
    if step is None:
        raise NothingToUndoError("There is nothing to undo." if back else "There is nothing to redo.")
    thing = _thing_of(session, step)
    was, becomes = (step.after, step.before) if back else (step.before, step.after)
    _apply(session, thing, {name: patched(getattr(thing, name), was.get(name), value) for name, value in becomes.items()})
    step.undone = back
    return step


def _thing_of(session: Session, step: UndoStep) -> Cue | Track | Picture:
    if step.cue_id is not None:
        return get_cue(session, step.cue_id)
    if step.picture_id is not None:
        return session.get_one(Picture, step.picture_id)
    return session.get_one(Track, step.track_id)


def history_words(session: Session, production_id: int) -> tuple[str | None, str | None]:
    """What undo and redo would do, in words; None where there is nothing."""
    query = select(UndoStep.words).where(UndoStep.production_id == production_id).limit(1)
    undo = session.scalar(query.where(UndoStep.undone.is_(False)).order_by(UndoStep.id.desc()))
    redo = session.scalar(query.where(UndoStep.undone.is_(True)).order_by(UndoStep.id.asc()))
    return undo, redo


def _apply(session: Session, thing: Cue | Track | Picture, fields: dict[str, Any]) -> None:
    for name, value in fields.items():
        # A track that was deleted since cannot come back by undo; the cue is then without a track.
        gone = name in ("track_id", "sound_track_id") and value is not None and session.get(Track, value) is None
        setattr(thing, name, None if gone else value)
    session.flush()
    if isinstance(thing, Cue):
        session.expire(thing, ["track"])


def find_fit(session: Session, cue_id: int, track_id: int, target_samples: int, chart_id: str) -> Fit | None:
    """The fit that was made for this brief: from this chart if there is one, else the newest from another one."""
    query = select(Fit).where(Fit.cue_id == cue_id, Fit.track_id == track_id, Fit.target_samples == target_samples)
    return session.scalar(query.order_by((Fit.chart_id == chart_id).desc(), Fit.id.desc()).limit(1))


def latest_fit(session: Session, cue_id: int, track_id: int | None) -> Fit | None:
    """The fit that a cue had with a track last, for the length that it has."""
    query = select(Fit).where(Fit.cue_id == cue_id, Fit.track_id == track_id)
    return session.scalar(query.order_by(Fit.id.desc()).limit(1))


def get_fit(session: Session, fit_id: int) -> Fit:
    """One fit with cue, track and recording. Raises: NotFoundError."""
    fit = session.get(Fit, fit_id, options=[joinedload(Fit.cue), joinedload(Fit.track).joinedload(Track.recording)])
    if fit is None:
        raise NotFoundError("This fit is not there any more. Reload the page.", fit_id=fit_id)
    return fit
