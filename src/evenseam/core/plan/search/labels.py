"""Path search: which seams to take so that the music comes out at the length asked for."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels_ways import cheapest_labels, walked_back
from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.alternates import different
from evenseam.core.plan.search.openings import OWN, Graph
from evenseam.core.plan.search.room import FEW_SEAMS, Room
from evenseam.core.plan.search.shape_ahead import ShapeAhead
from evenseam.core.plan.tail import Tail

_QUANTA_PER_BAR = 8
_MOST_STATES = 2_000_000  # above it time is quantised more coarsely
_MOST_COUNTED_STATES = 2_000_000  # with a count of seams
_MOST_STATES_OF_ALL = 400_000  # the same where nothing is left out by its cost
SPEED_COST, STRETCH_COST_PER_PCT2 = 7.5, 1.5  # of any change of speed at all, and of how far it goes
_BEYOND = (6.0, 12.0, 24.0, np.inf)  # dear ways are only looked at when there is no cheaper one
_NEARLY = 0.8  # of what they may cost at most: to look that far first spares next to nothing
_TRIED_PER_ROUTE = 8
NOTHING_KNOWN = np.empty(0, dtype=np.float32)  # of what ways cost, for the kernel
_NEAR_BARS, _FURTHER = 4, 4  # within which the nearest lengths are looked for first, and how many times as far then


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
        by_speed = int((self._span + self.tail.early_samples) * self.give)
        return self.samples + by_speed + self.tail.early_samples

    @property
    def shortest_played(self) -> int:
        """The shortest music that tail and give can still draw out into place."""
        by_speed = int(max(0, self._span - self.tail.silence_samples) * self.give)
        return self.samples - by_speed - self.tail.silence_samples

    def may_last(self, route: Route) -> bool:
        """Whether tail and give can bring the music of a route into place."""
        return self.shortest_played <= route.played_samples <= self.longest_played

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
    """All ways of a graph that cost no more than `bound`: where they end, and how they went."""

    graph: Graph
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
        self._room = Room.of(graph, most_seams)
        self._made: dict[tuple[bool, int, int], dict[float, Table]] = {}
        self._counted_ahead: dict[int, Ahead] = {}
        self._shape_ahead: dict[int, ShapeAhead] = {}

    def routes(self, wanted: Wanted, count: int, most_cost: float = np.inf, least_cost: float = 0.0) -> tuple[Route, ...]:
        """Up to `count` routes within give, cheapest first; those that cost more than `most_cost` need not be found.

        `least_cost`: what none of them costs less than, where that is known. Ties go to the shorter route. None: there is no
        such way.
        """
        if self._most_seams is None:
            return self._first_enough(wanted, count, least_cost, most_cost, is_counted=False)
        if not self._room.may_last(self._graph.start, wanted.shortest_played, wanted.longest_played):
            return ()
        if self._most_seams > FEW_SEAMS:
            free = self._first_enough(wanted, 1, least_cost, most_cost, is_counted=False)
            if not free or (count == 1 and len(free[0].seams) <= self._most_seams):
                return free
            least_cost = max(least_cost, free[0].cost)
        return self._first_enough(wanted, count, least_cost, most_cost, is_counted=True)

    def nearest(self, wanted: Wanted) -> tuple[int | None, int | None]:
        """Samples of the nearest music that can be played outside give: shorter, longer."""
        below, above = wanted.shortest_played - 1, wanted.longest_played + 1
        if self._most_seams is not None:
            return self._nearest_counted(below, -1), self._nearest_counted(above, 1)
        played = self.all_ways().played
        return max(played[played <= below].tolist(), default=None), min(played[played >= above].tolist(), default=None)

    def _nearest_counted(self, at: int, side: int) -> int | None:
        """The nearest that can be played, with a count of seams, on one side of a length: -1 no longer, 1 no shorter."""
        lasts = self._room.lasts(self._graph.start)
        if lasts is None or (side < 0 and lasts[0] > at) or (side > 0 and lasts[1] < at):
            return None
        at = min(at, lasts[1]) if side < 0 else max(at, lasts[0])
        near = _NEAR_BARS * self._graph.usual_step
        while True:
            first, last = max(0, min(at, at + side * near)), min(self._limit, max(at, at + side * near))
            played = self._table(np.inf, first, last, is_counted=True).played
            found = played[(played >= first) & (played <= last)]
            if found.size or first == 0 or last == self._limit:
                return int(found.max() if side < 0 else found.min()) if found.size else None
            near *= _FURTHER

    def all_ways(self) -> Table:
        """The cheapest ways to everything that can be played, whatever they cost and however many seams they take."""
        nothing = Ahead.nothing(self._graph), ShapeAhead.nothing(self._graph)
        return self._made_table(*nothing, Room.none(), np.inf, 0, self._limit)

    def _first_enough(
        self, wanted: Wanted, count: int, least_cost: float, most_cost: float, is_counted: bool
    ) -> tuple[Route, ...]:
        """The routes of the tables up to the first one that no dearer one can better; none costs less than `least_cost`."""
        routes: list[Route] = []
        ahead = self._ahead_of(wanted.shortest_played, is_counted)
        shape_ahead, start = self._shape_ahead_of(wanted.shortest_played, ahead), self._graph.start
        least = float(ahead.of_rest(start, wanted.shortest_played - self._graph.to_hit_samples) + shape_ahead.of_rest(start, 0))
        if np.isinf(least):  # the end cannot be reached
            return ()
        most = most_cost - least
        for beyond in [*(beyond for beyond in _BEYOND if least_cost - least <= beyond < _NEARLY * most), most]:
            table = self._table(beyond, wanted.shortest_played, wanted.longest_played, is_counted)
            routes = different([*routes, *self._within(table, wanted, count)], count)
            if len(routes) == count and routes[-1].cost <= table.bound:
                break
        return tuple(routes)

    def _table(self, beyond: float, first: int, last: int, is_counted: bool) -> Table:
        """Ways that last between so many samples and are dearer by `beyond` at most than any has to be, or more of them."""
        made = self._made.setdefault((is_counted, first, last), {})
        if not (enough := [further for further in made if further >= beyond]):
            room = self._room if is_counted else Room.none()
            ahead = self._ahead_of(first, is_counted)
            made[beyond] = self._made_table(ahead, self._shape_ahead_of(first, ahead), room, beyond, first, last)
            return made[beyond]
        return made[min(enough)]

    def _ahead_of(self, first: int, is_counted: bool) -> Ahead:
        """What is ahead of ways that last no shorter than so long; made once."""
        if not is_counted:
            return self._ahead
        if first not in self._counted_ahead:
            lasts = first - self._graph.to_hit_samples
            self._counted_ahead[first] = self._ahead.with_seams_left(self._room.layers, lasts)
        return self._counted_ahead[first]

    @cached_property
    def _ahead(self) -> Ahead:
        return Ahead.of(self._graph)

    def _shape_ahead_of(self, first: int, ahead: Ahead) -> ShapeAhead:
        """What straying still costs ways that last no shorter than so long, beside what else is ahead of them."""
        until = first - self._graph.to_hit_samples
        if first not in self._shape_ahead:
            self._shape_ahead[first] = ShapeAhead.of(self._ahead, until)
        return self._shape_ahead[first].beside(ahead, self._ahead, until)

    def _made_table(self, ahead: Ahead, shape_ahead: ShapeAhead, room: Room, beyond: float, first: int, last: int) -> Table:
        graph, n, width = ahead.graph, ahead.graph.at.size, max(1, room.layers)
        limit, until = max(0, min(self._limit, last)), first - graph.to_hit_samples
        most = _MOST_COUNTED_STATES // width if room.layers else _MOST_STATES if np.isfinite(beyond) else _MOST_STATES_OF_ALL
        least = np.float32(ahead.of_rest(graph.start, until) + shape_ahead.of_rest(graph.start, 0))
        start, zero = np.array([graph.start]), np.zeros(1, dtype=np.int64)
        cost, at, came, taken, _ = cheapest_labels(
            (graph.steps, ahead.step_cost),
            (graph.first, graph.to, graph.samples, graph.bar_entered, ahead.edge_order, ahead.edge_cost),
            (start, zero, zero, np.array([least])),
            graph.end,
            (limit, limit),
            graph.quantum(limit, most, _QUANTA_PER_BAR),
            np.float32(least + beyond + shape_ahead.unsure_cost),
            room.layers,
            room.for_kernel(first, last),
            graph.shape.for_kernel(0),
            shape_ahead.for_kernel(0),
            NOTHING_KNOWN,
        )
        ends = np.flatnonzero(np.isfinite(cost).reshape(-1, n, width)[:, graph.end].ravel())
        ends = (ends // width * n + graph.end) * width + ends % width
        rest = ahead.of_rest(graph.end, until - at[ends]) + shape_ahead.of_rest(graph.end, at[ends], ends % width)
        paid, played = (cost[ends] - rest).astype(np.float32), at[ends] + graph.to_hit_samples
        return Table(graph, float(least + beyond), ends, played, paid, came, taken)

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
        _, edges = walked_back(table.came, table.taken, state)  # the last one first
        *seams, opening = (table.graph.pair(edge) for edge in edges.tolist())
        fades_on = seams.pop(0)[0] if self._graph.fades else None
        return Route(tuple(reversed(seams)), cost, played, opens_on=opening[1], fades_on=fades_on)
