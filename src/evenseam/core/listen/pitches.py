"""Which notes sound from beat to beat, whatever else their overtones make sound like a note.

A small network of our own says so of one key at a time (`pitches.onnx`): it sees how loud its tone is in half a beat and in
the halves before and after, and beside it its neighbours, its partials, and the tones of which it may be a partial itself. It
was taught on scores written by our own code (bench/ear/pitches_train.py).
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_PITCH_CLASSES, N_TONES
from evenseam.core.listen.describe import Tones, between_beats, half_beats
from evenseam.core.listen.networks import network
from evenseam.core.listen.spectra import LOWEST_TONE, TONE_HOPS

_HALVES = (-1, 0, 1)
_SEMITONES = (
    *(-36, -31, -28, -24, -19, -16, -12, -7),  # of these it may be a partial
    *range(-5, 6),
    *(7, 12, 16, 19, 24, 28, 31, 34, 36),  # these may be partials of it
)
N_SEEN = len(_HALVES) * len(_SEMITONES) + 3
_AT_ONCE = 256

FloatArray = NDArray[np.float32]


def pitches(tones: Tones, beat_hops: NDArray[np.float64]) -> FloatArray:
    """How likely each pitch class (C first) sounds between every beat and the next one, float32 (beats, 12).

    `tones`: as in Spectra. A pitch class sounds where a note of it is played in either half of the beat.
    """
    halves = half_beats(beat_hops / TONE_HOPS, tones.shape[0])
    if not halves.size:
        return np.zeros((0, N_PITCH_CLASSES), dtype=np.float32)
    energy = between_beats(tones, halves).astype(np.float32)
    parts = [np.arange(k, min(k + _AT_ONCE, halves.size)) for k in range(0, halves.size, _AT_ONCE)]
    silent = np.concatenate([1 - _sounds(energy, part) for part in parts]).reshape(beat_hops.size, 2, N_TONES).prod(axis=1)
    classes = (LOWEST_TONE + np.arange(N_TONES)) % N_PITCH_CLASSES
    return np.stack([1 - silent[:, classes == k].prod(axis=1) for k in range(N_PITCH_CLASSES)], axis=1).astype(np.float32)


def around(energy: FloatArray, at: NDArray[np.int64]) -> FloatArray:
    """What the network sees of every key in some half beats, float32 (at, 60, N_SEEN).

    `energy` (half beats, 60): the mean tones of each. After the levels around a key come the mean and the highest of all, and
    how high the key is.
    """
    below, above = -min(_SEMITONES), max(_SEMITONES)
    wide = np.pad(energy, ((0, 0), (below, above)))
    near = [wide[np.clip(at + half, 0, energy.shape[0] - 1)] for half in _HALVES]
    levels = [rows[:, below + k : below + k + N_TONES] for rows in near for k in _SEMITONES]
    of_all = [
        np.broadcast_to(value[:, None], (at.size, N_TONES)) for value in (energy[at].mean(axis=1), energy[at].max(axis=1))
    ]
    height = np.broadcast_to(np.arange(N_TONES, dtype=np.float32) / N_TONES, (at.size, N_TONES))
    return np.stack([*levels, *of_all, height], axis=2)


def _sounds(energy: FloatArray, at: NDArray[np.int64]) -> FloatArray:
    """How likely each key sounds in some half beats, (at, 60)."""
    seen = around(energy, at).reshape(-1, N_SEEN)
    return np.asarray(network("pitches").run(None, {"around": seen})[0], dtype=np.float32).reshape(at.size, N_TONES)
