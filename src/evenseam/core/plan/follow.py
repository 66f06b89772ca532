"""A track that follows a tempo map: which of its bars lands when."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import BriefError

_BARS_BESIDE = 4  # how many bars of a map may lead up to the track
_COMPARED = 8


def followed(chart: Chart, bars_s: NDArray[np.float64], target_samples: int) -> tuple[tuple[int, int], ...]:
    """Bars of a track, each as the sample of its downbeat and the one of the output that the map has it at; both rising.

    bars_s: seconds from the start of the output at which the bars of the map begin, in order; some may lie before it. The bars
    of both are counted alike; which of the map is the track's first, the ones at the start tell, as the track would have them
    at its own speed. Raises: BriefError.
    """
    downbeats = chart.beats[chart.beat_in_bar == 0]
    if chart.free_time or not downbeats.size:
        raise BriefError("This track has no bars that could follow a map. Correct its beats on Gather first.")
    at = np.rint(bars_s * chart.rate).astype(np.int64)
    own = downbeats - chart.music_start_samples
    begins = int(np.searchsorted(at, 0))
    beside = range(max(0, begins - 1), begins + _BARS_BESIDE)
    first = min(beside, key=lambda bar: (_apart(at[bar:], own), abs(bar - begins)))
    found = tuple(
        (int(source), int(out))
        for source, out in zip(downbeats, at[first:], strict=False)
        if 0 < out < target_samples and chart.music_start_samples < source <= chart.last_hit_samples
    )
    if not found:
        raise BriefError("No bar of this map lies in the slot of the cue. Check where the map starts, or move the cue.")
    return found


def _apart(at: NDArray[np.int64], own: NDArray[np.int64]) -> float:
    """How far the first bars of a map lie from where the track has its own; samples."""
    count = min(_COMPARED, at.size, own.size)
    return float(np.median(np.abs(at[:count] - own[:count]))) if count else np.inf
