"""Which notes sound from beat to beat, whatever else their overtones make sound like a note.

A small network says so of every key in half a beat (`pitches.onnx`): it sees that half, the two before and the two after,
each in four parts.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_PITCH_CLASSES, N_TONES
from evenseam.core.listen.features.describe import Tones
from evenseam.core.listen.features.keys import Places, Seen, means_between, said_of_keys
from evenseam.core.listen.features.spectra import LOWEST_TONE, TONE_HOPS

_BESIDE, _PARTS = 2, 4  # halves that are seen on either side, and parts of each
N_ROWS = _PARTS * (2 * _BESIDE + 1)
_USUAL_HOPS = 50.0  # a beat that is alone

FloatArray = NDArray[np.float32]


def pitches(tones: Tones, bands: FloatArray, beat_hops: Places) -> FloatArray:
    """How likely each pitch class (C first) sounds between every beat and the next one, float32 (beats, 12).

    `tones`, `bands`: as in Spectra. A pitch class sounds where a note of it is played in either half of the beat.
    """
    edges = half_edges(beat_hops)
    halves = np.arange(2 * beat_hops.size)
    sounds = said_of_keys("pitches", halves.size, lambda part: around(tones, bands, edges, halves[part]))
    silent = (1 - sounds).reshape(beat_hops.size, 2, N_TONES).prod(axis=1)
    classes = (LOWEST_TONE + np.arange(N_TONES)) % N_PITCH_CLASSES
    return np.stack([1 - silent[:, classes == k].prod(axis=1) for k in range(N_PITCH_CLASSES)], axis=1).astype(np.float32)


def half_edges(beat_hops: Places) -> Places:
    """Where the halves of all beats begin and the last one ends, with two more on either side, (2 * beats + 5,) hops."""
    if not beat_hops.size:
        return np.empty(0)
    last = beat_hops[-1] - beat_hops[-2] if beat_hops.size > 1 else _USUAL_HOPS
    ends = np.append(beat_hops[1:], beat_hops[-1] + last)
    edges = np.append(np.stack([beat_hops, (beat_hops + ends) / 2], axis=1).ravel(), ends[-1])
    more = float(np.median(np.diff(edges))) * np.arange(1, _BESIDE + 1)
    return np.concatenate([edges[0] - more[::-1], edges, edges[-1] + more])


def around(tones: Tones, bands: FloatArray, edges: Places, at: NDArray[np.int64]) -> Seen:
    """What the network sees of some half beats, by their numbers: `N_ROWS` parts of halves. `edges`: as of `half_edges`."""
    part = np.arange(_PARTS + 1) / _PARTS
    near = edges[at[:, None] + np.arange(2 * _BESIDE + 2)]
    lines = near[:, :-1, None] * (1 - part) + near[:, 1:, None] * part
    start, end = (lines[:, :, k].reshape(at.size, N_ROWS) for k in (slice(None, -1), slice(1, None)))
    return Seen(means_between(tones, start / TONE_HOPS, end / TONE_HOPS), means_between(bands, start, end))
