"""Spotting sheets as they go out, and the steps in which they are changed. Places are frames from the picture's first."""

from collections.abc import Callable
from typing import Any, Literal

from pydantic import Field

from evenseam.api.base import MOST_FRAMES, Answer, Input
from evenseam.core.spot import Hit, Line, Sheet, edit
from evenseam.core.spot.sheet import HitKind, Weight
from evenseam.core.timebase import is_relative, parse_position
from evenseam.services.sheets import Editing, SeenRow

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


class LikeShot(Answer):
    """A shot of an edit list and the old one that it seems to be; one of them is null for a shot that is new, or gone."""

    old_index: int | None
    name: str
    before: FrameSpan | None
    after: FrameSpan | None
    sure_pct: int | None


class LikenessRead(Answer):
    """Shots of an edit list beside those of a picture, and how many of its marks and cues would come along."""

    shots: list[LikeShot]
    n_carried: int
    n_marks: int


class PlaceCue(Input):
    """Where a cue is to start."""

    start_frames: int = Field(ge=0, le=MOST_FRAMES)


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


class BlankPicture(Input):
    """A picture that is only a length and a rate, as a person typed them; `start` is its first timecode."""

    name: str = Field(min_length=1, max_length=200)
    rate: str = Field(max_length=20)
    length: str = Field(max_length=64)
    start: str | None = Field(None, max_length=20)


class PictureUpdate(Input):
    """Fields of a picture to change; one undoable step. `start` is the timecode of its first frame."""

    revision: int | None = Field(None, ge=0)
    name: str | None = Field(None, min_length=1, max_length=200)
    start: str | None = Field(None, max_length=20)


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


def editing_of(wanted: Edit) -> tuple[str, Editing]:
    """What an edit does, in words for undo, and the editing itself."""
    match wanted:
        case AddHit():
            hit = Hit(**wanted.model_dump(exclude={"edit"}))
            return f"marking {wanted.label or 'a hit'}", lambda s: edit.add_hits(s, (hit,))
        case ChangeHit():
            return "changing a hit", lambda s: edit.change_hit(s, wanted.id, **_hit_fields(s, wanted))
        case MoveHits():
            words = f"moving {_count(wanted.ids, 'hit')} by {wanted.by_frames:+d} frames"
            return words, lambda s: edit.move_hits(s, tuple(wanted.ids), wanted.by_frames)
        case HitsEdit(edit="remove_hits"):
            return f"removing {_count(wanted.ids, 'hit')}", lambda s: edit.remove_hits(s, tuple(wanted.ids))
        case HitsEdit():
            return f"snapping {_count(wanted.ids, 'hit')}", lambda s: edit.snap_hits(s, tuple(wanted.ids))
        case AddLine():
            line = Line(wanted.start_frames, wanted.end_frames, wanted.text)
            return "marking a line", lambda s: edit.add_lines(s, (line,))
        case ChangeLine():
            return "changing a line", lambda s: edit.change_line(s, wanted.id, **_line_fields(s, wanted))
        case RemoveLines():
            return f"removing {_count(wanted.ids, 'line')}", lambda s: edit.remove_lines(s, tuple(wanted.ids))
        case CutsEdit():
            return _cuts(wanted)
        case _:
            at = wanted.at_frames
            return ("cutting a shot", lambda s: edit.cut_at(s, at)) if wanted.edit == "cut" else (
                "joining two shots", lambda s: edit.join_shots(s, at)
            )  # fmt: skip


def seen_of(wanted: Edit) -> SeenRow | None:
    """The row that an edit sets to something absolute, and the revision it was looked at in; None for anything else."""
    if not isinstance(wanted, ChangeHit | ChangeLine) or wanted.revision is None:
        return None
    typed = (wanted.at, wanted.until) if isinstance(wanted, ChangeHit) else (wanted.start, wanted.end)
    if any(is_relative(text) for text in typed):
        return None
    return SeenRow(wanted.revision, "hits" if isinstance(wanted, ChangeHit) else "lines", wanted.id)


def _cuts(wanted: CutsEdit) -> tuple[str, Editing]:
    make: Callable[[Sheet, tuple[int, ...]], Sheet]
    verb, make = ("accepting", edit.accept_cuts) if wanted.edit == "accept_cuts" else ("dropping", edit.drop_cuts)
    count = "all shot changes" if wanted.frames is None else _count(wanted.frames, "shot change")
    return f"{verb} {count}", lambda s: make(s, s.suggested_cuts if wanted.frames is None else tuple(wanted.frames))


def _count(things: list[int], name: str) -> str:
    return f"a {name}" if len(things) == 1 else f"{len(things)} {name}s"


def _hit_fields(sheet: Sheet, wanted: ChangeHit) -> dict[str, Any]:
    fields = wanted.model_dump(include={"label", "kind", "weight", "tolerance_frames", "at_frames"}, exclude_none=True)
    here = next((h for h in sheet.hits if h.id == wanted.id), None)
    if here is None:
        return fields
    if wanted.at is not None:
        fields["at_frames"] = parse_position(wanted.at, sheet.rate, here.at_frames, sheet.start_frames)
    if wanted.until is not None:
        from_here = here.until_frames or here.at_frames
        fields["until_frames"] = parse_position(wanted.until, sheet.rate, from_here, sheet.start_frames)
    return fields


def _line_fields(sheet: Sheet, wanted: ChangeLine) -> dict[str, Any]:
    here = next((x for x in sheet.lines if x.id == wanted.id), None)
    fields: dict[str, Any] = {} if wanted.text is None else {"text": wanted.text}
    for side in ("start", "end"):
        typed = getattr(wanted, side)
        if typed is not None and here is not None:
            own = getattr(here, f"{side}_frames")
            fields[f"{side}_frames"] = parse_position(typed, sheet.rate, own, sheet.start_frames)
    return fields
