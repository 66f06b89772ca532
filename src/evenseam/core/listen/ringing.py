"""What rings: the notes that go on across a beat, apart from what is struck on it.

Two beats can match in all that is struck on them and still not join: a held note breaks off, or one is there from nowhere.
Which notes are held a small network of our own says (`held.onnx`), of one key at a time: it sees how its tone, its neighbours
and its partials go before and after the place. It was taught on scores written by our own code (bench/ear/held_train.py).
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.describe import Tones
from evenseam.core.listen.networks import network
from evenseam.core.listen.spectra import TONE_HOPS, tone_cells

# What is seen of a key: rows of 40 ms around the place, of tones so many semitones away: its neighbours, its partials, and
# those of which it may be one.
_ROWS = (-7, -5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 7)
_SEMITONES = (-24, -19, -12, -2, -1, 0, 1, 2, 7, 12, 19, 24, 28, 31, 36)
N_SEEN = len(_ROWS) * len(_SEMITONES) + 2
_PLACES_AT_ONCE = 128
_FAINT = 0.35  # log energy below which a tone is taken not to sound
_NEAR_ROWS, _FAR_ROWS = 3, 4  # rows away from a place that its own stroke is not heard in: the window is as long as five

FloatArray = NDArray[np.float32]
Ints = NDArray[np.int64]


def ringing(tones: Tones, beat_hops: NDArray[np.float64]) -> FloatArray:
    """What rings across every beat.

    `tones`: as in Spectra. Returns: float32 (beats, 36), how many notes of each pitch class (C first) of each register go on,
    as is to be expected.
    """
    return _held(tones, np.rint(beat_hops / TONE_HOPS).astype(np.int64)) @ tone_cells()


def around(tones: Tones, rows: Ints) -> FloatArray:
    """What the network sees of every key at some places, float32 (places, 60, N_SEEN): levels, how loud it is, how high."""
    last = tones.shape[0] - 1
    levels = np.stack([tones[np.clip(rows + k, 0, last)] for k in _ROWS], axis=2).astype(np.float32)
    below, above = -min(_SEMITONES), max(_SEMITONES)
    wide = np.pad(levels, ((0, 0), (below, above), (0, 0)))
    near = np.stack([wide[:, below + k : below + k + N_TONES] for k in _SEMITONES], axis=2)
    loud = np.broadcast_to(levels.max(axis=1).mean(axis=1)[:, None, None], (rows.size, N_TONES, 1))
    high = np.broadcast_to(np.arange(N_TONES, dtype=np.float32)[:, None] / N_TONES, (rows.size, N_TONES, 1))
    return np.concatenate([near.reshape(rows.size, N_TONES, -1), loud, high], axis=2)


def _held(tones: Tones, rows: Ints) -> FloatArray:
    """How likely each key is held across each place, (places, 60): none that does not sound, none across an end of it all."""
    held = np.zeros((rows.size, N_TONES), dtype=np.float32)
    for start in range(0, rows.size, _PLACES_AT_ONCE):
        part = slice(start, start + _PLACES_AT_ONCE)
        seen = around(tones, rows[part]).reshape(-1, N_SEEN)
        held[part] = network("held").run(None, {"around": seen})[0].reshape(-1, N_TONES)
    both = np.minimum(_level(tones, rows, (-_FAR_ROWS, -_NEAR_ROWS)), _level(tones, rows, (_NEAR_ROWS, _FAR_ROWS)))
    inside = (rows >= _FAR_ROWS) & (rows < tones.shape[0] - _FAR_ROWS)
    return np.where((both > _FAINT) & inside[:, None], held, 0).astype(np.float32)


def _level(tones: Tones, rows: Ints, away: tuple[int, int]) -> FloatArray:
    """Mean level of every tone some rows away from each place, (places, tones)."""
    last = tones.shape[0] - 1
    near, far = (tones[np.clip(rows + k, 0, last)].astype(np.float32) for k in away)
    return np.asarray((near + far) / 2, dtype=np.float32)
