"""Cues and their fits."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from evenseam.store.models.base import Base, Json, UtcTime, now
from evenseam.store.models.library import Track
from evenseam.store.models.pictures import Picture


class Cue(Base):
    """A piece of music on a picture: its slot, and the track chosen for it.

    `asks`: what is asked of its fits beside the slot (see `store/briefs`); `fit_id`: the fit that was chosen last.
    `look_again`: the picture changed under it since it was fitted. `carried_from_id`: the cue of the version before that it
    came from. A deleted cue stays, hidden, so that undo can bring it back. `revision` counts its changes.
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
    asks: Mapped[dict[str, Any] | None] = mapped_column(Json)
    fit_id: Mapped[int | None] = mapped_column(ForeignKey("fits.id", ondelete="SET NULL", use_alter=True))
    colour: Mapped[str] = mapped_column(String(20), default="amber", server_default="amber")
    notes: Mapped[str] = mapped_column(String(2000), default="", server_default="")
    status: Mapped[str] = mapped_column(String(20), default="open", server_default="open")
    look_again: Mapped[bool] = mapped_column(default=False, server_default="0")
    carried_from_id: Mapped[int | None] = mapped_column(ForeignKey("cues.id", ondelete="SET NULL"))
    is_deleted: Mapped[bool] = mapped_column(default=False, server_default="0")
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    picture: Mapped[Picture] = relationship()
    track: Mapped[Track | None] = relationship()
    seams: Mapped[list["CueSeam"]] = relationship(
        order_by="CueSeam.id", back_populates="cue", passive_deletes=True, lazy="selectin"
    )

    def __init__(self, **fields: Any) -> None:
        super().__init__(**{"seams": [], **fields})

    @property
    def seams_revision(self) -> int:
        """Counts the changes of what was said of its seams."""
        return sum(seam.revision for seam in self.seams)


class Brief(Base):
    """What is asked of a fit, as a document of `store/briefs`; the same document is one row, found by its digest."""

    __tablename__ = "briefs"
    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    document: Mapped[dict[str, Any]] = mapped_column(Json)
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)


class Fit(Base):
    """An answer to a brief; its plan is never changed.

    A planned one is found again by its `key`, the digest of brief, chart, track and planner version, and its `rank` among
    the answers to them, best first. One that was made by hand has no key. `name`: if somebody gave it one; `revision` counts
    its changes.
    """

    __tablename__ = "fits"
    __table_args__ = (UniqueConstraint("cue_id", "key", "rank"), Index(None, "cue_id", "track_id", "brief_digest"))
    id: Mapped[int] = mapped_column(primary_key=True)
    cue_id: Mapped[int] = mapped_column(ForeignKey("cues.id", ondelete="CASCADE"))
    track_id: Mapped[int] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"))
    brief_digest: Mapped[str] = mapped_column(ForeignKey("briefs.digest"))
    chart_id: Mapped[str] = mapped_column(String(24), default="", server_default="")
    key: Mapped[str | None] = mapped_column(String(64))
    rank: Mapped[int] = mapped_column(default=0, server_default="0")
    origin: Mapped[str] = mapped_column(String(20), default="planned", server_default="planned")
    name: Mapped[str] = mapped_column(String(200), default="", server_default="")
    target_samples: Mapped[int] = mapped_column(BigInteger)
    plan: Mapped[dict[str, Any]] = mapped_column(Json)
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    created_at: Mapped[datetime] = mapped_column(UtcTime, default=now)
    brief: Mapped[Brief] = relationship()
    track: Mapped[Track] = relationship()
    cue: Mapped[Cue] = relationship(foreign_keys=cue_id)


class CueSeam(Base):
    """What somebody said of a seam of a cue and a recording, whatever fit it is in: how it was heard, and whether it is wanted.

    It is named by the beats that it leaves and enters, as `core.plan.SeamName`. `verdict`: what was heard, empty until somebody
    listened. `wish`: kept, forbidden, moved (to the beats that `moved_...` name), or empty.
    """

    __tablename__ = "seams"
    __table_args__ = (UniqueConstraint("cue_id", "sha256", "leaves_samples", "enters_samples"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    cue_id: Mapped[int] = mapped_column(ForeignKey("cues.id", ondelete="CASCADE"))
    sha256: Mapped[str] = mapped_column(String(64))
    leaves_samples: Mapped[int] = mapped_column(BigInteger)
    enters_samples: Mapped[int] = mapped_column(BigInteger)
    verdict: Mapped[str] = mapped_column(String(20), default="", server_default="")
    words: Mapped[str] = mapped_column(String(2000), default="", server_default="")
    wish: Mapped[str] = mapped_column(String(20), default="", server_default="")
    moved_leaves_samples: Mapped[int | None] = mapped_column(BigInteger)
    moved_enters_samples: Mapped[int | None] = mapped_column(BigInteger)
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    cue: Mapped[Cue] = relationship(back_populates="seams")

    @property
    def name(self) -> tuple[int, int]:
        """The samples of the recording that it is named by."""
        return self.leaves_samples, self.enters_samples

    @property
    def moved_to(self) -> tuple[int, int]:
        """The seam that is wanted in its place."""
        assert self.moved_leaves_samples is not None
        assert self.moved_enters_samples is not None
        return self.moved_leaves_samples, self.moved_enters_samples
