"""Productions, pictures, cues, and the undo history of a production."""

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, joinedload, selectinload

from evenseam.store.errors import NotFoundError, NothingToUndoError
from evenseam.store.models import Change, Cue, Fit, Production, Track

UNDOABLE_FIELDS = ("name", "slot_length_flicks", "track_id")


def list_productions(session: Session) -> list[Production]:
    """All productions, oldest first."""
    return list(session.scalars(select(Production).order_by(Production.id)))


def get_production(session: Session, production_id: int) -> Production:
    """One production with pictures and cues. Raises: NotFoundError."""
    options = [selectinload(Production.pictures), selectinload(Production.cues).joinedload(Cue.picture)]
    production = session.get(Production, production_id, options=options)
    if production is None:
        raise NotFoundError("This production is not there any more. Reload the page.", production_id=production_id)
    return production


def get_cue(session: Session, cue_id: int) -> Cue:
    """One cue with picture, track and recording. Raises: NotFoundError."""
    options = [joinedload(Cue.picture), joinedload(Cue.track).joinedload(Track.recording)]
    cue = session.get(Cue, cue_id, options=options)
    if cue is None:
        raise NotFoundError("This cue is not there any more. Reload the page.", cue_id=cue_id)
    return cue


def change_cue(session: Session, cue: Cue, fields: dict[str, Any], words: str) -> bool:
    """Change fields of a cue as one undoable step; what was undone before can then no longer be redone.

    Returns: whether anything was different.
    """
    before = {name: getattr(cue, name) for name in fields}
    if before == fields:
        return False
    session.execute(delete(Change).where(Change.production_id == cue.production_id, Change.undone.is_(True)))
    session.add(Change(production_id=cue.production_id, cue_id=cue.id, words=words, before=before, after=fields))
    _apply(session, cue, fields)
    return True


def step_history(session: Session, production_id: int, back: bool) -> Change:
    """Undo the latest step, or redo the one undone last. Raises: NothingToUndoError."""
    query = select(Change).where(Change.production_id == production_id, Change.undone.is_(not back))
    change = session.scalar(query.order_by(Change.id.desc() if back else Change.id.asc()).limit(1).with_for_update())
    if change is None:
        raise NothingToUndoError("There is nothing to undo." if back else "There is nothing to redo.")
    _apply(session, get_cue(session, change.cue_id), change.before if back else change.after)
    change.undone = back
    return change


def history_words(session: Session, production_id: int) -> tuple[str | None, str | None]:
    """What undo and redo would do, in words; None where there is nothing."""
    query = select(Change.words).where(Change.production_id == production_id).limit(1)
    undo = session.scalar(query.where(Change.undone.is_(False)).order_by(Change.id.desc()))
    redo = session.scalar(query.where(Change.undone.is_(True)).order_by(Change.id.asc()))
    return undo, redo


def _apply(session: Session, cue: Cue, fields: dict[str, Any]) -> None:
    for name, value in fields.items():
        # A track that was deleted since cannot come back by undo; the cue is then without a track.
        gone = name == "track_id" and value is not None and session.get(Track, value) is None
        setattr(cue, name, None if gone else value)
    session.flush()
    session.expire(cue, ["track"])


def find_fit(session: Session, cue_id: int, track_id: int, target_samples: int) -> Fit | None:
    """The fit that was made for this brief, if there is one."""
    query = select(Fit).where(Fit.cue_id == cue_id, Fit.track_id == track_id, Fit.target_samples == target_samples)
    return session.scalar(query)


def get_fit(session: Session, fit_id: int) -> Fit:
    """One fit with cue, track and recording. Raises: NotFoundError."""
    fit = session.get(Fit, fit_id, options=[joinedload(Fit.cue), joinedload(Fit.track).joinedload(Track.recording)])
    if fit is None:
        raise NotFoundError("This fit is not there any more. Reload the page.", fit_id=fit_id)
    return fit
