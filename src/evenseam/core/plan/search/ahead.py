"""What the rest of a way costs at least, so that ways that cannot become the cheapest are left long before their end.

To play on for as long as is wanted a track has to go round, and no second of that costs less than one of its cheapest loop
(the minimum ratio of a cycle: Dantzig, Blattner and Rao 1967). With that taken off for every sample, what is left of the cost
from a bar to the ending is a shortest path (the potentials of Johnson 1977, the estimate of Hart, Nilsson and Raphael 1968).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels import cheapest_to_end
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Graph, Openings

_SWEEPS = 16
_LESS = 0.9  # of the cost a sample, where some loop of several seams is cheaper than any of one
_TRIED = 24

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Ahead:
    """A graph whose costs are counted to the end: a way that has come to a bar costs what it has cost and what is ahead.

    `graph`: with the edges of each bar in the order of `edge_cost`. `per_sample`: what playing on costs at least. `to_end`:
    float64 (nodes,), what is ahead of each node apart from that, infinite where the end cannot be reached. `edge_cost`,
    `step_cost`: float32 (edges,) and (nodes,), by how much each makes a way dearer than it had to become.
    """

    graph: Graph
    per_sample: float
    to_end: Floats
    edge_cost: NDArray[np.float32]
    step_cost: NDArray[np.float32]

    @classmethod
    def of(cls, graph: Graph, jumps: Sequence[Openings] = (), ending_cost: float = np.inf) -> Self:
        """What is ahead in a graph where ways may also break off in any bar, to go on at one of some openings or to end."""
        per_sample, to_end = _ahead(graph)
        by_jump = [ending_cost]
        for anew in jumps:
            enters = anew.cost - per_sample * (graph.at[anew.to] - graph.at[anew.bar]) + to_end[anew.to]
            by_jump.append(float(enters.min(initial=np.inf)))
        longest = int(graph.steps[graph.steps < OUT_OF_REACH].max(initial=0))
        return cls._counted(graph, per_sample, np.minimum(to_end, min(by_jump) - per_sample * longest))

    @classmethod
    def nothing(cls, graph: Graph) -> Self:
        """Costs as they are, where nothing is known of what is ahead."""
        none = np.zeros(graph.at.size)
        return cls(graph, 0.0, none, graph.cost, none.astype(np.float32))

    def of_rest(self, node: int | Ints, samples: int | Ints) -> Floats:
        """What is ahead of a node at least, with so many samples still to be played."""
        return np.asarray(self.to_end[node] + self.per_sample * np.asarray(samples))

    @classmethod
    def _counted(cls, graph: Graph, per_sample: float, to_end: Floats) -> Self:
        node = graph.node_from
        plays = (graph.steps > 0) & (graph.steps < OUT_OF_REACH)
        step_cost, after = np.zeros(graph.at.size), np.append(to_end[1:], np.inf)
        with np.errstate(invalid="ignore"):  # from where nothing leads to the end
            edge_cost = (graph.cost - per_sample * graph.samples + to_end[graph.to] - to_end[node]).astype(np.float32)
            step_cost[plays] = (after - per_sample * graph.steps - to_end)[plays]
        edge_cost[np.isnan(edge_cost)], step_cost[np.isnan(step_cost)] = np.inf, np.inf
        order = np.lexsort((edge_cost, node))
        columns = ("to", "samples", "cost", "beat_from", "beat_to", "left", "entered", "bar_entered")
        sorted_graph = replace(graph, **{name: getattr(graph, name)[order] for name in columns})
        return cls(sorted_graph, per_sample, to_end, edge_cost[order], step_cost.astype(np.float32))


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
