"""The history of a production: steps of undo, each of any number of things."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from evenseam.store.models.base import Base, Json, UtcTime, now


class UndoStep(Base):
    """One step of undo: what was done, in words, by whom and when.

    `undone`: it was taken back and can be made once more. `is_past`: something else was done after it was taken back; it
    stays for what it tells of its things, and is never made again.
    """

    __tablename__ = "steps"
    __table_args__ = (Index(None, "production_id", "is_past", "undone", "id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    words: Mapped[str] = mapped_column(String(200))
    who: Mapped[str] = mapped_column(String(100), default="", server_default="")
    undone: Mapped[bool] = mapped_column(default=False)
    is_past: Mapped[bool] = mapped_column(default=False, server_default="0")
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    patches: Mapped[list["Patch"]] = relationship(
        order_by="Patch.id", cascade="all, delete-orphan", passive_deletes=True, back_populates="step"
    )


class Patch(Base):
    """What a step did to one thing: the fields that it changed, before and after.

    `kind` and `thing_id` name the thing. `revision`: that of the thing when the step was last made or taken back.
    """

    __tablename__ = "patches"
    __table_args__ = (Index(None, "kind", "thing_id", "revision"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    step_id: Mapped[int] = mapped_column(ForeignKey("steps.id", ondelete="CASCADE"))
    kind: Mapped[str] = mapped_column(String(20))
    thing_id: Mapped[int]
    before: Mapped[dict[str, Any]] = mapped_column(Json)
    after: Mapped[dict[str, Any]] = mapped_column(Json)
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    step: Mapped[UndoStep] = relationship(back_populates="patches")
