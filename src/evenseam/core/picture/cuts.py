"""Shot changes: frames that differ from the one before far more than their neighbours do."""

import numpy as np
from numpy.typing import NDArray

_AROUND_FRAMES = 4
_LEAST_RATIO = 3.5
_LEAST_CHANGE = 5.0  # of 255, mean over the picture
_LEAST_SHOT_FRAMES = 3
_STILL = 0.8  # what grain and coding change in a picture that stands still


def find_cuts(change: NDArray[np.float32]) -> tuple[int, ...]:
    """Frames at which a shot begins, without the first of the film.

    Parameters: change: float32 (frames,), how much each frame differs from the one before, 0 to 255; 0 for the first.
    Notes: a change counts against the mean change around it, so that fast movement is no cut; dissolves and fades are
    not found. Of cuts nearer than three frames the greater one stays (a flash is one cut, not two).
    """
    n = change.size
    if n < 2:
        return ()
    sums = np.concatenate([[0.0], np.cumsum(change, dtype=np.float64)])
    at = np.arange(n)
    first, last = np.maximum(at - _AROUND_FRAMES, 1), np.minimum(at + _AROUND_FRAMES + 1, n)
    around = (sums[last] - sums[np.minimum(first, last)] - change) / np.maximum(1, last - first - 1)
    found = np.flatnonzero((change >= _LEAST_CHANGE) & (change >= _LEAST_RATIO * np.maximum(around, _STILL)))
    kept: list[int] = []
    for frame in found[np.argsort(-change[found], kind="stable")]:
        if frame > 0 and all(abs(int(frame) - other) >= _LEAST_SHOT_FRAMES for other in kept):
            kept.append(int(frame))
    return tuple(sorted(kept))
