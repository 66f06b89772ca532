"""What rings: the notes that go on across a beat, apart from what is struck on it.

Two beats can match in all that is struck on them and still not join: a held note breaks off, or one is there from nowhere.
Which keys are held a small network says (`held.onnx`), from half a second of tones and a quarter of bands on either side.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.features.describe import Tones
from evenseam.core.listen.features.keys import Places, Seen, rows_at, said_of_keys
from evenseam.core.listen.features.spectra import TONE_HOPS, tone_cells

N_ROWS = 27
_ROWS = np.arange(N_ROWS) - N_ROWS // 2  # the place in the middle
_BAND_HOPS = 2  # from row to row of the bands
_FAINT = 0.35  # log energy below which a tone is taken not to sound
_NEAR_ROWS, _FAR_ROWS = 3, 4  # rows away from a place that its own stroke is not heard in: the window is as long as five

FloatArray = NDArray[np.float32]


def ringing(tones: Tones, bands: FloatArray, beat_hops: Places) -> FloatArray:
    """What rings across every beat.

    `tones`, `bands`: as in Spectra. Returns: float32 (beats, 36), how many notes of each pitch class (C first) of each register
    go on, as is to be expected.
    """
    held = said_of_keys("held", beat_hops.size, lambda part: around(tones, bands, beat_hops[part]))
    return np.where(_may_sound(tones, beat_hops), held, 0) @ tone_cells()


def around(tones: Tones, bands: FloatArray, hops: Places) -> Seen:
    """What the network sees at some places, `N_ROWS` rows of 40 ms in tones and of 20 ms in bands."""
    at = hops[:, None]
    return Seen(rows_at(tones, at / TONE_HOPS + _ROWS), rows_at(bands, at + _BAND_HOPS * _ROWS))


def _may_sound(tones: Tones, hops: Places) -> NDArray[np.bool_]:
    """Which keys are there at all before and after each place, (places, 60): none across an end of it all."""
    at = hops[:, None] / TONE_HOPS
    beside = (rows_at(tones, at + side * np.array([_NEAR_ROWS, _FAR_ROWS])).mean(axis=1) for side in (-1, 1))
    both = np.minimum(*beside).reshape(hops.size, N_TONES)
    inside = (at >= _FAR_ROWS) & (at < tones.shape[0] - _FAR_ROWS)
    return np.asarray((both > _FAINT) & inside, dtype=np.bool_)
