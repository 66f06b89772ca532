"""The spotting sheet of a picture. All positions are whole frames, counted from 0 at the picture's first frame."""

from dataclasses import dataclass, field
from typing import Literal, get_args

from evenseam.core.errors import SpotError
from evenseam.core.timebase import FrameRate

HitKind = Literal["downbeat", "beat", "section", "last_hit", "silence"]
Weight = Literal["must", "should", "nice"]
HIT_KINDS: tuple[HitKind, ...] = get_args(HitKind)
WEIGHTS: tuple[Weight, ...] = get_args(Weight)
MOST_FRAMES = 100 * 3600 * 240  # a hundred hours at the highest rate


def _check_near(*frames: int) -> None:
    if any(abs(f) > MOST_FRAMES for f in frames):
        raise SpotError("A mark lies further away than any picture is long. Check the numbers in the list.")


@dataclass(frozen=True, slots=True, order=True)
class Hit:
    """A moment the music must meet. `until_frames` ends a silence, and is there for silences only.

    `id` names a hit of a stored sheet, 0 one that is not stored; it says nothing of what the hit is.
    """

    at_frames: int
    label: str = ""
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_frames: int = 0
    until_frames: int | None = None
    id: int = field(default=0, compare=False)

    def __post_init__(self) -> None:
        if self.kind not in HIT_KINDS:
            raise SpotError(f"'{self.kind}' is no kind of hit; there are {', '.join(HIT_KINDS)}.")
        if self.weight not in WEIGHTS:
            raise SpotError(f"'{self.weight}' is no weight of a hit; there are {', '.join(WEIGHTS)}.")
        if self.tolerance_frames < 0:
            raise SpotError("A tolerance cannot be below zero frames.")
        _check_near(self.at_frames, self.until_frames or 0, self.tolerance_frames)
        if (self.kind == "silence") != (self.until_frames is not None):
            raise SpotError("A silence needs an end, and only a silence has one.")
        if self.until_frames is not None and self.until_frames <= self.at_frames:
            raise SpotError("A silence has to end after it starts.")


@dataclass(frozen=True, slots=True, order=True)
class _Span:
    start_frames: int
    end_frames: int

    def __post_init__(self) -> None:
        _check_near(self.start_frames, self.end_frames)
        if self.end_frames <= self.start_frames:
            raise SpotError(f"A {type(self).__name__.lower()} has to end after it starts.")

    @property
    def length_frames(self) -> int:
        """How many frames it lasts."""
        return self.end_frames - self.start_frames


@dataclass(frozen=True, slots=True, order=True)
class Line(_Span):
    """Somebody speaks."""

    text: str = ""
    id: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True, order=True)
class Slot(_Span):
    """Where a cue plays. Slots may overlap."""

    number: str = ""
    name: str = ""
    id: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True, order=True)
class Shot(_Span):
    """A stretch of the picture without a cut: which `reel` it comes from, and which of its frames comes first."""

    reel: str = ""
    source_start_frames: int = 0
    name: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A picture with everything that was spotted on it. `start_frames`: the timecode of its first frame.

    `suggested_cuts`: frames at which a new shot seems to begin, until somebody accepts them or throws them away.
    """

    rate: FrameRate
    length_frames: int
    start_frames: int = 0
    shots: tuple[Shot, ...] = ()
    hits: tuple[Hit, ...] = ()
    lines: tuple[Line, ...] = ()
    slots: tuple[Slot, ...] = ()
    suggested_cuts: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.length_frames <= 0:
            raise SpotError("A picture has to last at least one frame.")
        for before, after in zip(self.shots, self.shots[1:], strict=False):
            if after.start_frames < before.end_frames:
                raise SpotError("Shots have to follow each other without overlapping.")
