"""The count: a second small network of our own, which hears a whole piece half beat by half beat.

Where the ear looks some seconds to either side, the count sees bars and phrases, and what the whole piece is like, in
the music's own time. It was taught on scores written by our own code, which the ear had not been taught on: bench/ear.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.beats.tracking import opening_worth
from evenseam.core.listen.features.networks import network

_WEIGHT = 0.2  # what is said of one half beat is said again of the next: it counts for less than it says
_SURELY_NOT = -8.0
_USUAL_BPM, _TEMPO_WEIGHT = 120.0, 0.16  # every half beat pays for the square of the octaves from the usual tempo
_SLOWEST_TAPPED_BPM, _FASTEST_TAPPED_BPM, _OUTSIDE_WEIGHT = 70.0, 160.0, 0.3
_STEPS = (1, 2, 3, 4, 6)  # half beats of the decoded beats to a beat
_AS_DECODED, _FEWEST_BEATS = 2, 4  # short recordings keep enough beats to have a tempo
_CLEARNESS = 15.0
_HALVES_AT_ONCE, _BESIDE_HALVES = 8192, 512

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class BeatGrid:
    """Which half beats are the beats: one in `step`, from `first` on; `clear`, 0 to 1: how far it is ahead of the next best.

    `share`: of twice and half as many beats and these, how likely it is these; `times`: how many times as fast the other is.
    """

    step: int
    first: int
    clear: float
    share: float
    times: float

    @property
    def halves(self) -> slice:
        """The beats among the half beats."""
        return slice(self.first, None, self.step)


@dataclass(frozen=True, slots=True, eq=False)
class Counted:
    """Log probabilities: `kinds`, float32 (halves, 3), of each half beat being no beat, a beat, a downbeat; `meters`, (6,)."""

    kinds: FloatArray
    meters: FloatArray

    def odds(self, grid: BeatGrid) -> FloatArray:
        """Log odds of each beat of a grid being a downbeat, given that it is a beat, float32 (beats,)."""
        kinds = self.kinds[grid.halves]
        return kinds[:, 2] - kinds[:, 1]


def count_along(features: FloatArray) -> Counted:
    """Count a piece, from what is heard at its half beats. The metre's is the mean over all of them.

    What lasts for the better part of an hour is counted stretch by stretch: that needs no more memory, and is seldom one piece.
    """
    said = np.concatenate([_said(features, start) for start in range(0, features.shape[0], _HALVES_AT_ONCE)])
    return Counted(_log_shares(said[:, :3]), _log_shares(said[:, 3:]).mean(axis=0))


def _said(features: FloatArray, start: int) -> FloatArray:
    """What the networks say of a stretch, (halves, 9), with some of what is beside it in their view."""
    first = max(0, start - _BESIDE_HALVES)
    view = features[None, first : start + _HALVES_AT_ONCE + _BESIDE_HALVES]
    said = network("count").run(None, {"halves": view})[0][0]
    return np.asarray(said[start - first :][:_HALVES_AT_ONCE], dtype=np.float32)


def _log_shares(logits: FloatArray) -> FloatArray:
    level = logits - logits.max(axis=1, keepdims=True)
    return np.asarray(level - np.log(np.exp(level).sum(axis=1, keepdims=True)), dtype=np.float32)


def _unusual(bpm: float) -> float:
    """What speaks against a tempo before anything is heard: people tap at about 120, and seldom below 70 or above 160."""
    outside = max(0.0, np.log2(bpm / _FASTEST_TAPPED_BPM), np.log2(_SLOWEST_TAPPED_BPM / bpm))
    return float(_TEMPO_WEIGHT * np.log2(bpm / _USUAL_BPM) ** 2 + _OUTSIDE_WEIGHT * outside)


def choose_grid(counted: Counted, halves: NDArray[np.int64], hops_per_s: float, opening_hop: float) -> BeatGrid:
    """The beats among the half beats: one in so many of them, from each place they can start.

    Beats that were decoded can be true ones, or half or twice as many, or, where beats fall in three, three for two or
    three for one.
    """
    none = np.maximum(counted.kinds[:, 0], _SURELY_NOT)
    beat = np.maximum(np.logaddexp(counted.kinds[:, 1], counted.kinds[:, 2]), _SURELY_NOT)
    opening = opening_worth(halves, opening_hop)
    half_beat_bpm = 60 * hops_per_s / float(np.median(np.diff(halves)))
    worth = {}
    for step in _STEPS:
        unusual = _unusual(half_beat_bpm / step)
        for first in range(step):
            on = slice(first, None, step)
            if step != _AS_DECODED and halves[on].size < _FEWEST_BEATS:
                continue
            said = none.sum() - none[on].sum() + beat[on].sum()
            worth[step, first] = float(_WEIGHT * said + opening[on].sum()) / halves.size - unusual
    best, second = sorted(worth, key=worth.__getitem__, reverse=True)[:2]
    clear = float(1 - np.exp(-_CLEARNESS * (worth[best] - worth[second])))
    octaves = [grid for grid in worth if grid[0] in (best[0] / 2, best[0] * 2)]
    if not octaves:
        return BeatGrid(*best, clear, share=1.0, times=1.0)
    other = max(octaves, key=worth.__getitem__)
    share = float(1 / (1 + np.exp(-_CLEARNESS * (worth[best] - worth[other]))))
    return BeatGrid(*best, clear, share, times=best[0] / other[0])
