"""The key, by correlation with how often each degree of a scale is played (Temperley, Music and Probability, 2007, ch. 6)."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.features.spectra import LOWEST_TONE

_NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
_MAJOR = np.array([0.748, 0.060, 0.488, 0.082, 0.670, 0.460, 0.096, 0.715, 0.104, 0.366, 0.057, 0.400])
_MINOR = np.array([0.712, 0.084, 0.474, 0.618, 0.049, 0.460, 0.105, 0.747, 0.404, 0.067, 0.133, 0.330])
_AROUND_TONES = 3  # what a tone has to stand out from, on either side
_ROWS_AT_ONCE = 4096


def find_key(tones: NDArray[np.float32]) -> str:
    """Name such as 'C major' or 'F# minor' from log energies by semitone (rows, 60), see `Spectra`; flat names but for F#."""
    classes = _pitch_classes(tones)
    if classes.std() < 1e-9:
        return "none"
    best, name = -2.0, ""
    for tonic in range(12):
        for profile, mode in ((_MAJOR, "major"), (_MINOR, "minor")):
            match = float(np.corrcoef(classes, np.roll(profile, tonic))[0, 1])
            if match > best:
                best, name = match, f"{_NAMES[tonic]} {mode}"
    return name


def _pitch_classes(tones: NDArray[np.float32]) -> NDArray[np.float64]:
    """How much each pitch class stands out from its neighbours over the whole piece, (12,), C first."""
    heard, n = np.zeros(tones.shape[1]), tones.shape[1]
    for first in range(0, tones.shape[0], _ROWS_AT_ONCE):
        rows = tones[first : first + _ROWS_AT_ONCE]
        padded = np.pad(rows, ((0, 0), (_AROUND_TONES, _AROUND_TONES)), mode="edge")
        around = sum(padded[:, k : k + n] for k in range(2 * _AROUND_TONES + 1)) / (2 * _AROUND_TONES + 1)
        heard += np.maximum(rows - around, 0).sum(axis=0, dtype=np.float64)
    heard /= max(1, tones.shape[0])
    classes = np.zeros(12)
    np.add.at(classes, (LOWEST_TONE + np.arange(n)) % 12, heard)
    return classes
