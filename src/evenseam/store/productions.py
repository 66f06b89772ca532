"""Productions, pictures and cues."""

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from evenseam.core.errors import BriefError
from evenseam.store.errors import NotFoundError
from evenseam.store.holding import hold_production_of
from evenseam.store.models import Cue, Picture, Production, Track


def list_productions(session: Session) -> list[Production]:
    """All productions, oldest first."""
    return list(session.scalars(select(Production).order_by(Production.id)))


def add_production(session: Session, name: str) -> Production:
    """A new one, with nothing in it. Raises: BriefError without a name."""
    production = Production(name=_named(name))
    session.add(production)
    session.flush()
    return production


def change_production(session: Session, production_id: int, name: str | None, is_put_away: bool | None) -> Production:
    """Name one, put it away or take it out again. Raises: NotFoundError, BriefError."""
    production = get_production(session, production_id)
    if name is not None:
        production.name = _named(name)
    if is_put_away is not None:
        production.is_put_away = is_put_away
    session.flush()
    return production


def _named(name: str) -> str:
    if not (kept := " ".join(name.split())):
        raise BriefError("A production needs a name.")
    return kept


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
