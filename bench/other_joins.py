"""Joins weighed otherwise than the planner does, to measure it by: by who knows all the notes, and by nobody at all."""

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound
from evenseam.core.chart import Chart
from evenseam.core.plan.brief import Listening
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.graph import Edges
from evenseam.core.plan.search.joins import Joins

_SEAM_COST, _HARMONY_COST, _PLAYERS_COST, _LOST_COST = 1.0, 8.0, 4.0, 2.0
_DRUMS = 9
_NEAR_S, _HELD_S = 0.03, 0.06  # as the judge of seams allows
Floats = NDArray[np.float32]


class KnownJoins(Joins):
    """Joins of the beats that were heard, at what a judge who knows the notes would count against them."""

    def __init__(self, chart: Chart, truth: dict[str, Any]) -> None:
        super().__init__(chart)
        beats = chart.beats / chart.rate
        period = float(np.median(np.diff(truth["beats"])))
        start, end, channel, pitch = (np.array(column) for column in zip(*truth["notes"], strict=True))
        tuned = channel != _DRUMS
        sounds = _sounding(start, end, beats, beats + 2 * period) & tuned
        plays = _sounding(start, end, beats, beats + 4 * period)
        held = (start < beats[:, None] - _HELD_S) & (end > beats[:, None] + _HELD_S)
        voice = (channel * 128 + pitch).astype(np.int64)
        self._harmony, self._players = _sets(sounds, pitch % 12, 12), _sets(plays, channel, 16)
        self._cut, self._goes_on = _sets(held & tuned, voice, 2048), _sets(held, voice, 2048)

    def costs(self, i: NDArray[np.int64], j: NDArray[np.int64]) -> Floats:
        """As the planner's, of each join."""
        rows = {int(k): self._against(np.array([k]))[0] for k in np.unique(i)}
        return np.array([rows[a][b] for a, b in zip(i.tolist(), j.tolist(), strict=True)], dtype=np.float32)

    def _seam_costs(self, differ: Floats, i: NDArray[np.int64], j: NDArray[np.int64]) -> Floats:
        """Nothing but what the judge counts, whatever it sounds like."""
        del i, j
        return differ

    def _rows(self) -> Iterator[tuple[int, Floats]]:
        yield 0, self._against(np.arange(self._harmony.shape[0]))

    def _against(self, rows: NDArray[np.int64]) -> Floats:
        """What is against joins out of some beats, (rows, beats)."""
        harmony = 1 - _alike(self._harmony[rows], self._harmony)
        players = 1 - _alike(self._players[rows], self._players)
        lost = self._cut[rows].sum(axis=1)[:, None] - self._cut[rows] @ self._goes_on.T
        total = _SEAM_COST + _HARMONY_COST * harmony + _PLAYERS_COST * players + _LOST_COST * lost
        return total.astype(np.float32)


class CarelessJoins(Joins):
    """Joins that cost whatever comes up, but keep the beat and the place in the bar."""

    def costs(self, i: NDArray[np.int64], j: NDArray[np.int64]) -> Floats:
        """As the planner's, of each join."""
        return (1 + np.sin(12.9898 * i + 78.233 * j) * 43758.5453 % 1).astype(np.float32)

    def _seam_costs(self, differ: Floats, i: NDArray[np.int64], j: NDArray[np.int64]) -> Floats:
        del i, j
        return differ

    def _rows(self) -> Iterator[tuple[int, Floats]]:
        beats = np.arange(self._chart.beats.size)
        yield 0, self.costs(beats[:, None], beats)


class _AsWeighed(Offer):
    def heard_as(self, edges: Edges, listening: Listening) -> Edges:
        """As they are, whatever is listened for."""
        del listening
        return edges


class PlannerOf(Planner):
    """Plans of other joins, within all limits that other plans have."""

    def __init__(self, chart: Chart, samples: Sound, joins: Joins) -> None:
        super().__init__(chart, samples)
        self._offer = _AsWeighed(chart, samples, joins)


def _sounding(start: Floats, end: Floats, since: Floats, until: Floats) -> NDArray[np.bool_]:
    return (start < until[:, None] - _NEAR_S) & (end > since[:, None] + _NEAR_S)


def _sets(members: NDArray[np.bool_], value: NDArray[np.int64], values: int) -> Floats:
    """Which values the members have, beat by beat; (beats, values)."""
    found = np.zeros((members.shape[0], values), dtype=np.float32)
    beat, note = np.nonzero(members)
    found[beat, value[note]] = 1
    return found


def _alike(a: Floats, b: Floats) -> Floats:
    """Shares of what sets have in common, (a, b); 1 for two that are empty."""
    both = a @ b.T
    either = a.sum(axis=1)[:, None] + b.sum(axis=1) - both
    return np.where(either > 0, both / np.maximum(either, 1), 1.0)
