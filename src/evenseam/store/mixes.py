"""Mixes: what is set of the cues and buses of a picture, as rows of documents, one a cue and one a bus."""

from collections.abc import Callable, Mapping
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy.orm import Session

from evenseam.core.mix.curves import NOTHING_DB
from evenseam.core.mix.levels import LEVELS, LOUDEST_DB, MOST_POINTS, Level, LevelFade, LevelPoint, Mix
from evenseam.core.plan.model import FadeShape
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.store.documents import Document, document_of
from evenseam.store.models import Picture, PictureMix

_LONGEST_FADE_FLICKS, _LATEST_FLICKS = 600 * FLICKS_PER_S, 24 * 3600 * FLICKS_PER_S


class PointDocument(Document):
    """A gain at a moment, in flicks from the start of the slot, or of the picture for a bus; it adds to the level."""

    at_flicks: Annotated[int, Field(ge=0, le=_LATEST_FLICKS, strict=True)]
    gain_db: Annotated[float, Field(ge=NOTHING_DB, le=LOUDEST_DB, strict=True)]


class FadeDocument(Document):
    """A change of level over some time."""

    length_flicks: Annotated[int, Field(ge=0, le=_LONGEST_FADE_FLICKS, strict=True)] = 0
    shape: FadeShape = "linear"


class LevelDocument(document_of("Level", LEVELS)):  # type: ignore[misc]
    """What is set of a cue or a bus: how loud it is, how it begins and ends, and how its level goes in between."""

    is_muted: Annotated[bool, Field(strict=True)] = False
    fade_in: FadeDocument = FadeDocument()
    fade_out: FadeDocument = FadeDocument()
    points: tuple[PointDocument, ...] = Field((), max_length=MOST_POINTS)

    def level(self) -> Level:
        """The value. Raises: MixError."""
        return Level(
            self.gain_db,
            self.is_muted,
            LevelFade(self.fade_in.length_flicks, self.fade_in.shape),
            LevelFade(self.fade_out.length_flicks, self.fade_out.shape),
            tuple(LevelPoint(p.at_flicks, p.gain_db) for p in self.points),
        )


def mix_of(picture: Picture) -> Mix:
    """What is set on a picture."""
    kept = picture.mix
    if kept is None:
        return Mix()
    return Mix(*({row["id"]: document_in(row).level() for row in rows or ()} for rows in (kept.cues, kept.buses)))


def document_in(row: Mapping[str, Any]) -> LevelDocument:
    """The document of a row."""
    return LevelDocument.model_validate({name: value for name, value in row.items() if name != "id"})


def kept_mix(session: Session, picture: Picture) -> PictureMix:
    """The row of a picture's mix, made now if nothing was set of it yet."""
    if picture.mix is None:
        picture.mix = PictureMix(revision=0)
        session.flush()
    return picture.mix


def with_level(rows: list[dict[str, Any]] | None, of: int | str, document: LevelDocument) -> list[dict[str, Any]] | None:
    """Rows with another level of one cue or bus; what is as it came needs no row."""
    others = [row for row in rows or () if row["id"] != of]
    fresh = [] if document == LevelDocument() else [{"id": of, **document.model_dump(mode="json")}]
    return sorted([*others, *fresh], key=lambda row: row["id"]) or None


def copy_mix(session: Session, old: Picture, new: Picture, cues: Mapping[int, int], moved: Callable[[int], int | None]) -> None:
    """Have what is set on a picture hold for a new version of it.

    cues: which cue is which there. moved: where a moment of the old one is on the new one, in flicks; None where it is gone.
    """
    if old.mix is None:
        return
    kept = kept_mix(session, new)
    kept.cues = [{**row, "id": cues[row["id"]]} for row in old.mix.cues or () if row["id"] in cues] or None
    for row in old.mix.buses or ():
        points = [(moved(p["at_flicks"]), p["gain_db"]) for p in row["points"]]
        at = {at: gain_db for at, gain_db in points if at is not None}
        kept.buses = [*(kept.buses or ()), {**row, "points": [{"at_flicks": k, "gain_db": at[k]} for k in sorted(at)]}]
