"""Spotting sheets as they go out, and the steps in which they are changed. Places are frames from the picture's first."""

from collections.abc import Callable
from typing import Any, Literal

from pydantic import Field

from evenseam.api.schemas import MOST_FRAMES, Input, Read
from evenseam.core.spot import Hit, Line, Sheet, edit
from evenseam.core.spot.sheet import HitKind, Weight
from evenseam.core.timebase import parse_position
from evenseam.services.spotting import Edit

Ids = list[int]
_Frame = Field(ge=0, le=MOST_FRAMES)
_Typed = Field(None, max_length=64)
_MOST_AT_ONCE = 20_000


class HitRead(Read):
    """A moment the music must meet; `until_frames` is there for silences only."""

    id: int
    at_frames: int
    label: str
    kind: HitKind
    weight: Weight
    tolerance_frames: int
    until_frames: int | None


class LineRead(Read):
    """Somebody speaks."""

    id: int
    start_frames: int
    end_frames: int
    text: str


class ShotRead(Read):
    """A stretch of the picture without a cut."""

    start_frames: int
    end_frames: int
    reel: str
    source_start_frames: int
    name: str


class FrameSpan(Read):
    """From a frame to another one, which is not in it."""

    start_frames: int
    end_frames: int


class MovedShot(Read):
    """What became of a shot: where it lay before and lies now; null for one that is new, or gone."""

    change: Literal["moved", "longer", "shorter", "retrimmed", "out", "in"]
    name: str
    before: FrameSpan | None
    after: FrameSpan | None


class LeftSlot(Read):
    """A slot that could not be carried, as it stood on the version before."""

    number: str
    name: str
    start_frames: int
    end_frames: int


class CarriedRead(Read):
    """What was carried from the version before, and what could not be; that lies as it stood there."""

    from_id: int
    from_name: str
    n_same: int
    moved: list[MovedShot]
    left_hits: list[HitRead]
    left_lines: list[LineRead]
    left_slots: list[LeftSlot]


class SheetRead(Read):
    """All that was spotted on a picture but its shots."""

    hits: list[HitRead]
    lines: list[LineRead]
    suggested_cuts: list[int]
    carried: CarriedRead | None


class ImportRead(Read):
    """What came in from a file, in words, and what a person should know of it."""

    words: str
    notes: list[str]


class PositionRead(Read):
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

    name: str | None = Field(None, min_length=1, max_length=200)
    start: str | None = Field(None, max_length=20)


class AddHit(Input):
    """A new hit."""

    step: Literal["add_hit"]
    at_frames: int = _Frame
    label: str = Field("", max_length=300)
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_frames: int = Field(0, ge=0, le=1000)
    until_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)


class ChangeHit(Input):
    """Other values for a hit; `at` and `until` are what a person typed, from the hit's own place where signed."""

    step: Literal["change_hit"]
    id: int
    at: str | None = _Typed
    at_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)
    until: str | None = _Typed
    label: str | None = Field(None, max_length=300)
    kind: HitKind | None = None
    weight: Weight | None = None
    tolerance_frames: int | None = Field(None, ge=0, le=1000)


class MoveHits(Input):
    """Hits earlier or later by frames."""

    step: Literal["move_hits"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)
    by_frames: int = Field(ge=-MOST_FRAMES, le=MOST_FRAMES)


class HitsStep(Input):
    """Hits taken away, or moved to the nearest shot change."""

    step: Literal["remove_hits", "snap_hits"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)


class AddLine(Input):
    """A new dialogue line."""

    step: Literal["add_line"]
    start_frames: int = _Frame
    end_frames: int = _Frame
    text: str = Field("", max_length=2000)


class ChangeLine(Input):
    """Other values for a line; `start` and `end` are what a person typed."""

    step: Literal["change_line"]
    id: int
    start: str | None = _Typed
    end: str | None = _Typed
    text: str | None = Field(None, max_length=2000)


class RemoveLines(Input):
    """Lines taken away."""

    step: Literal["remove_lines"]
    ids: Ids = Field(min_length=1, max_length=_MOST_AT_ONCE)


class CutsStep(Input):
    """Suggested shot changes accepted or thrown away; all of them without `frames`."""

    step: Literal["accept_cuts", "drop_cuts"]
    frames: list[int] | None = Field(None, max_length=100_000)


class CutStep(Input):
    """A shot change made by hand, or taken back."""

    step: Literal["cut", "join"]
    at_frames: int = _Frame


Step = AddHit | ChangeHit | MoveHits | HitsStep | AddLine | ChangeLine | RemoveLines | CutsStep | CutStep


def change_of(step: Step) -> tuple[str, Edit]:
    """What a step does, in words for undo, and the change itself."""
    match step:
        case AddHit():
            hit = Hit(**step.model_dump(exclude={"step"}))
            return f"marking {step.label or 'a hit'}", lambda s: edit.add_hits(s, (hit,))
        case ChangeHit():
            return "changing a hit", lambda s: edit.change_hit(s, step.id, **_hit_fields(s, step))
        case MoveHits():
            words = f"moving {_count(step.ids, 'hit')} by {step.by_frames:+d} frames"
            return words, lambda s: edit.move_hits(s, tuple(step.ids), step.by_frames)
        case HitsStep(step="remove_hits"):
            return f"removing {_count(step.ids, 'hit')}", lambda s: edit.remove_hits(s, tuple(step.ids))
        case HitsStep():
            return f"snapping {_count(step.ids, 'hit')}", lambda s: edit.snap_hits(s, tuple(step.ids))
        case AddLine():
            line = Line(step.start_frames, step.end_frames, step.text)
            return "marking a line", lambda s: edit.add_lines(s, (line,))
        case ChangeLine():
            return "changing a line", lambda s: edit.change_line(s, step.id, **_line_fields(s, step))
        case RemoveLines():
            return f"removing {_count(step.ids, 'line')}", lambda s: edit.remove_lines(s, tuple(step.ids))
        case CutsStep():
            return _cuts(step)
        case _:
            at = step.at_frames
            return ("cutting a shot", lambda s: edit.cut_at(s, at)) if step.step == "cut" else (
                "joining two shots", lambda s: edit.join_shots(s, at)
            )  # fmt: skip


def _cuts(step: CutsStep) -> tuple[str, Edit]:
    make: Callable[[Sheet, tuple[int, ...]], Sheet]
    verb, make = ("accepting", edit.accept_cuts) if step.step == "accept_cuts" else ("dropping", edit.drop_cuts)
    count = "all shot changes" if step.frames is None else _count(step.frames, "shot change")
    return f"{verb} {count}", lambda s: make(s, s.suggested_cuts if step.frames is None else tuple(step.frames))


def _count(things: list[int], name: str) -> str:
    return f"a {name}" if len(things) == 1 else f"{len(things)} {name}s"


def _hit_fields(sheet: Sheet, step: ChangeHit) -> dict[str, Any]:
    fields = step.model_dump(include={"label", "kind", "weight", "tolerance_frames", "at_frames"}, exclude_none=True)
    here = next((h for h in sheet.hits if h.id == step.id), None)
    if here is None:
        return fields
    if step.at is not None:
        fields["at_frames"] = parse_position(step.at, sheet.rate, here.at_frames, sheet.start_frames)
    if step.until is not None:
        from_here = here.until_frames or here.at_frames
        fields["until_frames"] = parse_position(step.until, sheet.rate, from_here, sheet.start_frames)
    return fields


def _line_fields(sheet: Sheet, step: ChangeLine) -> dict[str, Any]:
    here = next((x for x in sheet.lines if x.id == step.id), None)
    fields: dict[str, Any] = {} if step.text is None else {"text": step.text}
    for side in ("start", "end"):
        typed = getattr(step, side)
        if typed is not None and here is not None:
            own = getattr(here, f"{side}_frames")
            fields[f"{side}_frames"] = parse_position(typed, sheet.rate, own, sheet.start_frames)
    return fields
