"""Path search: which seams to take so that the music comes out at the length asked for."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.alternates import different
from evenseam.core.plan.landing import Tail
from evenseam.core.plan.search._kernels import cheapest_labels
from evenseam.core.plan.search.openings import OWN, Graph

_QUANTA_PER_BAR = 8
_MOST_STATES = 2_000_000  # above it time is quantised more coarsely
_MOST_COUNTED_STATES = 1_000_000  # with a count of seams
_MOST_STATES_OF_ALL = 400_000  # the same where nothing is left out by its cost
SPEED_COST, STRETCH_COST_PER_PCT2 = 6.0, 1.5  # of any change of speed at all, and of how far it goes
_BOUNDS = (3.0, 6.0, 12.0, np.inf)  # dear ways are only looked at when there is no cheaper one
_TRIED_PER_ROUTE = 8
NOTHING_KNOWN = np.empty(0, dtype=np.float32)  # of what ways cost, for the kernel
_FEW_SEAMS = 1  # so few that counting them at once is quicker than to look without counting first
_MOST_COUNTED = 40  # seams are counted one by one up to here; a way with more costs far more than any with fewer


@dataclass(frozen=True, slots=True)
class Met:
    """A hit that a way meets: its number, the sample of the track that sounds there, and after how many of the seams."""

    number: int
    source_samples: int
    seams_before: int


@dataclass(frozen=True, slots=True)
class Anew:
    """A seam, by number, at which the beat is not kept: the samples of the track that it leaves and enters.

    `rest_samples`: of silence between them, 0 for none.
    """

    seam: int
    left_samples: int
    entered_samples: int
    rest_samples: int = 0


@dataclass(frozen=True, slots=True)
class Route:
    """The seams of one way through the track as (beat left, beat entered), its cost, and the music it plays.

    `played_samples`: from the opening to the last hit or to the fade, before any give. `met`: the hits on the way, in order.
    `opens_on`: the beat on which it begins, OWN for the track's own opening. `anew`: the seams that start the music anew on
    a hit. `fades_on`: the beat from which it fades away, None for the track's own ending.
    """

    seams: tuple[tuple[int, int], ...]
    cost: float
    played_samples: int
    met: tuple[Met, ...] = ()
    opens_on: int = OWN
    anew: tuple[Anew, ...] = ()
    fades_on: int | None = None


@dataclass(frozen=True, slots=True)
class Wanted:
    """Samples from the opening to the last hit that are wanted; how far give may move them (fraction, 0.03), and the tail.

    `tail`: what the end can make up for without any change of speed. `pinned_samples`: until there nothing can be moved.
    """

    samples: int
    give: float
    tail: Tail
    pinned_samples: int = 0

    @property
    def longest_played(self) -> int:
        """The longest music that tail and give can still squeeze into place."""
        return self.samples + int(self._span * self.give) + self.tail.early_samples

    @property
    def shortest_played(self) -> int:
        """The shortest music that tail and give can still draw out into place."""
        return self.samples - int(self._span * self.give) - self.tail.silence_samples

    @property
    def _span(self) -> int:
        return max(1, self.samples - self.pinned_samples)

    def cost(self, played: NDArray[np.int64]) -> NDArray[np.float64]:
        """What playing so many samples in the place of those wanted costs."""
        taken = self.tail.takes(played - self.samples)
        by_speed = played - self.samples - taken
        speed = SPEED_COST + STRETCH_COST_PER_PCT2 * np.square(100 * by_speed / self._span)
        return self.tail.cost(taken) + np.where(by_speed == 0, 0.0, speed)


@dataclass(frozen=True, slots=True, eq=False)
class Table:
    """All ways that cost no more than `bound`: where they end, and how they went."""

    bound: float
    ends: NDArray[np.int64]
    played: NDArray[np.int64]
    cost: NDArray[np.float32]
    came: NDArray[np.int32]
    taken: NDArray[np.int32]


class Ways:
    """The ways through one graph to any length up to `longest_samples`, with at most `most_seams` seams (None: any number).

    Nothing is searched before it is asked for. O(time * bars * edges per bar), far less where a cheap way is found.
    """

    def __init__(self, graph: Graph, longest_samples: int, most_seams: int | None) -> None:
        self._graph, self._limit, self._most_seams = graph, longest_samples, most_seams
        self._made: dict[tuple[float, int], Table] = {}

    def routes(self, wanted: Wanted, count: int) -> tuple[Route, ...]:
        """Up to `count` routes within give, cheapest first. Ties go to the shorter route. None: there is no such way."""
        if self._most_seams is None:
            return self._first_enough(0, wanted, count)
        if wanted.shortest_played > self._graph.once_samples + self._most_seams * self._graph.furthest_back():
            return ()
        if self._most_seams <= _FEW_SEAMS:
            return self._first_enough(self._most_seams + 1, wanted, count)
        free = self._first_enough(0, wanted, 1)
        if not free or (count == 1 and len(free[0].seams) <= self._most_seams):
            return free
        return self._first_enough(min(self._most_seams, _MOST_COUNTED) + 1, wanted, count)

    def may_meet(self, wanted: Wanted) -> bool:
        """Whether any way at all, of whatever cost and number of seams, plays what give can bring to this length."""
        played = self._made_table(np.inf, 0).played
        return bool(np.any((played >= wanted.shortest_played) & (played <= wanted.longest_played)))

    def nearest(self, wanted: Wanted) -> tuple[int | None, int | None]:
        """Samples of the nearest music that can be played outside give: shorter, longer."""
        layers = 0 if self._most_seams is None else min(self._most_seams, _MOST_COUNTED) + 1
        played = self._made_table(np.inf, layers).played
        shorter, longer = played[played < wanted.shortest_played], played[played > wanted.longest_played]
        return int(shorter.max()) if shorter.size else None, int(longer.min()) if longer.size else None

    def all_ways(self) -> Table:
        """The cheapest ways to everything that can be played, whatever they cost and however many seams they take."""
        return self._made_table(np.inf, 0)

    def _first_enough(self, layers: int, wanted: Wanted, count: int) -> tuple[Route, ...]:
        """The routes of the tables up to the first one that no dearer one can better."""
        routes: list[Route] = []
        is_narrow = wanted.longest_played - wanted.shortest_played < self._graph.usual_step / _QUANTA_PER_BAR
        for table in self._tables(layers, self._least_cost(wanted), is_narrow):
            routes = different([*routes, *self._within(table, wanted, count)], count)
            if len(routes) == count and routes[-1].cost <= table.bound:
                break
        return tuple(routes)

    def _least_cost(self, wanted: Wanted) -> float:
        """What any way to a length costs at least: so many of the seams that go back the furthest, each as the cheapest."""
        costs, missing = self._graph.cost[self._graph.seams], wanted.shortest_played - self._graph.once_samples
        return float(costs.min()) * max(0, -(-missing // max(1, self._graph.furthest_back()))) if costs.size else 0.0

    def _tables(self, layers: int, least_cost: float, is_narrow: bool) -> Iterator[Table]:
        """Tables of ever dearer ways, from the first that can hold one of the least cost; each is made once.

        With a count there are few ways, and all of them are looked at together; a length that few ways meet is looked for
        among the cheapest, and then among all.
        """
        bounds = _BOUNDS[-1:] if layers else (_BOUNDS[0], _BOUNDS[-1]) if is_narrow else _BOUNDS
        for bound in bounds:
            if bound >= least_cost:
                yield self._made_table(bound, layers)

    def _made_table(self, bound: float, layers: int) -> Table:
        if (bound, layers) not in self._made:
            self._made[bound, layers] = self._table(bound, layers)
        return self._made[bound, layers]

    def _table(self, bound: float, layers: int) -> Table:
        most = _MOST_COUNTED_STATES // layers if layers else _MOST_STATES if np.isfinite(bound) else _MOST_STATES_OF_ALL
        graph = self._graph
        n = graph.at.size
        width = layers + 1 + graph.fades if layers else 1  # an opening is counted like a seam, and so is a fade
        cost, at, came, taken, _ = cheapest_labels(
            (graph.steps, np.zeros(n, dtype=np.float32)),
            (graph.first, graph.to, graph.samples, graph.cost, graph.bar_entered),
            graph.from_start(),
            graph.end,
            (self._limit, self._limit),
            graph.quantum(self._limit, most, _QUANTA_PER_BAR),
            np.float32(bound),
            width if layers else 0,
            graph.shape.for_kernel(0),
            NOTHING_KNOWN,
        )
        ends = np.flatnonzero(np.isfinite(cost).reshape(-1, n, width)[:, graph.end].ravel())
        ends = (ends // width * n + graph.end) * width + ends % width
        return Table(bound, ends, at[ends] + graph.to_hit_samples, cost[ends], came, taken)

    def _within(self, table: Table, wanted: Wanted, count: int) -> list[Route]:
        """The cheapest routes of a table that meet a length, each with other seams."""
        inside = np.flatnonzero((table.played >= wanted.shortest_played) & (table.played <= wanted.longest_played))
        total = table.cost[inside] + wanted.cost(table.played[inside])
        cheapest = np.argsort(total, kind="stable")[: 1 if count == 1 else _TRIED_PER_ROUTE * count]
        found = (
            self._trace(int(table.ends[k]), table, float(total[n]), int(table.played[k]))
            for n, k in zip(cheapest, inside[cheapest], strict=True)
        )
        return different(found, count)

    def _trace(self, state: int, table: Table, cost: float, played: int) -> Route:
        edges: list[int] = []  # the last one first, as the way is followed back
        while state >= 0:
            if table.taken[state] >= 0:
                edges.append(int(table.taken[state]))
            state = int(table.came[state])
        *seams, opening = (self._graph.pair(edge) for edge in edges)
        fades_on = seams.pop(0)[0] if self._graph.fades else None
        return Route(tuple(reversed(seams)), cost, played, opens_on=opening[1], fades_on=fades_on)
