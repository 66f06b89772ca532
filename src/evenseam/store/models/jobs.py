"""Long work and events, as rows that several application processes share."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Double, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from evenseam.store.models.base import Base, Json, LongText, UtcTime, now


class Job(Base):
    """Long work on a thing, of a kind that the registry knows.

    `subject` and `subject_id` name the thing (a track, a fit, a picture), `asked` what else the kind needs to know, `file`
    what it made, `told` what it has to say of that. While it runs it is leased to one application process until
    `leased_until`; a process that is gone lets its leases run out. `deaths`: how many workers died at it.
    """

    __tablename__ = "jobs"
    __table_args__ = (Index(None, "state", "id"), Index(None, "kind", "subject_id"))
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    state: Mapped[str] = mapped_column(String(20), default="waiting")
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    subject: Mapped[str] = mapped_column(String(20))
    subject_id: Mapped[int]
    asked: Mapped[dict[str, Any] | None] = mapped_column(Json)
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    stage: Mapped[str] = mapped_column(String(80), default="")
    deaths: Mapped[int] = mapped_column(default=0)
    leased_by: Mapped[str | None] = mapped_column(String(40))
    leased_until: Mapped[datetime | None] = mapped_column(UtcTime)
    error: Mapped[str | None] = mapped_column(LongText)
    file: Mapped[str | None] = mapped_column(String(300))
    told: Mapped[str] = mapped_column(String(300), default="", server_default="")
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    started_at: Mapped[datetime | None] = mapped_column(UtcTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcTime)


class Event(Base):
    """What one application process told its pages, for the pages of the others; forgotten after minutes."""

    __tablename__ = "events"
    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    origin: Mapped[str] = mapped_column(String(40))
    body: Mapped[dict[str, Any]] = mapped_column(Json)
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now, index=True)
