"""Tempo maps of a picture, and changes of them."""

from typing import Annotated, Literal

from pydantic import Field

from evenseam.api.schemas.base import MOST_FRAMES, Answer, Input
from evenseam.api.schemas.tempi import MetRead
from evenseam.core.tempo.steady import FASTEST_BPM, SLOWEST_BPM
from evenseam.core.tempo.to_hits import MOST_PCT

_MOST_BARS = 100_000
_Bar = Annotated[int, Field(ge=1, le=_MOST_BARS)]
_Bars = Annotated[int | None, Field(ge=1, le=_MOST_BARS)]
_Beat = Annotated[int, Field(ge=1, le=64)]


class MetreRead(Answer):
    """The metre from a bar on."""

    bar: int
    numerator: int
    denominator: int


class HeldRead(Answer):
    """A beat that is held to its moment: its number from 0, and the hit that it meets."""

    beat: int
    hit_id: int | None


class BeatChoiceRead(Answer):
    """A beat that may meet a hit; the tempo it needs since what is held before it, and until what is held next, if that is."""

    bar: int
    beat: int
    before_bpm: float
    after_bpm: float | None


class MapHitRead(MetRead):
    """The same of a tempo map, with the beats that may meet the hit."""

    choices: list[BeatChoiceRead]


class TempoMapRead(Answer):
    """The beats of a picture's tempo map up to its end and one more, and where its hits lie.

    `beat_in_bar`: 0 for the first of a bar; `bpm`: from each beat on.
    """

    at_s: list[float]
    beat_in_bar: list[int]
    bpm: list[float]
    metres: list[MetreRead]
    held: list[HeldRead]
    hits: list[MapHitRead]


class MetreEdit(Input):
    """Another metre from a bar on; `bars`: for how many, null to the end."""

    edit: Literal["metre"]
    bar: _Bar
    numerator: int = Field(ge=1, le=32)
    denominator: Literal[2, 4, 8, 16]
    bars: _Bars = None


class TempoEdit(Input):
    """Another tempo from a bar on; `bars`: for how many, null to the end."""

    edit: Literal["tempo"]
    bar: _Bar
    bpm: float = Field(ge=SLOWEST_BPM, le=FASTEST_BPM, strict=False)
    bars: _Bars = None


class HoldEdit(Input):
    """A beat held to a frame of the picture."""

    edit: Literal["hold"]
    bar: _Bar
    beat: _Beat = 1
    at_frames: int = Field(ge=0, le=MOST_FRAMES)


class LetGoEdit(Input):
    """A beat that is held no more."""

    edit: Literal["let_go"]
    bar: _Bar
    beat: _Beat = 1


class ShapeEdit(Input):
    """One tempo from each held beat to the next, or a smooth curve through them."""

    edit: Literal["shape"]
    smooth: bool


class BendEdit(Input):
    """Beats brought to the hits, nowhere by more than `most_pct` faster or slower than the map is now."""

    edit: Literal["bend"]
    most_pct: float = Field(ge=0.1, le=MOST_PCT, strict=False)
    smooth: bool = False


MapEdit = MetreEdit | TempoEdit | HoldEdit | LetGoEdit | ShapeEdit | BendEdit


class SteadyLaid(Input):
    """A steady tempo that is to be the picture's; `starts_s`: of bar one, from its first frame."""

    bpm: float = Field(ge=SLOWEST_BPM, le=FASTEST_BPM, strict=False)
    meter: int = Field(4, ge=1, le=12)
    starts_s: float = Field(0, ge=0, le=86_400, strict=False)
