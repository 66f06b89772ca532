"""The key, by correlation with the probe-tone profiles of Krumhansl and Kessler (1982)."""

import numpy as np
from numpy.typing import NDArray

_NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
_MAJOR = np.array([6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88])
_MINOR = np.array([6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17])


def find_key(chroma: NDArray[np.float32]) -> str:
    """Name such as 'C major' or 'F# minor' from chroma (hops, 12), C first; flat names but for F#."""
    mean = chroma.mean(axis=0, dtype=np.float64)
    if mean.std() < 1e-9:
        return "none"
    best, name = -2.0, ""
    for tonic in range(12):
        for profile, mode in ((_MAJOR, "major"), (_MINOR, "minor")):
            match = float(np.corrcoef(mean, np.roll(profile, tonic))[0, 1])
            if match > best:
                best, name = match, f"{_NAMES[tonic]} {mode}"
    return name
