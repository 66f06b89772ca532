"""What the rest of a way costs at least, so that ways that cannot become the cheapest are left long before their end.

To play on for as long as is wanted a track has to go round, and no second of that costs less than one of its cheapest loop
(the minimum ratio of a cycle: Dantzig, Blattner and Rao 1967). With that taken off for every sample, what is left of the cost
from a bar to the ending is a shortest path (the potentials of Johnson 1977, the estimate of Hart, Nilsson and Raphael 1968).

Where seams are counted, a way has so few of them that more may be taken off: as much as has the cheapest way to the end, of
those with no more seams, cost the most (the price of a resource in Lagrange's relaxation: Handler and Zang 1980).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels_to_end import cheapest_to_end, cheapest_to_end_counted
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Graph, Openings, entries_of

_SWEEPS = 16
_LESS = 0.9  # of the cost a sample, where some loop of several seams is cheaper than any of one
_TRIED = 24
_MOST_ROWS = 400_000  # edges times numbers of seams; above it what is ahead is not told apart by them
_LEAST_MORE, _DEAR = 0.5, 10_000.0  # over the usual price of all samples that are wanted: one is looked for in between
_MOST_PRICES = 24
_TOLD_APART = 3.0  # seams are, which takes several times as long, where every way is so much dearer with so few of them
_APART = 1e7  # more than any edge costs

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Ahead:
    """A graph whose costs are counted to the end: a way that has come to a bar costs what it has cost and what is ahead.

    `per_sample`: what playing on costs at least. `to_end`: float64 (rows, nodes), what is ahead of each node apart from that,
    infinite where the end cannot be reached. `step_cost`, `edge_cost`: float32 (rows, nodes) and (rows, edges), by how much
    each makes a way dearer than it had to become, the edges of each bar in that order, of which `edge_order` has the numbers.
    One row holds for any number of seams that were taken before, else there is one for each.
    """

    graph: Graph
    per_sample: float
    to_end: Floats
    step_cost: NDArray[np.float32]
    edge_order: NDArray[np.int32]
    edge_cost: NDArray[np.float32]

    @classmethod
    def of(cls, graph: Graph, jumps: Sequence[Openings] = (), ending_cost: float = np.inf) -> Self:
        """What is ahead in a graph where ways may also break off in any bar, to go on at one of some openings or to end."""
        per_sample, to_end = _ahead(graph)
        to, cost, plays = entries_of(graph, jumps)
        by_jump = min(ending_cost, float((cost - per_sample * plays + to_end[to]).min(initial=np.inf)))
        longest = int(graph.steps[graph.steps < OUT_OF_REACH].max(initial=0))
        return cls._counted(graph, per_sample, np.minimum(to_end, by_jump - per_sample * longest)[None])

    @classmethod
    def nothing(cls, graph: Graph) -> Self:
        """Costs as they are, where nothing is known of what is ahead."""
        return cls._counted(graph, 0.0, np.zeros((1, graph.at.size)))

    def with_seams_left(
        self, layers: int, lasts_samples: int, jumps: Sequence[Openings] = (), ending_cost: float = np.inf
    ) -> Self:
        """The same for ways of at most `layers` - 1 edges that are to last about so long; `jumps`, `ending_cost` as in `of`.

        As it is where so many make a way little dearer than any number would, or are too many to tell apart.
        """
        graph = self.graph
        if not layers or layers * graph.to.size > _MOST_ROWS:
            return self
        edges, entries = (graph.first, graph.to, graph.samples, graph.cost), entries_of(graph, jumps)

        def at_price(price: float) -> _Priced:
            asked = layers, price, OUT_OF_REACH, entries, ending_cost
            to_end, plays = cheapest_to_end_counted(graph.steps, edges, graph.end, *asked)
            return _Priced(price, to_end, float(to_end[0, graph.start]), int(plays[0, graph.start]))

        priced, known = _dearest(at_price, self.per_sample, lasts_samples), float(self.of_rest(graph.start, lasts_samples))
        if priced is None or priced.cost + priced.price * lasts_samples < known + _TOLD_APART:
            return self
        return self._counted(graph, priced.price, priced.to_end)

    def of_rest(self, node: int | Ints, samples: int | Ints, layer: int | Ints = 0) -> Floats:
        """What is ahead of a node at least, with so many samples still to be played and so many seams taken."""
        row = layer if self.to_end.shape[0] > 1 else 0
        return np.asarray(self.to_end[row, node] + self.per_sample * np.asarray(samples))

    @classmethod
    def _counted(cls, graph: Graph, per_sample: float, to_end: Floats) -> Self:
        node, rows = graph.node_from, to_end.shape[0]
        plays = (graph.steps > 0) & (graph.steps < OUT_OF_REACH)
        step_cost = np.zeros(to_end.shape)
        after_step = np.concatenate([to_end[:, 1:], np.full((rows, 1), np.inf)], axis=1)
        after_edge = to_end if rows == 1 else np.concatenate([to_end[1:], np.full((1, graph.at.size), np.inf)])
        with np.errstate(invalid="ignore"):  # from where nothing leads to the end
            edge_cost = graph.cost - per_sample * graph.samples + after_edge[:, graph.to] - to_end[:, node]
            step_cost[:, plays] = (after_step - per_sample * graph.steps - to_end)[:, plays]
        edge_cost[np.isnan(edge_cost)], step_cost[np.isnan(step_cost)] = np.inf, np.inf
        order = np.argsort(node * _APART + np.minimum(edge_cost, _APART / 2), axis=1)  # by node, then by cost
        in_order = np.take_along_axis(edge_cost, order, axis=1).astype(np.float32)
        return cls(graph, per_sample, to_end, step_cost.astype(np.float32), order.astype(np.int32), in_order)


@dataclass(frozen=True, slots=True)
class _Priced:
    """What is ahead where a sample is worth a price: of each node, and of the cheapest way of all, which plays so long."""

    price: float
    to_end: Floats
    cost: float
    plays_samples: int

    def meets(self, other: Self) -> float:
        """The price at which both ways cost the same."""
        paid = other.cost + other.price * other.plays_samples - self.cost - self.price * self.plays_samples
        return paid / (other.plays_samples - self.plays_samples)


def _dearest(at_price: Callable[[float], _Priced], usual: float, lasts_samples: int) -> _Priced | None:
    """What is ahead at the price at which the cheapest way that lasts so long has to cost most; None where that is the usual.

    Below it the cheapest way plays less than is wanted, above it more: where two such cost the same, one between is tried.
    """
    low = at_price(usual + _LEAST_MORE / max(1, lasts_samples))
    if low.plays_samples >= lasts_samples or not np.isfinite(low.cost):
        return None
    high = at_price(low.price + _DEAR / max(1, lasts_samples))
    if high.plays_samples < lasts_samples:
        return high
    for _ in range(_MOST_PRICES):
        between = at_price(low.meets(high))
        if between.plays_samples in (low.plays_samples, high.plays_samples):
            return between
        low, high = (between, high) if between.plays_samples < lasts_samples else (low, between)
    return low


def _ahead(graph: Graph) -> tuple[float, Floats]:
    """What playing on costs a sample at least, and what is ahead of each node apart from that."""
    per_sample = _cheapest_loop(graph)
    for _ in range(_TRIED):
        to_end, settled = cheapest_to_end(
            graph.steps,
            graph.first,
            graph.to,
            graph.cost - per_sample * graph.samples,
            graph.end,
            per_sample,
            OUT_OF_REACH,
            _SWEEPS,
        )
        if settled:
            return per_sample, to_end
        per_sample *= _LESS
    return 0.0, np.zeros(graph.at.size)


def _cheapest_loop(graph: Graph) -> float:
    """What a sample of the cheapest loop of one seam costs, 0 where there is none."""
    seams = graph.seams
    node, to = graph.node_from[seams], graph.to[seams]
    goes_back = (to <= node) & (to < graph.end)
    if not goes_back.any():
        return 0.0
    lasts = graph.samples[seams] + graph.at[node] - graph.at[to]
    return float((graph.cost[seams][goes_back] / np.maximum(1, lasts[goes_back])).min())
