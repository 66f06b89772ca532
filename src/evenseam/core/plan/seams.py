"""Seams by name: the beats of the recording that one leaves and enters, in whatever fit it is.

A cut lies near its beats, moved by the waveforms, and a little differently in every fit; so a seam is named by the beats. After
a correction of the chart the same seam is told by where those beats now are.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Beats = NDArray[np.int64]
Said = TypeVar("Said")


@dataclass(frozen=True, slots=True, order=True)
class SeamName:
    """A seam by the samples of the recording at which the beats lay that it leaves and enters when it was named."""

    leaves_samples: int
    enters_samples: int

    def places(self, beats: Beats) -> tuple[int, int]:
        """Which beats these are now: those nearest to where they lay. beats: int64 (n,), rising, n > 0."""
        return _nearest(beats, self.leaves_samples), _nearest(beats, self.enters_samples)

    def on(self, beats: Beats) -> "SeamName":
        """The same seam by where its beats are now."""
        leaves, enters = self.places(beats)
        return SeamName(int(beats[leaves]), int(beats[enters]))


def by_places(said: Iterable[tuple[SeamName, Said]], beats: Beats) -> dict[tuple[int, int], Said]:
    """What was said of seams, by the beats that they leave and enter now; of one that has two names what was said last."""
    return {name.places(beats): what for name, what in said}


def _nearest(beats: Beats, sample: int) -> int:
    """The beat nearest to a sample, the earlier of two: alignment moves a cut by far less than half a beat."""
    after = int(np.searchsorted(beats, sample))
    around = [k for k in (after - 1, after) if 0 <= k < beats.size]
    return min(around, key=lambda k: abs(int(beats[k]) - sample))
