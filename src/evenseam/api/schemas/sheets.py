"""Spotting sheets, and changes of them."""

from typing import Literal

from pydantic import Field

from evenseam.api.schemas.base import MOST_FRAMES, Answer, Input
from evenseam.core.spot.sheet import HitKind, Weight

Ids = list[int]
_Frame = Field(ge=0, le=MOST_FRAMES)
_Typed = Field(None, max_length=64)
_MOST_AT_ONCE = 20_000


class HitRead(Answer):
    """A moment the music must meet; `until_frames` is there for silences only."""

    id: int
    at_frames: int
    label: str
    kind: HitKind
    weight: Weight
    tolerance_frames: int
    until_frames: int | None


class LineRead(Answer):
    """Somebody speaks."""

    id: int
    start_frames: int
    end_frames: int
    text: str


class ShotRead(Answer):
    """A stretch of the picture without a cut."""

    start_frames: int
    end_frames: int
    reel: str
    source_start_frames: int
    name: str


class FrameSpan(Answer):
    """From a frame to another one, which is not in it."""

    start_frames: int
    end_frames: int


class MovedShot(Answer):
    """What became of a shot: where it lay before and lies now; null for one that is new, or gone."""

    change: Literal["moved", "longer", "shorter", "retrimmed", "out", "in"]
    name: str
    before: FrameSpan | None
    after: FrameSpan | None


class LeftSlot(Answer):
    """A cue that could not be carried, as it stood on the version before.

    It may start on this one so that its first carried hit meets the same music, or when it did before; null where it cannot.
    """

    id: int
    at_first_hit_frames: int | None = None
    at_old_time_frames: int | None = None
    number: str
    name: str
    start_frames: int
    end_frames: int


class CarriedRead(Answer):
    """What was carried from the version before, and what could not be; that lies as it stood there."""

    from_id: int
    from_name: str
    n_same: int
    moved: list[MovedShot]
    left_hits: list[HitRead]
    left_lines: list[LineRead]
    left_slots: list[LeftSlot]


class SheetRead(Answer):
    """All that was spotted on a picture but its shots. `revision` counts its changes."""

    revision: int
    hits: list[HitRead]
    lines: list[LineRead]
    suggested_cuts: list[int]
    carried: CarriedRead | None


class ImportRead(Answer):
    """What came in from a file, in words, and what a person should know of it."""

    words: str
    notes: list[str]


class PositionRead(Answer):
    """The frame that was meant."""

    frames: int


class FindDialogue(Input):
    """The track to listen to, null for the picture's own sound, and the frame on which it starts."""

    track_id: int | None = None
    at_frames: int = Field(0, ge=0, le=MOST_FRAMES)


class AddHit(Input):
    """A new hit."""

    edit: Literal["add_hit"]
    at_frames: int = _Frame
    label: str = Field("", max_length=300)
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_frames: int = Field(0, ge=0, le=1000)
    until_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)


class ChangeHit(Input):
    """Other values for a hit; `at` and `until` are what a person typed, from the hit's own place where signed."""

    edit: Literal["change_hit"]
    id: int
    revision: int | None = Field(None, ge=0)
    at: str | None = _Typed
    at_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)
    until: str | None = _Typed
    label: str | None = Field(None, max_length=300)
    kind: HitKind | None = None
    weight: Weight | None = None
    tolerance_frames: int | None = Field(None, ge=0, le=1000)


class MoveHits(Input):
    """Hits earlier or later by frames."""

    edit: Literal["move_hits"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)
    by_frames: int = Field(ge=-MOST_FRAMES, le=MOST_FRAMES)


class HitsEdit(Input):
    """Hits taken away, or moved to the nearest shot change."""

    edit: Literal["remove_hits", "snap_hits"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)


class AddLine(Input):
    """A new dialogue line."""

    edit: Literal["add_line"]
    start_frames: int = _Frame
    end_frames: int = _Frame
    text: str = Field("", max_length=2000)


class ChangeLine(Input):
    """Other values for a line; `start` and `end` are what a person typed."""

    edit: Literal["change_line"]
    id: int
    revision: int | None = Field(None, ge=0)
    start: str | None = _Typed
    end: str | None = _Typed
    text: str | None = Field(None, max_length=2000)


class RemoveLines(Input):
    """Lines taken away."""

    edit: Literal["remove_lines"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)


class CutsEdit(Input):
    """Suggested shot changes accepted or thrown away; all of them without `frames`."""

    edit: Literal["accept_cuts", "drop_cuts"]
    frames: list[int] | None = Field(None, max_length=100_000)


class CutEdit(Input):
    """A shot change made by hand, or taken back."""

    edit: Literal["cut", "join"]
    at_frames: int = _Frame


Edit = AddHit | ChangeHit | MoveHits | HitsEdit | AddLine | ChangeLine | RemoveLines | CutsEdit | CutEdit
