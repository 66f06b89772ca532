"""Productions to what goes out."""

from sqlalchemy.orm import Session

from evenseam.api.readers.cues import read_cue
from evenseam.api.readers.pictures import picture_jobs, read_picture
from evenseam.api.schemas.productions import HistoryRead, ProductionRead
from evenseam.store.history import history_steps
from evenseam.store.productions import get_production


def read_production(session: Session, production_id: int) -> ProductionRead:
    """A production with what it holds. Raises: NotFoundError.

    Jobs are read before the pictures that they change: one that ends in between is told as running, and never as done while
    what it found is not there.
    """
    jobs = picture_jobs(session, production_id)
    production = get_production(session, production_id)
    undo, redo = history_steps(session, production_id)
    pictures = [p for p in production.pictures if not p.is_deleted]
    shown = {p.id for p in pictures}
    return ProductionRead(
        id=production.id,
        name=production.name,
        pictures=[read_picture(p, jobs.get(p.id)) for p in pictures],
        cues=[read_cue(c) for c in production.cues if not c.is_deleted and c.picture_id in shown],
        history=HistoryRead(
            undo=undo.words if undo else None,
            redo=redo.words if redo else None,
            undo_by=undo.who if undo else "",
            redo_by=redo.who if redo else "",
        ),
    )
