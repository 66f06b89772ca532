"""How different the two sides of a join sound, beside what the track itself does from beat to beat and from bar to bar.

The change of a join is what its percentile and its grade are taken from. The jump is what gives a cut away first
(bench/cut_finder.py): the half beats that meet at it, in timbre and in harmony, among those that meet at the track's own beats.
"""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.chart.description import HARMONY_HALVES, TIMBRE, TIMBRE_HALVES

_USUAL = 0.5  # of the track's own beats half jump further: so much is not heard as a cut
_JUMP_COSTS = (2.0, 1.0)  # of a jump as far as any of the track's own, in timbre and in harmony

Floats = NDArray[np.float32]
Ints = NDArray[np.int64]


class Sides:
    """What sounds on either side of joins of one track.

    A join leaves before a beat of `i` and goes on at the same one of `j`.
    """

    def __init__(self, chart: Chart) -> None:
        self._features = chart.features
        self._bar_lines = 1 + np.flatnonzero(chart.beat_in_bar[1:] == 0)  # those that a join can stand at

    def changes(self, i: Ints, j: Ints) -> Floats:
        """How far the beat after each join is from the beat before it, and the bar after from the bar before.

        Of that, timbre and level alone count for half.
        """
        total = np.zeros(i.size, dtype=np.float32)
        for beats, before_bar, after_bar, scale in self._parts:
            beats_apart, bars_apart = apart(beats[np.maximum(i - 1, 0)], beats[j]), apart(before_bar[i], after_bar[j])
            total += (np.float32(0.3) * beats_apart + np.float32(0.2) * bars_apart) / scale
        return total

    @cached_property
    def natural_changes(self) -> Floats:
        """Changes of the track's own bar-to-bar joins, sorted; they are what percentiles are taken from."""
        return np.sort(self.changes(self._bar_lines, self._bar_lines))

    def percentiles(self, i: Ints, j: Ints) -> NDArray[np.float64]:
        """Per cent of the track's natural bar-to-bar joins that are a bigger change than each join."""
        n = self.natural_changes.size
        if n == 0:
            return np.zeros(i.size)
        return 100.0 * (n - np.searchsorted(self.natural_changes, self.changes(i, j), side="right")) / n

    def percentile(self, i: int, j: int) -> float:
        """The same for one join."""
        return float(self.percentiles(np.array([i]), np.array([j]))[0])

    def jump_costs(self, i: Ints, j: Ints) -> Floats:
        """What speaks against each join as its sound jumps further than at half of the track's own beats."""
        total = np.zeros(i.size)
        for cost, (ends, begins, own) in zip(_JUMP_COSTS, self._half_beats, strict=True):
            if own.size:
                share = np.searchsorted(own, apart(ends[np.maximum(i - 1, 0)], begins[j])) / own.size
                total += cost * np.square(np.maximum(0.0, share - _USUAL) / (1 - _USUAL))
        return total.astype(np.float32)

    @cached_property
    def usual_step(self) -> np.float32:
        """How far apart neighbouring beats usually are."""
        return _usual_step(self._features)

    @cached_property
    def _parts(self) -> tuple[tuple[Floats, Floats, Floats, np.float32], ...]:
        """Beats, bars before and from each, and the usual step: of all features, and of timbre and level alone."""
        whole = (self._features, *_bars_around(self._features))
        alone = [np.ascontiguousarray(part[:, list(TIMBRE)]) for part in whole]
        return (*whole, self.usual_step), (alone[0], alone[1], alone[2], _usual_step(alone[0]))

    @cached_property
    def _half_beats(self) -> tuple[tuple[Floats, Floats, Floats], ...]:
        """How each beat ends and how it begins, in timbre and in harmony, and how far the track's own jump, sorted."""
        found = []
        for first, second in (TIMBRE_HALVES, HARMONY_HALVES):
            begins, ends = (np.ascontiguousarray(self._features[:, half]) for half in (first, second))
            found.append((ends, begins, np.sort(apart(ends[:-1], begins[1:]))))
        return tuple(found)


def _usual_step(features: Floats) -> np.float32:
    """How far apart neighbouring beats usually are in some features."""
    return np.float32(np.median(apart(features[:-1], features[1:])) + 1e-6) if features.shape[0] > 1 else np.float32(1)


def apart(a: Floats, b: Floats) -> Floats:
    """Distance of each row of `a` from the same row of `b`."""
    return np.sqrt(np.square(a - b).sum(axis=1)).astype(np.float32)


def _bars_around(features: Floats) -> tuple[Floats, Floats]:
    """Mean features of the four beats before each beat, and of the four from it on."""
    n = features.shape[0]
    total = np.concatenate([np.zeros((1, features.shape[1])), np.cumsum(features, axis=0, dtype=np.float64)])
    index = np.arange(n)
    ends, starts = np.minimum(index + 4, n), np.maximum(index - 4, 0)
    after = (total[ends] - total[index]) / (ends - index)[:, None]
    before = (total[index] - total[starts]) / np.maximum(index - starts, 1)[:, None]
    return before.astype(np.float32), after.astype(np.float32)
