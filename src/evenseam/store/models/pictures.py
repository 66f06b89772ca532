"""Films, and the pictures of a production that they are."""

from typing import Any

from sqlalchemy import BigInteger, ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from evenseam.store.models.base import Base, Json


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
    """A picture: an exact rate, a length in frames, and a film if there is one.

    `version_of_id`: the picture whose marks were carried onto this one. A deleted picture stays, hidden, so that undo can
    bring it back. `revision` counts its changes.
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
    notes: Mapped[list[str] | None] = mapped_column(Json)
    is_deleted: Mapped[bool] = mapped_column(default=False, server_default="0")
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    film: Mapped[Film | None] = relationship()
    sheet: Mapped["PictureSheet"] = relationship(back_populates="picture", cascade="all, delete-orphan", passive_deletes=True)

    mix: Mapped["PictureMix | None"] = relationship(
        back_populates="picture", cascade="all, delete-orphan", passive_deletes=True
    )

    def __init__(self, **fields: Any) -> None:
        super().__init__(**{"sheet": PictureSheet(), **fields})


class PictureSheet(Base):
    """What was spotted on a picture, and `carried`: what became of the marks of the version before. `tempo_map`: its bars.

    Apart from the picture, whose name and length are asked for far more often than its thousands of marks.
    """

    __tablename__ = "sheets"
    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"), primary_key=True)
    hits: Mapped[list[Any] | None] = mapped_column(Json)
    lines: Mapped[list[Any] | None] = mapped_column(Json)
    shots: Mapped[list[Any] | None] = mapped_column(Json)
    suggested_cuts: Mapped[list[int] | None] = mapped_column(Json)
    carried: Mapped[dict[str, Any] | None] = mapped_column(Json)
    tempo_map: Mapped[dict[str, Any] | None] = mapped_column(Json)
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    picture: Mapped[Picture] = relationship(back_populates="sheet")


class PictureMix(Base):
    """What a mixer set on a picture: levels of its cues and buses, one row of JSON each, under a cue's id or a bus's name.

    It belongs to the places on the picture, and outlives every fit and every track that is heard there. There is none as long
    as nothing was set.
    """

    __tablename__ = "mixes"
    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"), primary_key=True)
    cues: Mapped[list[Any] | None] = mapped_column(Json)
    buses: Mapped[list[Any] | None] = mapped_column(Json)
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    picture: Mapped[Picture] = relationship(back_populates="mix")
