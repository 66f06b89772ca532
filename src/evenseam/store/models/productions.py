"""Productions."""

from datetime import datetime

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from evenseam.store.models.base import Base, UtcTime, now
from evenseam.store.models.cues import Cue
from evenseam.store.models.pictures import Picture


class Production(Base):
    """A job for a client: its pictures, tracks and cues. One that is put away stays, but is not offered any more."""

    __tablename__ = "productions"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    is_put_away: Mapped[bool] = mapped_column(default=False, server_default="0")
    pictures: Mapped[list["Picture"]] = relationship(order_by="Picture.id")
    cues: Mapped[list["Cue"]] = relationship(order_by="Cue.id")
