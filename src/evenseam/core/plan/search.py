"""Path search: which seams to take so that the music comes out at the length asked for."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan._kernels import cheapest_labels
from evenseam.core.plan.graph import Bars, Edges
from evenseam.core.plan.limits import Limits, check_opening

_QUANTA_PER_BAR = 8
_MOST_WORK = 40_000_000  # label relaxations; above it time is quantised more coarsely
_STRETCH_COST_PER_PCT2 = 1.5
_FAR_FROM_ANY = 1 << 62


@dataclass(frozen=True, slots=True)
class Route:
    """The seams of one way through the track as (beat left, beat entered), its cost, and the music it plays.

    `played_samples`: from the opening to the last hit, before any give.
    """

    seams: tuple[tuple[int, int], ...]
    cost: float
    played_samples: int


@dataclass(frozen=True, slots=True)
class Wanted:
    """Samples from the opening to the last hit that are wanted, and how far give may move them (fraction, 0.03)."""

    samples: int
    give: float

    @property
    def longest_played(self) -> int:
        """The longest music that give can still squeeze into place."""
        return int(self.samples * (1 + self.give))

    @property
    def shortest_played(self) -> int:
        """The shortest music that give can still draw out into place."""
        return int(np.ceil(self.samples * (1 - self.give)))


@dataclass(frozen=True, slots=True)
class Found:
    """Routes within give, cheapest first; and the nearest music that can be played outside it (samples to the last hit)."""

    routes: tuple[Route, ...]
    nearest_shorter: int | None
    nearest_longer: int | None

    def reachable(self, wanted: Wanted) -> list[int]:
        """The wanted lengths nearest to this one that would have been met."""
        lengths = []
        if self.nearest_shorter is not None:
            lengths.append(int(self.nearest_shorter / (1 - wanted.give)))
        if self.nearest_longer is not None:
            lengths.append(int(np.ceil(self.nearest_longer / (1 + wanted.give))))
        return lengths


def search(
    chart: Chart, bars: Bars, limits: Limits, edges: Edges, wanted: Wanted, opening_bars: int, most_routes: int
) -> Found:
    """Find the cheapest ways to play `wanted` samples between opening and last hit.

    A step back (shorter or longer than anything within give) is looked for as well, so that a refusal can say what
    would be possible. Ties go to the shorter route. O(time * bars * edges per bar).
    """
    bar = float(np.median(bars.steps[:-1]))
    start = min(opening_bars, bars.end)
    check_opening(limits, start)
    # Past the length wanted and past the shortest there is, so that a refusal can name what is possible.
    opening = int(bars.at[start] - chart.music_start_samples)
    limit = max(wanted.longest_played, opening) + round(2 * bar)
    quantum = _quantum(bars, edges, limit, bar)
    cost, at, came, taken = cheapest_labels(
        limits.steps(bars.steps),
        edges.first,
        edges.to,
        edges.samples,
        edges.cost,
        start,
        opening,
        bars.end,
        limit,
        quantum,
    )
    to_hit = chart.last_hit_samples - int(bars.at[bars.end])
    ends = np.arange(bars.end, cost.size, bars.at.size)
    ends = ends[np.isfinite(cost[ends])]
    played = at[ends] + to_hit
    within = (played >= wanted.shortest_played) & (played <= wanted.longest_played)
    change_pct = 100 * (played / max(1, wanted.samples) - 1)
    total = cost[ends] + _STRETCH_COST_PER_PCT2 * change_pct**2
    order = np.flatnonzero(within)
    order = order[np.argsort(total[order], kind="stable")]
    routes: list[Route] = []
    for i in order[: 8 * most_routes]:
        seams = _trace(int(ends[i]), came, taken, edges)
        if all(seams != r.seams for r in routes):
            routes.append(Route(seams, float(total[i]), int(played[i])))
        if len(routes) == most_routes:
            break
    shorter, longer = played[played < wanted.shortest_played], played[played > wanted.longest_played]
    return Found(tuple(routes), int(shorter.max()) if shorter.size else None, int(longer.min()) if longer.size else None)


def _quantum(bars: Bars, edges: Edges, limit: int, bar: float) -> int:
    """As fine as the work allows, and never longer than the shortest move (the kernel relies on it)."""
    per_time = bars.at.size + edges.to.size
    fine = max(bar / _QUANTA_PER_BAR, limit * per_time / _MOST_WORK)
    # Edges straight to the ending may be as short as nothing: it is the last node and goes nowhere.
    onward = edges.samples[edges.to != bars.end]
    shortest = int(min(bars.steps[:-1].min(), onward.min() if onward.size else _FAR_FROM_ANY))
    return max(1, min(int(fine), shortest))


def _trace(state: int, came: NDArray[np.int32], taken: NDArray[np.int32], edges: Edges) -> tuple[tuple[int, int], ...]:
    seams = []
    while state >= 0:
        edge = int(taken[state])
        if edge >= 0:
            seams.append((int(edges.beat_from[edge]), int(edges.beat_to[edge])))
        state = int(came[state])
    return tuple(reversed(seams))
