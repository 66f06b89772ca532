"""The track as a graph for the path search: nodes are downbeats, edges are seams from bar to bar.

An edge (k, l, p, q) plays bar k up to its beat p, goes on at beat q of bar l, and then plays on until `hold` bars have
passed. With p == q the seam keeps the place in the bar; otherwise it leaves a short bar, which costs.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.joins import Joins
from evenseam.core.plan.limits import Limits

_EDGES_PER_BAR, _SHORT_EDGES_PER_BAR = 32, 10
_SEAM_COST, _DIFFERENCE_COST, _GRADE_COST = 0.8, 2.5, 2.0
_SHORT_BAR_COST = 6.0
_LEAST_MOVE_BARS = 1  # a seam that skips or repeats less than a bar is heard as a stumble

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Bars:
    """The downbeats a plan may use. `first_beat`: index of each downbeat among the beats; `at`: its sample.

    `end`: the node from which the ending is played unbroken.
    """

    first_beat: Ints
    at: Ints
    end: int

    @property
    def steps(self) -> Ints:
        """Samples from each downbeat to the next; the last one is never played."""
        return np.append(np.diff(self.at), 0)


@dataclass(frozen=True, slots=True, eq=False)
class Edges:
    """Seams by the bar they leave: edges of bar k are `first[k]` to `first[k + 1]` in the parallel arrays."""

    first: Ints
    to: Ints
    samples: Ints
    cost: NDArray[np.float32]
    beat_from: Ints
    beat_to: Ints


def usable_bars(chart: Chart) -> Bars:
    """The downbeats between opening and ending. Raises: NoPlanError when there are fewer than two whole bars."""
    first_beat = np.flatnonzero(chart.beat_in_bar == 0)
    at = chart.beats[first_beat]
    beat = float(np.median(np.diff(chart.beats))) if chart.beats.size > 1 else 0.0
    latest = chart.last_hit_samples - 0.5 * beat
    kept = (at >= chart.music_start_samples) & (at <= latest)
    first_beat, at = first_beat[kept], at[kept]
    if at.size < 3:
        raise NoPlanError(
            "No bars were heard in this track to rearrange. Use another track, or correct its beats and bars.",
            bars=int(at.size),
        )
    return Bars(first_beat, at, at.size - 1)


def seam_edges(chart: Chart, bars: Bars, joins: Joins, limits: Limits, hold: int, short_bars: bool) -> Edges:
    """The most promising seams out of every bar, each landing after `hold` bars (or at the ending, if that is nearer)."""
    shifts = range(chart.beats_per_bar) if short_bars else range(1)
    free = [limits.reachable(k, max(1, hold)) for k in range(bars.at.size)]
    rows = [_from_bar(k, shift, chart, bars, joins, limits, free[k]) for k in range(bars.at.size) for shift in shifts]
    bar_from, bar_to, cost, beat_from, beat_to = (np.concatenate([row[i] for row in rows]) for i in range(5))
    to = np.minimum(bar_to + max(1, hold), bars.end)
    samples = (chart.beats[beat_from] - bars.at[bar_from]) + (bars.at[to] - chart.beats[beat_to])
    first = np.searchsorted(bar_from, np.arange(bars.at.size + 1)).astype(np.int64)
    return Edges(first, to, samples, cost.astype(np.float32), beat_from, beat_to)


def _from_bar(
    k: int, shift: int, chart: Chart, bars: Bars, joins: Joins, limits: Limits, free: NDArray[np.bool_]
) -> tuple[Ints, Ints, NDArray[np.float64], Ints, Ints]:
    """Seams out of bar k that move the place in the bar by `shift` beats, the cheapest ones.

    For every bar that could follow, the best place to leave and to enter is chosen first, so that the choice is between
    lengths and not between neighbouring beats. Returns bar left, bar entered, cost, beat left, beat entered.
    """
    leave = _beats_of_bar(k, chart, bars)
    leave = leave[~limits.blocked[leave]]
    if limits.skipped[k]:
        leave = leave[leave == bars.first_beat[k]]
    bar_to = np.arange(bars.end + 1)
    options = [_from_beat(int(i), shift, chart, bars, joins) for i in leave]
    if not options:
        nothing = np.empty(0, dtype=np.int64)
        return nothing, nothing, np.empty(0), nothing, nothing
    cost = np.stack([c for c, _ in options])
    best = cost.argmin(axis=0)
    best_to = np.stack([e for _, e in options])[best, bar_to]
    best_cost = np.where(free & ~limits.blocked[best_to], cost[best, bar_to], np.inf)
    usable = np.flatnonzero(np.isfinite(best_cost))
    most = _SHORT_EDGES_PER_BAR if shift else _EDGES_PER_BAR
    chosen = usable[np.argsort(best_cost[usable], kind="stable")[:most]]
    if np.isfinite(best_cost[bars.end]) and bars.end not in chosen:
        chosen = np.append(chosen, bars.end)  # the way straight to the ending stays open, however short the music must be
    return np.full(chosen.size, k), chosen, best_cost[chosen], leave[best[chosen]], best_to[chosen]


def _beats_of_bar(k: int, chart: Chart, bars: Bars) -> Ints:
    after = bars.first_beat[k + 1] if k + 1 < bars.at.size else chart.beats.size
    return np.arange(max(1, bars.first_beat[k]), min(after, bars.first_beat[k] + chart.beats_per_bar))


def _from_beat(i: int, shift: int, chart: Chart, bars: Bars, joins: Joins) -> tuple[NDArray[np.float64], Ints]:
    """Cost of leaving before beat i for each bar (inf: cannot be), and the beat entered there; both (end + 1,)."""
    place = (int(chart.beat_in_bar[i]) + shift) % chart.beats_per_bar
    after = np.append(bars.first_beat[1:], bars.first_beat[-1] + 1)  # the ending is entered at its downbeat only
    enter = bars.first_beat + place
    whole = (enter < after) & (np.abs(enter - i) >= _LEAST_MOVE_BARS * chart.beats_per_bar)
    enter = np.minimum(enter, chart.beats.size - 1)
    cost = _SEAM_COST + _DIFFERENCE_COST * joins.cost[i, enter] + _GRADE_COST * (1 - joins.percentiles(i, enter) / 100) ** 2
    if shift:
        cost = cost + _SHORT_BAR_COST
    return np.where(whole, cost, np.inf), enter
