"""Path search through hits: the music is to have certain places of the track sound at certain moments.

Ways are looked for from hit to hit. Each stage starts where the one before met its hit, at every bar that can follow, and its
ways are found by the labels of `labels.py`; give is spent by each stretch between two hits for itself. Ways that meet a hit in
bars that a seam has to play on are followed as well. What a hit that is missed costs is paid by passing it over.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.alternates import different
from evenseam.core.plan.search._kernels import cheapest_labels, places_met
from evenseam.core.plan.search.graph import Bars, Edges, edges_from
from evenseam.core.plan.search.labels import SPEED_COST, STRETCH_COST_PER_PCT2, Met, Opened, Route, Wanted, quantum_of

_QUANTA_PER_BAR = 16
_MOST_STATES = 200_000  # of one stage
LEAST_SPAN_SHARE = 0.25  # of the whole: a change of speed is noticed however short it is
MOST_BOUND = 40.0  # more than five short bars from one hit to the next
_PASSED_OVER = 2  # hits in a row, before more are
_TRIED_PER_ROUTE = 8
_MOST_COUNTED = 40

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Waypoint:
    """A hit on the output, and the places of the track that may sound there.

    `bar` and `into`: int64 arrays of the bar each place lies in and the samples from its downbeat, in order. `missed_cost`: of
    passing it over.
    """

    at_samples: int
    tolerance_samples: int
    bar: Ints
    into: Ints
    missed_cost: float


@dataclass(frozen=True, slots=True, eq=False)
class _Starts:
    """Where the ways of a stage begin, parallel arrays, and how each was come by: stage, state and edge of the table there."""

    node: Ints
    samples: Ints
    layer: Ints
    cost: NDArray[np.float32]
    since: Ints
    stage: Ints
    state: Ints
    edge: Ints
    source: Ints


@dataclass(frozen=True, slots=True, eq=False)
class _Table:
    cost: NDArray[np.float32]
    at: Ints
    came: NDArray[np.int32]
    taken: NDArray[np.int32]
    base: int
    quantum: int

    def buckets_near(self, first_samples: int, last_samples: int) -> tuple[int, int]:
        """The buckets of time that hold whatever lies between two samples."""
        first, last = ((at - self.base) // self.quantum for at in (first_samples, last_samples))
        return max(0, first), max(0, min(self.cost.shape[0], last + 1))


class Passing:
    """The ways through one graph past waypoints, which are in order of time. `beats`: samples of the track's.

    Other parameters as of `labels.Ways`; every way begins at the first bar, and has no seam before that of `opened`.
    """

    def __init__(
        self,
        beats: Ints,
        bars: Bars,
        steps: Ints,
        edges: Edges,
        opened: Opened,
        waypoints: tuple[Waypoint, ...],
        most_seams: int | None,
    ) -> None:
        self._bars, self._steps, self._opened = bars, steps, opened
        self._edges = edges_from(edges, opened.bar)
        self._left, self._entered = beats[edges.beat_from], beats[edges.beat_to]
        self._bar_entered = np.searchsorted(bars.first_beat, edges.beat_to, side="right") - 1
        self._longest_move = int(max(bars.steps.max(), edges.samples.max(initial=0)))
        self._waypoints, self._width = waypoints, 1 if most_seams is None else min(most_seams, _MOST_COUNTED) + 1

    def routes(self, wanted: Wanted, count: int, bound: float = MOST_BOUND) -> tuple[Route, ...]:
        """Up to `count` routes that end in time and meet what is worth it, cheapest first; none if there is none.

        `wanted`: of the whole, its give holding for every stretch between two hits. No stage follows ways that cost more than
        its cheapest start by `bound`.
        """
        for reach in sorted({min(_PASSED_OVER, len(self._waypoints)), len(self._waypoints)}):
            if found := self._found(wanted, reach, count, bound):
                return found
        return ()

    def _found(self, wanted: Wanted, reach: int, count: int, bound: float) -> tuple[Route, ...]:
        n = len(self._waypoints)
        starts: list[list[_Starts]] = [[] for _ in range(n + 1)]
        starts[0] = [self._opening()]
        begun: dict[int, _Starts] = {}
        tables: dict[int, _Table] = {}
        ends: list[tuple[float, int, int, int]] = []
        for stage in range(n + 1):
            if not starts[stage]:
                continue
            begun[stage] = _of_all(starts[stage])
            missed, last = 0.0, min(n, stage + 1 + reach)
            tables[stage] = table = self._table(begun[stage], self._latest(last, wanted), bound)
            for number in range(stage, last):
                met = self._meets(table, begun[stage], stage, number, wanted.give)
                if met is not None:
                    starts[number + 1].append(replace(met, cost=met.cost + np.float32(missed)))
                missed += self._waypoints[number].missed_cost
            if last == n:
                ends += self._ends(stage, table, begun[stage], wanted, missed)
        ends.sort()
        tried = ends[: 1 if count == 1 else _TRIED_PER_ROUTE * count]
        return tuple(different((self._traced(end, begun, tables) for end in tried), count))

    def _opening(self) -> _Starts:
        first_bar = self._opened.samples - int(self._bars.at[self._opened.bar] - self._bars.at[0])
        values = {"node": 0, "samples": first_bar, "layer": 0, "since": 0, "stage": -1, "state": -1, "edge": -1, "source": -1}
        one = {name: np.array([value], dtype=np.int64) for name, value in values.items()}
        return _Starts(cost=np.zeros(1, dtype=np.float32), **one)

    def _latest(self, last: int, wanted: Wanted) -> int:
        """Up to which sample a table has to reach that is looked at for the waypoints before `last`, and perhaps the end."""
        if last == len(self._waypoints):
            return wanted.longest_played - self._opened.to_hit_samples + 1
        at = self._waypoints[last - 1]
        return int(at.at_samples * (1 + wanted.give)) + at.tolerance_samples + 1

    def _table(self, starts: _Starts, latest: int, bound: float) -> _Table:
        base, edges = int(starts.samples.min()), self._edges
        limit = max(1, latest - base)
        quantum = quantum_of(self._bars, edges, limit, _MOST_STATES // self._width, _QUANTA_PER_BAR)
        cost, at, came, taken = cheapest_labels(
            self._steps,
            edges.first,
            edges.to,
            edges.samples,
            edges.cost,
            (starts.node, starts.samples - base, starts.layer, starts.cost),
            self._bars.end,
            limit,
            quantum,
            np.float32(starts.cost.min() + bound),
            self._width if self._width > 1 else 0,
        )
        shape = (-1, self._bars.at.size, self._width)
        return _Table(cost.reshape(shape), at.reshape(shape), came, taken, base, quantum)

    def _meets(self, table: _Table, begun: _Starts, stage: int, number: int, give: float) -> _Starts | None:
        """Where ways may go on from that have met a waypoint; None where it cannot be met."""
        hit, bars, edges = self._waypoints[number], self._bars, self._edges
        span = max(1, hit.at_samples - int(begun.since.max()))
        reach = hit.tolerance_samples + int(give * span)
        most_debt = int((edges.to - self._bar_entered).max(initial=0)) + 1
        shape = (bars.at.size, most_debt + 1, self._width)
        cost = np.full(shape, np.inf, dtype=np.float32)
        best: tuple[NDArray[Any], ...] = (cost, *(np.zeros(shape, dtype=np.int64) for _ in range(5)))
        places_met(
            table.cost,
            table.at,
            table.base,
            table.buckets_near(hit.at_samples - reach - self._longest_move, hit.at_samples + reach),
            (bars.at, bars.steps),
            (edges.first, edges.to, edges.cost, self._left, self._entered, self._bar_entered),
            (hit.into, np.searchsorted(hit.bar, np.arange(bars.at.size + 1)).astype(np.int64)),
            bars.end,
            (hit.at_samples - reach, hit.at_samples + reach),
            (hit.at_samples, hit.tolerance_samples, float(span), *self._speed_cost(span)),
            best,
        )
        at = np.nonzero(np.isfinite(cost))
        if not at[0].size:
            return None
        cost, landed, goes_on, place, state, edge = (values[at] for values in best)
        source = bars.at[hit.bar[place]] + hit.into[place]
        return _Starts(at[0], goes_on, at[2], cost, landed, np.full(cost.size, stage), state, edge, source)

    def _speed_cost(self, span: int) -> tuple[float, float]:
        """Of any change of speed over a span, and of the square of its per cents."""
        share = max(LEAST_SPAN_SHARE, span / max(span, self._waypoints[-1].at_samples))
        return SPEED_COST * share, STRETCH_COST_PER_PCT2 * share

    def _ends(
        self, stage: int, table: _Table, begun: _Starts, wanted: Wanted, missed: float
    ) -> list[tuple[float, int, int, int]]:
        """Cost, stage, state and played samples of the ways that end in time."""
        at_end = table.cost[:, self._bars.end]
        bucket, layer = np.nonzero(np.isfinite(at_end))
        played = table.at[bucket, self._bars.end, layer] + table.base + self._opened.to_hit_samples
        last = replace(wanted, pinned_samples=int(begun.since.max()))
        inside = np.flatnonzero((played >= last.shortest_played) & (played <= last.longest_played))
        total = at_end[bucket, layer] + last.cost(played) + missed
        state = (bucket * self._bars.at.size + self._bars.end) * self._width + layer
        return [(float(total[k]), stage, int(state[k]), int(played[k])) for k in inside]

    def _traced(self, end: tuple[float, int, int, int], begun: dict[int, _Starts], tables: dict[int, _Table]) -> Route:
        cost, stage, state, played = end
        edges: list[int] = []  # the last one first, as the way is followed back
        met: list[tuple[int, int, int]] = []
        while True:
            start = _back(tables[stage], state, edges)
            if stage == 0:
                break
            begins, n_edges = begun[stage], self._edges.to.size
            edge = int(begins.edge[start])
            if edge >= n_edges:  # the hit is met before the seam
                edges.append(edge - n_edges)
            after = len(edges)
            if 0 <= edge < n_edges:
                edges.append(edge)
            met.append((stage - 1, int(begins.source[start]), after))
            stage, state = int(begins.stage[start]), int(begins.state[start])
        seams = tuple((int(self._edges.beat_from[e]), int(self._edges.beat_to[e])) for e in reversed(edges))
        return Route(seams, cost, played, tuple(Met(number, at, len(edges) - after) for number, at, after in reversed(met)))


def _back(table: _Table, state: int, edges: list[int]) -> int:
    """The number of the start that a state goes back to; the edges on the way there are added, the last one first."""
    while True:
        edge = int(table.taken[state])
        if edge >= 0:
            edges.append(edge)
        state = int(table.came[state])
        if state < 0:
            return -1 - state


def _of_all(parts: list[_Starts]) -> _Starts:
    return _Starts(**{name: np.concatenate([getattr(p, name) for p in parts]) for name in _Starts.__slots__})
