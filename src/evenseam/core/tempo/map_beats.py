"""The beats of a tempo map on a picture, whoever wrote it: tempi and metres that change, bars that are cut short."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True)
class Place:
    """The beat nearest to a moment: which of which bar, both from 1, and by how much it is late, in seconds."""

    bar: int
    beat: int
    off_s: float


@dataclass(frozen=True, slots=True, eq=False)
class MapBeats:
    """Beats in order: `at_s`, float64 (beats,), seconds from the picture's first frame, and `beat_in_bar`, int16 (beats,), 0
    for the first of a bar, which the first of all is. `bpm` and `ticks`, float64 (beats,): the tempo from each on, and where it
    is in the map.
    """

    at_s: NDArray[np.float64]
    beat_in_bar: NDArray[np.int16]
    bpm: NDArray[np.float64]
    ticks: NDArray[np.float64]

    def bars(self) -> NDArray[np.intp]:
        """The beats that bars begin with."""
        return np.flatnonzero(self.beat_in_bar == 0)

    def nearest(self, at_s: float, on_downbeat: bool) -> Place:
        """The beat, or the first of a bar, that lies nearest to a moment."""
        may = self.bars() if on_downbeat else np.arange(self.at_s.size)
        beat = int(may[np.abs(self.at_s[may] - at_s).argmin()])
        bar = int(np.searchsorted(self.bars(), beat, side="right"))
        return Place(bar, int(self.beat_in_bar[beat]) + 1, float(self.at_s[beat] - at_s))
