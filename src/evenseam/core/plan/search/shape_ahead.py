"""What straying from a shape still costs, from each bar at each moment of the output.

The same potentials as in `ahead.py`, but by time: what is ahead of a bar is found backwards from the end, bar by bar of the
output, and taken between two of those moments in proportion (semi-Lagrangian, as in weather forecasting: Robert 1981). It is
so near to what ways cost that few others have to be looked at, and off by less than `UNSURE_COST`, by the rounding of time.
"""

from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels_shape import BLOCK, all_still_strays, least_after_edge, strays_to_end
from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Graph, entries_of
from evenseam.core.plan.search.room import Jumps

UNSURE_COST = 3.0
_MOST_STATES = 2_000_000  # above it nothing is known
_MOST_COST = 1e12  # more than anything costs
_NOTHING = np.zeros(())

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ForKernel = tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32], float, float, int, Floats, float, int]


@dataclass(frozen=True, slots=True, eq=False)
class ShapeAhead:
    """By how much what is ahead of a node is dearer than an `Ahead` counts, because of the shape of its graph.

    `more`: float32 (steps, nodes), at steps of `quantum` samples of the output, infinite from where no way ends in time;
    nothing comes after them, nor where there are none. `after_edge`: float32 (blocks, edges), the least that comes after each
    edge with what it costs, by blocks of `BLOCK` of those steps; `after_any`: float32 (blocks,), that of any without its cost.
    All are of ways of any number of seams: where those are told apart, `counted`, float64 (rows, nodes), and
    `counted_per_sample` of the time until `until` are counted elsewhere.
    """

    more: NDArray[np.float32]
    after_edge: NDArray[np.float32]
    after_any: NDArray[np.float32]
    quantum: int
    counted: Floats
    counted_per_sample: float = 0.0
    until: int = 0

    @classmethod
    def nothing(cls, graph: Graph) -> Self:
        """That nothing comes to it."""
        more, after_edge = (np.empty((0, size), dtype=np.float32) for size in (graph.at.size, graph.to.size))
        return cls(more, after_edge, after_edge[:, 0], 1, np.zeros((1, graph.at.size)))

    @classmethod
    def of(cls, ahead: Ahead, ends_from: int, jumps: Jumps | None = None, ending_cost: float = np.inf) -> Self:
        """That of ways which come to their end at a sample of the output or later, for any number of seams.

        `ahead`: what else is ahead of them, with the same jumps and what it costs to end by one.
        """
        graph, shape, jumps = ahead.graph, ahead.graph.shape, jumps or Jumps()
        quantum = max(1, min(graph.usual_step, graph.shortest_move))
        steps = max(ends_from, shape.wished.size * shape.step_samples) // quantum + 1
        if not shape.wished.size or steps * graph.at.size > _MOST_STATES:
            return cls.nothing(graph)
        more = strays_to_end(
            (graph.steps, ahead.step_cost[0], ahead.to_end[0], ahead.per_sample),
            (graph.first, graph.to, graph.samples, graph.bar_entered, ahead.edge_order[0], ahead.edge_cost[0]),
            graph.end,
            OUT_OF_REACH,
            (quantum, steps, max(0, ends_from) // quantum),
            shape.for_kernel(0),
            (*entries_of(graph, jumps.openings), jumps.rests_samples > 0),
            ending_cost,
        )
        edges = graph.to, graph.samples // quantum, ahead.edge_order[0], ahead.edge_cost[0]
        after_edge, after_any = least_after_edge(more, edges)
        return cls(more, after_edge, after_any, quantum, np.zeros((1, graph.at.size)))

    def beside(self, counted: Ahead, uncounted: Ahead, until: int) -> Self:
        """The same where `counted` is ahead of ways, until a sample of the output, in place of that of any number of seams."""
        if counted is uncounted or not self.more.size:
            return self
        with np.errstate(invalid="ignore"):  # from where nothing leads to the end
            known = np.nan_to_num(counted.to_end - uncounted.to_end, nan=0.0, posinf=_MOST_COST)
        by_time = counted.per_sample - uncounted.per_sample
        none = np.zeros_like(self.after_any)  # costs of edges are told apart as well
        return replace(self, after_any=none, counted=known, counted_per_sample=by_time, until=until)

    @property
    def unsure_cost(self) -> float:
        """By how much the cheapest way may seem dearer than it is."""
        return UNSURE_COST if self.more.size else 0.0

    def of_rest(self, node: int | Ints, samples: int | Ints, layer: int | Ints = 0) -> Floats:
        """What comes to what is ahead of a node at a sample of the output, with so many seams taken."""
        if not self.more.size:
            return _NOTHING
        node, samples, layer = np.broadcast_arrays(node, samples, layer)
        flat = (of.ravel() for of in (node, layer, samples))
        return np.asarray(all_still_strays(self.for_kernel(0), *flat)).reshape(node.shape)

    def for_kernel(self, base_samples: int) -> ForKernel:
        """As the kernels take it, for times that count from a sample of the output."""
        per_step = 1 / self.quantum
        of_all = self.more, self.after_edge, self.after_any, per_step, per_step / BLOCK, base_samples
        return *of_all, self.counted, self.counted_per_sample, self.until
