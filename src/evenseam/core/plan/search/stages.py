"""What the search past hits works with: the hits as waypoints, and stage by stage where ways begin, go and end."""

from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels_ways import gone_beyond, walked_back

PASSED_OVER = -1  # the sample that sounds at a hit which is missed
MUST_COST = 1000.0  # of a hit that is missed though it must be met: more than all else together

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Waypoint:
    """A hit on the output, and the places of the track that may sound there.

    `bar` and `into`: int64 arrays of the bar each place lies in and the samples from its downbeat, in order. `missed_cost`: of
    passing it over. `may_end`: whether the last hit of the track does as well.
    `until_samples`: of a silence, which no place meets: the music stops at the one moment and comes back at the other.
    """

    at_samples: int
    tolerance_samples: int
    bar: Ints
    into: Ints
    missed_cost: float
    may_end: bool = False
    until_samples: int | None = None

    @property
    def is_must(self) -> bool:
        """Whether no way is too dear to meet it."""
        return self.missed_cost >= MUST_COST

    def reach_samples(self, give: float, since_samples: int) -> int:
        """How far from it the music may be where it is met, with what give there is since a moment."""
        return self.tolerance_samples + int(give * max(1, self.at_samples - since_samples))

    @property
    def goes_on_samples(self) -> int:
        """When the music goes on from it."""
        return self.at_samples if self.until_samples is None else self.until_samples


@dataclass(frozen=True, eq=False)
class Starts:
    """Where the ways of a stage begin, and how each was come by.

    `cost`: float32 (starts,). `rows`: int64 (8, starts) of node, samples and seams taken, the sample on which the hit before
    landed, the table it was come by in, its state and edge there (-1: none), and the sample of the track that sounds at the
    hit, PASSED_OVER where none does.
    """

    cost: NDArray[np.float32]
    rows: Ints

    @classmethod
    def of(cls, cost: NDArray[np.float32], *rows: Ints | int) -> Self:
        """Starts of some costs; each row for all of them alike, or one by one."""
        kept = np.empty((len(rows), cost.size), dtype=np.int64)  # to stack them takes several times as long
        for k, row in enumerate(rows):
            kept[k] = row
        return cls(cost, kept)

    @property
    def node(self) -> Ints:
        """The bar from which each goes on."""
        return self.rows[0]

    @property
    def samples(self) -> Ints:
        """When each goes on."""
        return self.rows[1]

    @property
    def layer(self) -> Ints:
        """The seams that each has taken, where they are counted."""
        return self.rows[2]

    @property
    def since(self) -> Ints:
        """When each met its hit."""
        return self.rows[3]

    @cached_property
    def least_cost(self) -> float:
        """What the cheapest of them costs."""
        return float(self.cost.min())

    @cached_property
    def since_first(self) -> int:
        """When the first of them met its hit."""
        return int(self.since.min())

    @cached_property
    def samples_last(self) -> int:
        """When the last of them goes on."""
        return int(self.samples.max())

    @property
    def edge(self) -> Ints:
        """The edge on which each met its hit, or before which, from the number of edges on; -1 where on none."""
        return self.rows[6]

    @property
    def source(self) -> Ints:
        """The sample of the track that sounds where each met its hit, PASSED_OVER where none does."""
        return self.rows[7]

    def came_by(self, start: int) -> tuple[int, int, int, int]:
        """Table, state and edge that one was come by, and the sample of the track that sounds."""
        table, state, edge, source = self.rows[4:, start].tolist()
        return table, state, edge, source


@dataclass(frozen=True, slots=True, eq=False)
class Group:
    """Ways that are followed together: where they begin, and how many hits in a row they have passed over, musts or not."""

    starts: Starts
    passed: int = 0
    passed_must: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class StageTable:
    """The labels of one stage: (buckets of `quantum` samples from `base`, nodes, seams taken); `came` and `taken` are flat.

    `stage`: its number, that of the waypoint to come. `begun`: where its ways began. `followed_samples`: ways that have come
    further are followed in the table that is next.
    """

    number: int
    stage: int
    begun: Starts
    cost: NDArray[np.float32]
    at: Ints
    came: NDArray[np.int32]
    taken: NDArray[np.int32]
    began: NDArray[np.int32]
    base: int
    quantum: int
    followed_samples: int
    most: float

    def since(self, states: Ints) -> Ints:
        """When the ways to some states met their last hit."""
        return self.begun.since[self.began.ravel()[states]]

    def beyond(self, most: float, end: int) -> Ints:
        """The states of the ways that are followed in the next table, having come further than this one goes; none that is at
        the end or costs more than `most`."""
        first = max(0, (self.followed_samples - self.base) // self.quantum)
        return np.asarray(gone_beyond(self.cost, self.at, first, self.followed_samples - self.base, end, np.float32(most)))

    def buckets_near(self, first_samples: int, last_samples: int) -> tuple[int, int]:
        """The buckets of time that hold whatever lies between two samples."""
        first, last = ((at - self.base) // self.quantum for at in (first_samples, last_samples))
        return max(0, first), max(0, min(self.cost.shape[0], last + 1))


@dataclass(frozen=True, slots=True)
class EndAnew:
    """Straight into the last hit, wherever the music is: the sample of the track, the beat it lies on, what that costs.

    `is_aimed`: whether the last hit is aimed at a moment; else it may only meet a waypoint.
    """

    entered_samples: int
    beat: int
    cost: float
    is_aimed: bool


@dataclass(frozen=True, slots=True)
class End:
    """A way that ends in time: its cost, the number of its table and the state that it ends in, and the samples it plays.

    `anew`: that it goes straight into the last hit, and `meets` the waypoint which that meets, if it does.
    """

    cost: float
    table: int
    state: int
    played_samples: int
    anew: EndAnew | None = None
    meets: int | None = None


def back(table: StageTable, state: int, edges: list[int]) -> int:
    """The number of the start that a state goes back to; the edges on the way there are added, the last one first.

    Below 0 a state is a start itself, -1 minus its number.
    """
    start, taken = walked_back(table.came, table.taken, state)
    edges += taken.tolist()
    return int(start)


def of_all(parts: list[Starts]) -> Starts:
    """All of them, one part after the other."""
    if len(parts) == 1:
        return parts[0]
    return Starts(np.concatenate([p.cost for p in parts]), np.concatenate([p.rows for p in parts], axis=1))
