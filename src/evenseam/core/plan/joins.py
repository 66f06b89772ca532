"""Every join a track offers, what it would sound like, and how its change compares with the track's own.

A join (i, j) leaves the track where beat i would start and goes on with beat j. Its cost says how far what comes differs
from what would have come and what went before from what would have gone before. Its change says how different the
sounds on its two sides are: that is what natural joins (i, i) have too, and what the percentile is taken from.
"""

import io
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.plan import Grade

_AFTER_WEIGHTS = (1.0, 0.7, 0.5, 0.4)  # beats from the seam on
_BEFORE_WEIGHTS = (1.0, 0.6, 0.4)  # beats before it, nearest first
_REPETITION_WEIGHT = 4.0
_RESTLESS_WEIGHT = 0.8  # in free time: what speaks against a breath point that is none
EVEN_FROM_PCT, FAINT_FROM_PCT = 50.0, 20.0

Matrix = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Joins:
    """`cost`, `change`: float32 (beats, beats), indexed [from, to]; `natural_changes`: sorted, of the downbeats."""

    cost: Matrix
    change: Matrix
    natural_changes: NDArray[np.float32]

    def to_bytes(self) -> bytes:
        """Stored form: an .npz of half-precision matrices, not packed, so that it is read at once."""
        out = io.BytesIO()
        np.savez(out, cost=self.cost.astype(np.float16), change=self.change.astype(np.float16), natural=self.natural_changes)
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Self:
        """Inverse of `to_bytes`, to half precision."""
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            return cls(stored["cost"].astype(np.float32), stored["change"].astype(np.float32), stored["natural"])

    def percentile(self, i: int, j: int) -> float:
        """Per cent of the track's natural bar-to-bar joins that are a bigger change than the join (i, j)."""
        return float(self.percentiles(i, np.array([j]))[0])

    def percentiles(self, i: int, j: NDArray[np.int64]) -> NDArray[np.float64]:
        """The same for joins from beat i to each beat of `j`."""
        n = self.natural_changes.size
        if n == 0:
            return np.zeros(j.size)
        return 100.0 * (n - np.searchsorted(self.natural_changes, self.change[i, j], side="right")) / n


def grade(percentile: float) -> Grade:
    """`even` is at least as smooth as half of the track's own joins."""
    if percentile >= EVEN_FROM_PCT:
        return "even"
    return "faint" if percentile >= FAINT_FROM_PCT else "plain"


def all_joins(chart: Chart) -> Joins:
    """Weigh every join of a chart. O(beats^2) time and memory; about 5 ms for 4 minutes."""
    apart = _distances(chart.features, chart.features)
    scale = _usual(np.diagonal(apart, 1)) if apart.shape[0] > 1 else 1.0
    cost = _context(apart) / np.float32(scale)
    if chart.free_time:
        restless = np.float32(_RESTLESS_WEIGHT) * (1 - chart.beat_sure)
        cost = cost + restless[:, None] + restless[None, :]
    else:
        cost = cost + _against_repetition(cost, chart.beats_per_bar)
    change = _change(chart.features, apart) / np.float32(scale)
    downbeats = np.flatnonzero(chart.beat_in_bar == 0)
    downbeats = downbeats[downbeats > 0]
    return Joins(cost, change, np.sort(change[downbeats, downbeats]))


def _against_repetition(cost: Matrix, meter: int) -> Matrix:
    """What speaks against moving by so many beats at all, from the whole track; float32 (beats, beats).

    A move by whole bars, and best by whole phrases, is alike throughout a track; one that is smooth in one place only is
    more likely a slip of the beat that was heard. Few beats support a long move, so there the evidence counts less.
    """
    n = cost.shape[0]
    usual = np.array([float(np.diagonal(cost, lag).mean()) for lag in range(n)])
    least = minimum_filter1d(usual, 2 * meter + 1, mode="nearest")
    support = np.clip((n - np.arange(n)) / (8.0 * meter), 0, 1)
    against = (_REPETITION_WEIGHT * support * (usual - least)).astype(np.float32)
    return against[np.abs(np.arange(n)[:, None] - np.arange(n)[None, :])]


def _distances(a: Matrix, b: Matrix) -> Matrix:
    square = np.square(a).sum(axis=1)[:, None] + np.square(b).sum(axis=1)[None, :] - 2 * (a @ b.T)
    return np.sqrt(np.maximum(square, 0)).astype(np.float32)


def _usual(values: Matrix) -> float:
    return float(np.median(values)) + 1e-6


def _context(apart: Matrix) -> Matrix:
    """Weighted mean of `apart` along the diagonal around each cell; what lies outside the track counts as its edge."""
    total = np.zeros_like(apart)
    n = apart.shape[0]
    index = np.arange(n)
    shifts = [(k, w) for k, w in enumerate(_AFTER_WEIGHTS)] + [(-k - 1, w) for k, w in enumerate(_BEFORE_WEIGHTS)]
    for shift, weight in shifts:
        moved = np.clip(index + shift, 0, n - 1)
        total += np.float32(weight) * apart[np.ix_(moved, moved)]
    return total / np.float32(sum(w for _, w in shifts))


def _change(features: Matrix, apart: Matrix) -> Matrix:
    """How far the beat after a join is from the beat before it, and the bar after from the bar before."""
    n = features.shape[0]
    before = np.maximum(np.arange(n) - 1, 0)
    total = np.concatenate([np.zeros((1, features.shape[1])), np.cumsum(features, axis=0, dtype=np.float64)])
    index = np.arange(n)
    after_bar = (total[np.minimum(index + 4, n)] - total[index]) / (np.minimum(index + 4, n) - index)[:, None]
    starts = np.maximum(index - 4, 0)
    before_bar = (total[index] - total[starts]) / np.maximum(index - starts, 1)[:, None]
    bars_apart = _distances(before_bar.astype(np.float32), after_bar.astype(np.float32))
    return np.float32(0.6) * apart[before] + np.float32(0.4) * bars_apart
