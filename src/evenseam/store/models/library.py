"""Recordings, and the tracks of a production that they are."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Double, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from evenseam.store.models.base import Base, Json, LongText, UtcTime, now


class Recording(Base):
    """A sound file by its content, and what was heard in it: nothing is analysed twice."""

    __tablename__ = "recordings"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    suffix: Mapped[str] = mapped_column(String(16))
    chart_version: Mapped[int | None]
    rate_hz: Mapped[int | None]
    channels: Mapped[int | None]
    n_samples: Mapped[int | None] = mapped_column(BigInteger)
    tempo_bpm: Mapped[float | None] = mapped_column(Double)
    meter: Mapped[str | None] = mapped_column(String(8))
    free_time: Mapped[bool | None]
    key_name: Mapped[str | None] = mapped_column(String(20))
    loudness_lufs: Mapped[float | None] = mapped_column(Double)
    true_peak_dbtp: Mapped[float | None] = mapped_column(Double)
    voice_pct: Mapped[float | None] = mapped_column(Double)
    hearings: Mapped[int] = mapped_column(default=0, server_default="0")
    sections: Mapped[list[Any] | None] = mapped_column(Json)
    cover_suffix: Mapped[str | None] = mapped_column(String(5))


class Track(Base):
    """A recording as part of a production, under the name it came with, and what a person corrected of its chart.

    `set_tempo_bpm` and `set_meter` are those of corrected beats, for lists. `licence`: the terms it was licensed under,
    for tracks from a catalogue.
    """

    __tablename__ = "tracks"
    __table_args__ = (UniqueConstraint("production_id", "sha256"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    sha256: Mapped[str] = mapped_column(ForeignKey("recordings.sha256"))
    title: Mapped[str] = mapped_column(String(300))
    file_name: Mapped[str] = mapped_column(String(300))
    artist: Mapped[str] = mapped_column(String(300), default="", server_default="")
    tags: Mapped[list[str] | None] = mapped_column(Json)
    licence: Mapped[dict[str, Any] | None] = mapped_column(Json)
    corrections: Mapped[dict[str, Any] | None] = mapped_column(Json)
    corrections_digest: Mapped[str] = mapped_column(String(16), default="", server_default="")
    set_tempo_bpm: Mapped[float | None] = mapped_column(Double)
    set_meter: Mapped[str | None] = mapped_column(String(8))
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    recording: Mapped[Recording] = relationship()


class Refusal(Base):
    """A file that was taken in and turned out to be no music that can be used; nothing else is left of it."""

    __tablename__ = "refusals"
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(300))
    reason: Mapped[str] = mapped_column(LongText)
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
