"""Productions and their history."""

from datetime import datetime

from pydantic import Field

from evenseam.api.schemas.base import Answer, Input
from evenseam.api.schemas.cues import CueRead
from evenseam.api.schemas.pictures import PictureRead


class HistoryRead(Answer):
    """What undo and redo would do, in words, and who did it, if that is known; null where there is nothing."""

    undo: str | None
    redo: str | None
    undo_by: str
    redo_by: str


class ProductionRead(Answer):
    """A production with its pictures and cues."""

    id: int
    name: str
    pictures: list[PictureRead]
    cues: list[CueRead]
    history: HistoryRead


class ProductionListed(Answer):
    """A production in the list. One that is put away is kept, and offered only to be taken out again."""

    id: int
    name: str
    is_put_away: bool
    created_at: datetime


class ProductionCreate(Input):
    """A new production."""

    name: str = Field(min_length=1, max_length=200)


class ProductionUpdate(Input):
    """Another name for a production, or whether it is put away."""

    name: str | None = Field(None, min_length=1, max_length=200)
    is_put_away: bool | None = None
