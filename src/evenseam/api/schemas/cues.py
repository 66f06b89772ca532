"""Cues, as they go out and come in."""

from typing import Any, Literal

from pydantic import Field

from evenseam.api.schemas.base import MOST_FLICKS, MOST_FRAMES, Answer, Input
from evenseam.store.briefs import Asks


class CueRead(Answer):
    """A cue. The slot's length is in flicks (1/705,600,000 s). `revision` counts its changes,
    `seams_revision` those of what is said of its seams.
    """

    id: int
    production_id: int
    picture_id: int
    number: str
    name: str
    slot_start_frames: int
    slot_length_flicks: int
    track_id: int | None
    colour: str
    notes: str
    status: str
    look_again: bool
    asks: dict[str, Any] | None
    fit_id: int | None
    seams_revision: int
    revision: int


class CueUpdate(Input):
    """Fields of a cue to change; one undoable step. `revision`: that of the cue as it was looked at.

    `length`, `start` and `end` are what a person typed; `slot_length_flicks` and `slot_start_frames` are exact. A new start
    alone moves the slot, an `end` changes its length.
    """

    name: str | None = Field(None, min_length=1, max_length=200)
    number: str | None = Field(None, min_length=1, max_length=20)
    colour: Literal["amber", "sage", "sky", "rose", "violet", "sand"] | None = None
    status: Literal["open", "working", "review", "approved"] | None = None
    notes: str | None = Field(None, max_length=2000)
    look_again: bool | None = None
    start: str | None = Field(None, max_length=64)
    end: str | None = Field(None, max_length=64)
    slot_start_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)
    track_id: int | None = None
    length: str | None = Field(None, max_length=64)
    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: Asks | None = None
    revision: int | None = Field(None, ge=0)


class CueCreate(Input):
    """A slot that is to become a cue, in frames of its picture; without a name it is called by its number."""

    start_frames: int = Field(ge=0, le=MOST_FRAMES)
    end_frames: int = Field(gt=0, le=MOST_FRAMES)
    name: str = Field("", max_length=200)
