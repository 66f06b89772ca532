"""Corrections of a chart, as they come in."""

from typing import Literal

from pydantic import Field

from evenseam.api.schemas.base import Input
from evenseam.core.chart import MarkKind, Point

_LATEST = 3 * 3600 * 192_000


class Halve(Input):
    """Every other beat only: the track is at half the tempo that was heard."""

    kind: Literal["halve"]


class Double(Input):
    """A beat between every two."""

    kind: Literal["double"]


class SetMeter(Input):
    """The metre as written."""

    kind: Literal["meter"]
    meter: Literal["2/4", "3/4", "4/4", "5/4", "6/4", "7/4", "6/8", "9/8", "12/8"]


class BeatOne(Input):
    """The beat at a place is the first of its bar."""

    kind: Literal["beat_one"]
    at_samples: int = Field(ge=0, le=_LATEST)


class Shift(Input):
    """All beats later (or earlier, below zero) by milliseconds."""

    kind: Literal["shift"]
    by_ms: float = Field(ge=-5000, le=5000, strict=False)


class SetTempo(Input):
    """An even grid at a tempo."""

    kind: Literal["tempo"]
    bpm: float = Field(gt=0, le=1000, strict=False)


class Tap(Input):
    """Where a hand tapped the beat, the first tap on beat one."""

    kind: Literal["tap"]
    taps_samples: list[int] = Field(min_length=1, max_length=2000)


class MoveBar(Input):
    """A bar line put elsewhere, and pinned there."""

    kind: Literal["move_bar"]
    from_samples: int = Field(ge=0, le=_LATEST)
    to_samples: int = Field(ge=0, le=_LATEST)


class FreeBar(Input):
    """A pinned bar line let go."""

    kind: Literal["free_bar"]
    at_samples: int = Field(ge=0, le=_LATEST)


class SetPoint(Input):
    """Opening, last hit, end of the ring-out or a trim; null gives it back to what was heard."""

    kind: Literal["point"]
    point: Point
    at_samples: int | None = Field(ge=0, le=_LATEST)


class AcceptTrim(Input):
    """The suggested trim, head and tail."""

    kind: Literal["accept_trim"]


class SectionEdit(Input):
    """A section renamed, merged with the next, or started elsewhere (on the nearest bar)."""

    kind: Literal["rename_section", "merge_section", "move_section"]
    index: int = Field(ge=0)
    label: str = Field("", max_length=200)
    at_samples: int = Field(0, ge=0, le=_LATEST)


class SplitSection(Input):
    """The section at a place cut in two on the nearest bar."""

    kind: Literal["split_section"]
    at_samples: int = Field(ge=0, le=_LATEST)


class MarkEdit(Input):
    """A span to keep, to skip, or to keep free of seams, added or taken away."""

    kind: Literal["add_mark", "remove_mark"]
    mark: MarkKind
    start_samples: int = Field(ge=0, le=_LATEST)
    end_samples: int = Field(ge=0, le=_LATEST)


Edit = (
    Halve | Double | SetMeter | BeatOne | Shift | SetTempo | Tap | MoveBar | FreeBar | SetPoint | AcceptTrim
    | SectionEdit | SplitSection | MarkEdit
)  # fmt: skip
