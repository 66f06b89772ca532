"""Curves of gain over samples, as they are scheduled in a player and multiplied in a mixdown."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Self

NOTHING_DB = -120.0  # a gain of this or less is silence


class CurveError(ValueError):
    """A curve does not hold together: whoever made it is at fault."""


@dataclass(frozen=True, slots=True)
class GainPoint:
    """A gain at a place, in samples from where its curve begins to count."""

    at_samples: int
    gain_db: float


@dataclass(frozen=True, slots=True)
class GainCurve:
    """Gain in dB, straight lines (in dB) between its points, level before the first and after the last. Empty: 0 dB."""

    points: tuple[GainPoint, ...] = ()

    def __post_init__(self) -> None:
        if any(b.at_samples <= a.at_samples for a, b in pairwise(self.points)):
            raise CurveError("the points of a gain curve must rise")

    @classmethod
    def level(cls, gain_db: float) -> Self:
        """The same gain throughout; nothing to do for 0 dB."""
        return cls((GainPoint(0, gain_db),)) if gain_db else cls()
