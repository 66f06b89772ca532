"""The track as a graph for the path search: nodes are downbeats, edges are seams from bar to bar.

An edge leaves bar k before its beat p, goes on at beat q of bar l, and then plays on until `hold` bars have passed. With
p == q the seam keeps the place in the bar; otherwise it leaves a short bar, which costs.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.search.joins import Allowed, Joins, Moves
from evenseam.core.plan.search.limits import Limits

_EDGES_PER_BAR, _SHORT_EDGES_PER_BAR = 32, 10
_SHORT_BAR_COST = 6.0
_BARS_AT_ONCE = 512

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
    """Seams by the bar they leave, cheapest first: those of bar k are `first[k]` to `first[k + 1]` in the parallel arrays."""

    first: Ints
    to: Ints
    samples: Ints
    cost: NDArray[np.float32]
    beat_from: Ints
    beat_to: Ints

    @property
    def bar_from(self) -> Ints:
        """The bar that each leaves."""
        return np.repeat(np.arange(self.first.size - 1), np.diff(self.first))

    def __getitem__(self, which: NDArray[np.bool_]) -> "Edges":
        first = np.searchsorted(self.bar_from[which], np.arange(self.first.size)).astype(np.int64)
        return Edges(first, *(getattr(self, name)[which] for name in ("to", "samples", "cost", "beat_from", "beat_to")))

    def at_cost(self, cost: NDArray[np.float32]) -> "Edges":
        """The same at other costs, those of each bar in their new order."""
        order = np.lexsort((cost, self.bar_from))
        to, samples, beat_from, beat_to = (a[order] for a in (self.to, self.samples, self.beat_from, self.beat_to))
        return Edges(self.first, to, samples, cost[order], beat_from, beat_to)


@dataclass(frozen=True, slots=True, eq=False)
class _Seams:
    """Possible seams, one entry each in parallel arrays: beats left and entered, their bars, cost."""

    beat_from: Ints
    beat_to: Ints
    bar_from: Ints
    bar_to: Ints
    cost: NDArray[np.float32]

    def __getitem__(self, which: NDArray) -> "_Seams":
        return _Seams(*(getattr(self, name)[which] for name in ("beat_from", "beat_to", "bar_from", "bar_to", "cost")))


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


def allowed_joins(chart: Chart, bars: Bars, limits: Limits) -> Allowed:
    """The joins that marks leave: none into a beat that is blocked or a bar that is skipped, none past what is kept."""
    bar_of = _bar_of(chart, bars)
    skipped = (bar_of >= 0) & limits.skipped[bar_of]
    kept = np.append(limits.kept, bars.end)
    last_bar = kept[np.minimum(np.searchsorted(limits.kept, np.maximum(bar_of, 0)), limits.kept.size)]
    after = np.append(bars.first_beat[1:], chart.beats.size)
    return Allowed(~limits.blocked & ~skipped, after[last_bar] - 1)


def seam_edges(chart: Chart, bars: Bars, joins: Joins, moves: Moves, limits: Limits, hold: int, short_bars: bool) -> Edges:
    """The most promising seams out of every bar, each landing after `hold` bars (or at the ending, if that is nearer).

    For every bar that could follow, the best place to leave and to enter is chosen first, so that the choice is between
    lengths and not between neighbouring beats. The way straight to the ending stays open, however short the music must be.
    """
    hold = max(1, hold)
    bar_of = _bar_of(chart, bars)
    width = (moves.to.shape[1] - moves.n_whole) // max(1, chart.beats_per_bar - 1)
    parts = []
    for shift in range(chart.beats_per_bar if short_bars else 1):
        columns = slice(moves.n_whole + (shift - 1) * width, moves.n_whole + shift * width) if shift else slice(moves.n_whole)
        most = _SHORT_EDGES_PER_BAR if shift else _EDGES_PER_BAR
        for beats in _some_bars_at_a_time(chart, bars):
            seams = _usable(_seams_of(moves, beats, columns, bar_of), chart, bars, limits, hold)
            parts.append(_cheapest(seams, most, _SHORT_BAR_COST if shift else 0.0))
        parts.append(_usable(_to_ending(shift, chart, bars, joins, bar_of), chart, bars, limits, hold))
    return _edges(parts, chart, bars, hold)


def edges_of_pairs(chart: Chart, bars: Bars, joins: Joins, limits: Limits, pairs: list[tuple[int, int]], hold: int) -> Edges:
    """Seams between these beats only, each landing after `hold` bars."""
    beat_from, beat_to = (np.array(beats, dtype=np.int64) for beats in zip(*pairs, strict=True))
    bar_of = _bar_of(chart, bars)
    seams = _Seams(beat_from, beat_to, bar_of[beat_from], bar_of[beat_to], joins.costs(beat_from, beat_to))
    ending = _usable(_to_ending(0, chart, bars, joins, bar_of), chart, bars, limits, hold)
    return _edges([_usable(seams, chart, bars, limits, hold), ending], chart, bars, hold)


def _some_bars_at_a_time(chart: Chart, bars: Bars) -> Iterator[slice]:
    """The beats in stretches of whole bars: what hours of music offer is not laid out all at once."""
    edges = [0, *bars.first_beat[_BARS_AT_ONCE::_BARS_AT_ONCE].tolist(), chart.beats.size]
    return (slice(a, b) for a, b in pairwise(edges))


def _bar_of(chart: Chart, bars: Bars) -> Ints:
    """The usable bar each beat lies in, -1 for those before and after them all; (beats,)."""
    bar = np.searchsorted(bars.first_beat, np.arange(chart.beats.size), side="right") - 1
    # The bar of the ending has no other beats: it is entered at its downbeat only.
    return np.where((bar == bars.end) & (np.arange(chart.beats.size) > bars.first_beat[-1]), -1, bar)


def _seams_of(moves: Moves, beats: slice, columns: slice, bar_of: Ints) -> _Seams:
    """The moves out of some beats, of one kind."""
    to = moves.to[beats, columns]
    row, column = np.nonzero(to >= 0)
    beat_from, beat_to = row + beats.start, to[row, column].astype(np.int64)
    return _Seams(beat_from, beat_to, bar_of[beat_from], bar_of[beat_to], moves.cost[beats, columns][row, column])


def _to_ending(shift: int, chart: Chart, bars: Bars, joins: Joins, bar_of: Ints) -> _Seams:
    """Seams from every bar to the downbeat of the ending, leaving at the place that `shift` asks for."""
    leave_place = -shift % chart.beats_per_bar
    beat_from = np.flatnonzero((chart.beat_in_bar == leave_place) & (bar_of >= 0))
    end_beat = int(bars.first_beat[bars.end])
    beat_from = beat_from[np.abs(beat_from - end_beat) >= chart.beats_per_bar]
    beat_to = np.full(beat_from.size, end_beat)
    cost = joins.costs(beat_from, beat_to) + np.float32(_SHORT_BAR_COST if shift else 0)
    return _Seams(beat_from, beat_to, bar_of[beat_from], bar_of[beat_to], cost)


def _usable(seams: _Seams, chart: Chart, bars: Bars, limits: Limits, hold: int) -> _Seams:
    """Those that leave and enter where it is allowed, and may then play `hold` bars."""
    n_bars = bars.at.size
    seams = seams[(seams.bar_from >= 0) & (seams.bar_to >= 0) & (seams.beat_from >= 1)]
    inside = seams.beat_from - bars.first_beat[seams.bar_from] < chart.beats_per_bar
    free = ~limits.blocked[seams.beat_from] & ~limits.blocked[seams.beat_to]
    # A bar that is skipped is left as it begins.
    leaves = ~limits.skipped[seams.bar_from] | (seams.beat_from == bars.first_beat[seams.bar_from])
    may_follow = np.stack([limits.reachable(k, hold) for k in range(n_bars)]) if limits.any else np.ones((1, 1), dtype=bool)
    follows = may_follow[seams.bar_from, seams.bar_to] if limits.any else True
    return seams[inside & free & leaves & follows]


def _cheapest(seams: _Seams, most: int, more: float) -> _Seams:
    """The cheapest seam from each bar to each other one, and of those the `most` cheapest out of every bar, at `more` cost."""
    seams = seams[np.lexsort((seams.beat_from, seams.cost, seams.bar_to, seams.bar_from))]
    is_best = np.ones(seams.cost.size, dtype=bool)
    is_best[1:] = (np.diff(seams.bar_from) != 0) | (np.diff(seams.bar_to) != 0)
    seams = seams[is_best]
    seams = seams[np.lexsort((seams.bar_to, seams.cost, seams.bar_from))]
    rank = np.arange(seams.cost.size) - np.searchsorted(seams.bar_from, seams.bar_from)
    return replace(seams[rank < most], cost=seams.cost[rank < most] + np.float32(more))


def _edges(parts: list[_Seams], chart: Chart, bars: Bars, hold: int) -> Edges:
    columns = ("beat_from", "beat_to", "bar_from", "bar_to", "cost")
    seams = _Seams(*(np.concatenate([getattr(p, name) for p in parts]) for name in columns))
    pairs = seams.beat_from * chart.beats.size + seams.beat_to
    seams = seams[np.unique(pairs, return_index=True)[1]]
    seams = seams[np.lexsort((seams.bar_to, seams.cost, seams.bar_from))]
    to = np.minimum(seams.bar_to + hold, bars.end)
    before = chart.beats[seams.beat_from] - bars.at[seams.bar_from]
    samples = before + (bars.at[to] - chart.beats[seams.beat_to])
    first = np.searchsorted(seams.bar_from, np.arange(bars.at.size + 1)).astype(np.int64)
    return Edges(first, to, samples, seams.cost.astype(np.float32), seams.beat_from, seams.beat_to)
