"""What the readers share."""

from dataclasses import dataclass, replace
from fractions import Fraction

from evenseam.core.spot.sheet import HIT_KINDS, Hit, Line, Shot
from evenseam.core.timebase import FrameRate, nearest

_MOST_DIGITS = 9


@dataclass(frozen=True, slots=True)
class MarksRead:
    """What a file held, in frames of the picture it was read for, and what a person should know of it."""

    shots: tuple[Shot, ...] = ()
    hits: tuple[Hit, ...] = ()
    lines: tuple[Line, ...] = ()
    notes: tuple[str, ...] = ()


def nearest_frame(seconds: Fraction, rate: FrameRate) -> tuple[int, bool]:
    """The frame nearest to a time, and whether the time lies on it (within a twentieth of a frame)."""
    exact = seconds * rate.fps
    frame = nearest(exact)
    return frame, abs(exact - frame) < Fraction(1, 20)


def between_note(count: int) -> tuple[str, ...]:
    """What is said when times fell between frames."""
    if not count:
        return ()
    return (f"{count} of the times fall between two frames of this picture and were moved to the nearer one.",)


def hit_in_words(hit: Hit) -> str:
    """All of a hit but its place and label, in a few words: 'downbeat must 2', 'silence should 0 for 50'."""
    tail = "" if hit.until_frames is None else f" for {hit.until_frames - hit.at_frames}"
    return f"{hit.kind} {hit.weight} {hit.tolerance_frames}{tail}"


def _is_count(word: str) -> bool:
    return word.isascii() and word.isdecimal() and len(word) <= _MOST_DIGITS


def hit_from_words(at_frames: int, label: str, words: str) -> Hit | None:
    """A hit from what `hit_in_words` wrote; None if the words are something else. Raises: SpotError."""
    parts = words.split()
    if len(parts) not in (3, 5) or parts[0] not in HIT_KINDS or not _is_count(parts[2]):
        return None
    hit = Hit(at_frames, label)
    kind, weight, tolerance = parts[0], parts[1], int(parts[2])
    until = None
    if len(parts) == 5:
        if parts[3] != "for" or not _is_count(parts[4]):
            return None
        until = at_frames + int(parts[4])
    return replace(hit, kind=kind, weight=weight, tolerance_frames=tolerance, until_frames=until)  # type: ignore[arg-type]
