"""Tables. Times are UTC with microseconds; lengths of music on the picture are flicks, positions on it frames."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, Double, ForeignKey, Index, MetaData, String, UniqueConstraint
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import TypeDecorator

_NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}
Json = JSON(none_as_null=True)
LongText = LONGTEXT()


class UtcTime(TypeDecorator[datetime]):
    """UTC with microseconds; refuses times without a zone."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:  # noqa: ARG002
        """Python to database."""
        if value is not None and value.tzinfo is None:
            raise ValueError("a time without a zone was given")
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:  # noqa: ARG002
        """Database to Python."""
        return value.replace(tzinfo=UTC) if value else None


def now() -> datetime:
    """The present, as stored."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Root of the tables."""

    metadata = MetaData(naming_convention=_NAMING)


class Production(Base):
    """A job for a client: its pictures, tracks and cues."""

    __tablename__ = "productions"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    pictures: Mapped[list["Picture"]] = relationship(order_by="Picture.id")
    cues: Mapped[list["Cue"]] = relationship(order_by="Cue.id")


class Film(Base):
    """A film by its content, and what was seen in it.

    `thumbs`: how the small pictures lie on their sheet, None until it was scanned. `has_copy`: browsers are given a copy.
    """

    __tablename__ = "films"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    suffix: Mapped[str] = mapped_column(String(16))
    width_px: Mapped[int]
    height_px: Mapped[int]
    codec: Mapped[str] = mapped_column(String(40))
    has_sound: Mapped[bool]
    is_playable: Mapped[bool]
    has_copy: Mapped[bool] = mapped_column(default=False)
    thumbs: Mapped[dict[str, int] | None] = mapped_column(Json)


class Picture(Base):
    """A picture: an exact rate, a length in frames, a film if there is one, and the sheet of what was spotted on it.

    `version_of_id`: the picture whose marks were carried onto this one, and `carried` what became of them. A deleted
    picture stays, hidden, so that undo can bring it back.
    """

    __tablename__ = "pictures"
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(200))
    rate_num: Mapped[int]
    rate_den: Mapped[int]
    drop_frame: Mapped[bool] = mapped_column(default=False)
    length_frames: Mapped[int]
    start_frames: Mapped[int] = mapped_column(default=0)
    film_sha256: Mapped[str | None] = mapped_column(ForeignKey("films.sha256"))
    sound_track_id: Mapped[int | None] = mapped_column(ForeignKey("tracks.id", ondelete="SET NULL", use_alter=True))
    version_of_id: Mapped[int | None] = mapped_column(ForeignKey("pictures.id", ondelete="SET NULL"))
    hits: Mapped[list[Any] | None] = mapped_column(Json)
    lines: Mapped[list[Any] | None] = mapped_column(Json)
    shots: Mapped[list[Any] | None] = mapped_column(Json)
    suggested_cuts: Mapped[list[int] | None] = mapped_column(Json)
    carried: Mapped[dict[str, Any] | None] = mapped_column(Json)
    notes: Mapped[list[str] | None] = mapped_column(Json)
    is_deleted: Mapped[bool] = mapped_column(default=False, server_default="0")
    film: Mapped[Film | None] = relationship()


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


class Cue(Base):
    """A piece of music on a picture: its slot, and the track chosen for it.

    `look_again`: the picture changed under it since it was fitted. `carried_from_id`: the cue of the version before that it
    came from. A deleted cue stays, hidden, so that undo can bring it back.
    """

    __tablename__ = "cues"
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"))
    number: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(200))
    slot_start_frames: Mapped[int] = mapped_column(default=0)
    slot_length_flicks: Mapped[int] = mapped_column(BigInteger)
    track_id: Mapped[int | None] = mapped_column(ForeignKey("tracks.id", ondelete="SET NULL"))
    colour: Mapped[str] = mapped_column(String(20), default="amber", server_default="amber")
    notes: Mapped[str] = mapped_column(String(2000), default="", server_default="")
    status: Mapped[str] = mapped_column(String(20), default="open", server_default="open")
    look_again: Mapped[bool] = mapped_column(default=False, server_default="0")
    carried_from_id: Mapped[int | None] = mapped_column(ForeignKey("cues.id", ondelete="SET NULL"))
    is_deleted: Mapped[bool] = mapped_column(default=False, server_default="0")
    picture: Mapped[Picture] = relationship()
    track: Mapped[Track | None] = relationship()


class Fit(Base):
    """A plan that was made for a cue from a chart; the same brief and chart find the same row again."""

    __tablename__ = "fits"
    __table_args__ = (UniqueConstraint("cue_id", "track_id", "target_samples", "chart_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    cue_id: Mapped[int] = mapped_column(ForeignKey("cues.id", ondelete="CASCADE"))
    track_id: Mapped[int] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"))
    target_samples: Mapped[int] = mapped_column(BigInteger)
    chart_id: Mapped[str] = mapped_column(String(24), default="", server_default="")
    plan: Mapped[dict[str, Any]] = mapped_column(Json)
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    track: Mapped[Track] = relationship()
    cue: Mapped[Cue] = relationship()


class Job(Base):
    """Long work: listening to a recording, scanning a film or rendering a fit. Rows, so that a restart finds what waits."""

    __tablename__ = "jobs"
    __table_args__ = (Index(None, "state", "id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    state: Mapped[str] = mapped_column(String(20), default="waiting")
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    track_id: Mapped[int | None] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"))
    fit_id: Mapped[int | None] = mapped_column(ForeignKey("fits.id", ondelete="CASCADE"))
    picture_id: Mapped[int | None] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"))
    sample_format: Mapped[str | None] = mapped_column(String(10))
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    stage: Mapped[str] = mapped_column(String(80), default="")
    attempts: Mapped[int] = mapped_column(default=0)
    error: Mapped[str | None] = mapped_column(LongText)
    file: Mapped[str | None] = mapped_column(String(300))
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    started_at: Mapped[datetime | None] = mapped_column(UtcTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcTime)


class UndoStep(Base):
    """One step of undo: the fields of a cue, a track or a picture, before and after."""

    __tablename__ = "changes"
    __table_args__ = (Index(None, "production_id", "undone", "id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    production_id: Mapped[int] = mapped_column(ForeignKey("productions.id", ondelete="CASCADE"))
    cue_id: Mapped[int | None] = mapped_column(ForeignKey("cues.id", ondelete="CASCADE"))
    track_id: Mapped[int | None] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"))
    picture_id: Mapped[int | None] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"))
    words: Mapped[str] = mapped_column(String(200))
    before: Mapped[dict[str, Any]] = mapped_column(Json)
    after: Mapped[dict[str, Any]] = mapped_column(Json)
    undone: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
