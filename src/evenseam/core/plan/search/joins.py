"""The joins a track offers: what each would cost, and how its change compares with the track's own.

A join (i, j) leaves the track where beat i would start and goes on with beat j. It costs more the further what comes
differs from what would have come and what went before from what would have gone before, and the more different its two sides
sound (`sides.py`): that is what natural joins (i, i) have too, and what the percentile is taken from.

There are beats^2 joins: of each beat only the best are kept, a block of beats at a time, and any other can be weighed when
it is asked for. Memory grows with the beats alone.
"""

import io
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.chart.description import COLOUR, COLOUR_WEIGHT, NOTES, NOTES_WEIGHT
from evenseam.core.plan.model import Grade
from evenseam.core.plan.search.sides import Sides, apart

_AFTER_WEIGHTS = (1.0, 0.9, 0.6, 0.5)  # beats from the seam on
_BEFORE_WEIGHTS = (0.5, 0.3, 0.2)  # beats before it, nearest first
_SHIFTS = (*enumerate(_AFTER_WEIGHTS), *((-k - 1, w) for k, w in enumerate(_BEFORE_WEIGHTS)))
_REACH_BEFORE, _REACH_AFTER = len(_BEFORE_WEIGHTS), len(_AFTER_WEIGHTS) - 1
_REPETITION_WEIGHT = 5.0
_CUT_OFF_WEIGHT = 2.5  # of what is held before a seam and not after it
_LEAST_HELD = 0.5  # notes: in tracks where little is held, so much at least counts as much
_RESTLESS_WEIGHT = 0.8  # in free time: what speaks against a breath point that is none
_UNSURE_WEIGHT, _SURE_ENOUGH = 0.6, 0.75  # else: against a beat that is less sure than this share of what is usual
_SEAM_COST, _DIFFERENCE_COST, _GRADE_COST = 0.2, 1.6, 3.5
_KEPT_MOVES, _KEPT_SHORT_MOVES = 64, 16  # of each beat: to the same place in the bar, and to each other one
_LOOKED_AT = 4  # times as many are looked at by difference alone before their grade counts
_BEATS_AT_ONCE = 256
EVEN_FROM_PCT, FAINT_FROM_PCT = 50.0, 20.0

Floats = NDArray[np.float32]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Moves:
    """The best joins out of every beat, the cheapest of each kind first: float32 and int32 (beats, kept).

    `to`: the beat entered, -1 where there are fewer. The first `n_whole` columns keep the place in the bar; the others
    leave a short bar, so many for every other place.
    """

    to: NDArray[np.int32]
    cost: Floats
    n_whole: int


@dataclass(frozen=True, slots=True, eq=False)
class Allowed:
    """Which joins may be thought of: `enter` (beats,) whether a beat may be entered, `latest` (beats,) the last one."""

    enter: NDArray[np.bool_]
    latest: Ints


class Joins:
    """What the joins of one chart cost. `lag_cost`: what speaks against moving by so many beats at all, (beats,)."""

    def __init__(self, chart: Chart, lag_cost: Floats | None = None, moves: Moves | None = None) -> None:
        self.sides = Sides(chart)
        self._chart, self._features = chart, chart.features
        self._known_lag_cost, self._known_moves = lag_cost, moves

    @cached_property
    def moves(self) -> Moves:
        """The best joins out of every beat."""
        return self._known_moves or self.best_moves()

    def best_moves(self, allowed: Allowed | None = None) -> Moves:
        """The best joins among those that are allowed. O(beats^2) time, O(beats) memory."""
        n = self._chart.beats.size
        allowed = allowed or Allowed(np.ones(n, dtype=bool), np.full(n, n))
        per_bar = self._chart.beats_per_bar
        width = _KEPT_MOVES + _KEPT_SHORT_MOVES * (per_bar - 1)
        to, cost = np.full((n, width), -1, dtype=np.int32), np.full((n, width), np.inf, dtype=np.float32)
        place = self._chart.beat_in_bar
        columns = [np.flatnonzero((place == p) & allowed.enter) for p in range(per_bar)]
        for start, differ in self._rows():
            rows = np.arange(start, start + differ.shape[0])
            far = np.abs(rows[:, None] - np.arange(n)) < per_bar  # less than a bar is heard as a stumble
            differ[far | (np.arange(n) > allowed.latest[rows][:, None])] = np.inf
            for p in range(per_bar):
                here = np.flatnonzero(place[rows] == p)
                for shift in range(per_bar):
                    part = _columns_of(shift)
                    best = self._best(rows[here], differ[here], columns[(p + shift) % per_bar], part.stop - part.start)
                    to[rows[here], part], cost[rows[here], part] = best
        return Moves(to, cost, _KEPT_MOVES)

    def _best(self, rows: Ints, differ: Floats, columns: Ints, count: int) -> tuple[NDArray[np.int32], Floats]:
        """The `count` cheapest joins from each of `rows` to beats of `columns`, padded; `differ` is of these rows."""
        to, cost = np.full((rows.size, count), -1, dtype=np.int32), np.full((rows.size, count), np.inf, dtype=np.float32)
        if not rows.size or not columns.size:
            return to, cost
        some = differ[:, columns]
        looked = min(columns.size, _LOOKED_AT * count)
        near = np.tile(np.arange(looked), (rows.size, 1))
        if looked < columns.size:
            near = np.argpartition(some, looked - 1, axis=1)[:, :looked]
        near = np.sort(near, axis=1)  # ties go to the earlier beat
        entered = columns[near]
        known = np.take_along_axis(some, near, axis=1)
        all_cost = self._seam_costs(known.ravel(), np.repeat(rows, looked), entered.ravel()).reshape(entered.shape)
        order = np.argsort(all_cost, axis=1, kind="stable")[:, :count]
        best = np.take_along_axis(all_cost, order, axis=1)
        kept = order.shape[1]
        cost[:, :kept] = best
        to[:, :kept] = np.where(np.isfinite(best), np.take_along_axis(entered, order, axis=1), -1)
        return to, cost

    def costs(self, i: Ints, j: Ints) -> Floats:
        """What leaving before each beat of `i` and entering at the same one of `j` costs; float32, same shape."""
        n = self._chart.beats.size
        differ = np.zeros(i.size, dtype=np.float32)
        for shift, weight in _SHIFTS:
            a, b = (np.clip(x + shift, 0, n - 1) for x in (i, j))
            differ += np.float32(weight) * apart(self._features[a], self._features[b])
        differ = differ / np.float32(sum(w for _, w in _SHIFTS)) / self.sides.usual_step + self._lag_cost[np.abs(j - i)]
        differ = differ + np.float32(_CUT_OFF_WEIGHT) * np.maximum(self._held[i] - self._held[j], 0).sum(axis=1)
        return self._seam_costs(differ + self._doubt[i] + self._doubt[j], i, j)

    def apart_after(self, i: int, j: int, beats: int) -> tuple[float, float]:
        """How far the notes and the colour after beat `j` are from those after beat `i`, in usual steps, on average."""
        n = max(1, min(beats, self._chart.beats.size - max(i, j)))
        after, due = self._features[j : j + n], self._features[i : i + n]
        parts = ((NOTES, NOTES_WEIGHT), (COLOUR, COLOUR_WEIGHT))
        notes, colour = (float(apart(after[:, part], due[:, part]).mean()) / weight for part, weight in parts)
        return notes, colour

    def held_across(self, i: int, j: int) -> tuple[float, float]:
        """How many notes are held where a seam leaves, and how many of them do not go on where it enters."""
        held, held_after = self._chart.rings[[i, j]]
        return float(held.sum()), float(np.maximum(held - held_after, 0).sum())

    def to_bytes(self) -> bytes:
        """Stored form, an .npz; what is not in it comes from the chart."""
        out = io.BytesIO()
        moves = self.moves
        np.savez(out, to=moves.to, cost=moves.cost.astype(np.float16), n_whole=np.int64(moves.n_whole), lag_cost=self._lag_cost)
        return out.getvalue()

    @classmethod
    def from_bytes(cls, chart: Chart, data: bytes) -> Self:
        """Inverse of `to_bytes`, for the same chart; costs to half precision."""
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            moves = Moves(stored["to"], stored["cost"].astype(np.float32), int(stored["n_whole"]))
            return cls(chart, stored["lag_cost"], moves)

    def _seam_costs(self, differ: Floats, i: Ints, j: Ints) -> Floats:
        """What joins cost, given how far what comes differs from what was due; (joins,)."""
        lacking = 1 - self.sides.percentiles(i, j) / 100
        cost = _SEAM_COST + _DIFFERENCE_COST * differ + _GRADE_COST * np.square(lacking) + self.sides.jump_costs(i, j)
        return np.asarray(cost, dtype=np.float32)

    @cached_property
    def _doubt(self) -> Floats:
        """What speaks against leaving or entering at each beat, since it may not be one, (beats,)."""
        sure = self._chart.beat_sure
        if self._chart.free_time:
            return np.float32(_RESTLESS_WEIGHT) * (1 - sure)
        enough = np.float32(_SURE_ENOUGH) * np.median(sure) if sure.size else np.float32(1)
        return np.float32(_UNSURE_WEIGHT) * np.clip(1 - sure / np.maximum(enough, np.float32(1e-3)), 0, 1)

    @cached_property
    def _held(self) -> Floats:
        """What is held across each beat, (beats, 36); usual places of the track have 1 in all."""
        held = self._chart.rings
        usual = float(np.median(held.sum(axis=1))) if held.size else 0.0
        return np.asarray(held / np.float32(usual + _LEAST_HELD), dtype=np.float32)

    def _cut_off(self, rows: Ints) -> Floats:
        """What speaks against joins from some beats: what is held there and does not go on; (rows, beats)."""
        held, total = self._held, self._held.sum(axis=1)
        # Of two numbers the excess of the one over the other is half of how far they are apart and of how much bigger it is.
        from scipy.spatial.distance import cdist  # loaded where joins are weighed, not where they are read

        excess = (cdist(held[rows], held, "cityblock") + total[rows, None] - total) / 2
        return np.asarray(_CUT_OFF_WEIGHT * excess, dtype=np.float32)

    @cached_property
    def _lag_cost(self) -> Floats:
        """What speaks against moving by so many beats at all, from the whole track.

        A move by whole bars, and best by whole phrases, is alike throughout a track; one that is smooth in one place only is
        more likely a slip of the beat that was heard. Few beats support a long move, so there the evidence counts less.
        """
        if self._known_lag_cost is not None:
            return self._known_lag_cost
        n, meter = self._chart.beats.size, self._chart.beats_per_bar
        if self._chart.free_time or n == 0:
            return np.zeros(n, dtype=np.float32)
        total = np.zeros(n)
        for start, differ in self._differences():
            for row, values in enumerate(differ, start):
                total[: n - row] += values[row:]
        usual = total / (n - np.arange(n))
        from scipy.ndimage import minimum_filter1d

        least = minimum_filter1d(usual, 2 * meter + 1, mode="nearest")
        support = np.clip((n - np.arange(n)) / (8.0 * meter), 0, 1)
        return (_REPETITION_WEIGHT * support * (usual - least)).astype(np.float32)

    def _rows(self) -> Iterator[tuple[int, Floats]]:
        """Differences with what speaks against the move and against the places, some rows at a time."""
        n = self._chart.beats.size
        for start, differ in self._differences():
            rows = np.arange(start, start + differ.shape[0])
            differ += self._lag_cost[np.abs(rows[:, None] - np.arange(n))]
            differ += self._cut_off(rows)
            differ += self._doubt[rows][:, None] + self._doubt
            yield start, differ

    def _differences(self) -> Iterator[tuple[int, Floats]]:
        """Weighted mean of how far apart the beats around two places are, (some beats, beats) at a time.

        What lies outside the track counts as its edge.
        """
        n, features = self._features.shape[0], self._features
        padded = np.pad(features, ((_REACH_BEFORE, _REACH_AFTER), (0, 0)), mode="edge")
        squares = np.square(padded).sum(axis=1)
        scale = np.float32(sum(w for _, w in _SHIFTS)) * self.sides.usual_step
        for start in range(0, n, _BEATS_AT_ONCE):
            count = min(_BEATS_AT_ONCE, n - start)
            near = slice(start, start + count + _REACH_BEFORE + _REACH_AFTER)
            square = squares[near, None] + squares - 2 * (padded[near] @ padded.T)
            apart = np.sqrt(np.maximum(square, 0, out=square), out=square)
            total = np.zeros((count, n), dtype=np.float32)
            for shift, weight in _SHIFTS:
                at = shift + _REACH_BEFORE
                total += np.float32(weight) * apart[at : at + count, at : at + n]
            yield start, np.divide(total, scale, out=total)


def grade(percentile: float) -> Grade:
    """`even` is at least as smooth as half of the track's own joins."""
    if percentile >= EVEN_FROM_PCT:
        return "even"
    return "faint" if percentile >= FAINT_FROM_PCT else "plain"


def _columns_of(shift: int) -> slice:
    """Where the moves that change the place in the bar by so many beats are kept."""
    if shift == 0:
        return slice(0, _KEPT_MOVES)
    return slice(_KEPT_MOVES + _KEPT_SHORT_MOVES * (shift - 1), _KEPT_MOVES + _KEPT_SHORT_MOVES * shift)
