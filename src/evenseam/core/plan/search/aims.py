"""From what is to be hit to the places of a track that may sound there."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Aim
from evenseam.core.plan.search.graph import Bars
from evenseam.core.plan.search.limits import Limits
from evenseam.core.plan.search.stages import MUST_COST, Waypoint
from evenseam.core.plan.tail import MARGIN_S

MISSED_COST = {"must": MUST_COST, "should": 12.0, "nice": 4.0}
_ON_THE_BEAT = ("downbeat", "beat", "section")
_ON_THE_WAY = (*_ON_THE_BEAT, "silence")
MET_BY_THE_MUSIC = (*_ON_THE_WAY, "last_hit")


def places_of(kind: str, chart: Chart) -> NDArray[np.bool_]:
    """Which beats of a track do for a kind of hit, (beats,)."""
    if kind == "beat":
        return np.ones(chart.beats.size, dtype=bool)
    on = chart.beat_in_bar == 0
    if kind == "section":
        starts = np.array([s.start_samples for s in chart.sections[1:]], dtype=np.int64)
        near = np.abs(chart.beats[:, None] - starts).min(axis=1, initial=chart.n_samples)
        on &= near <= round(0.05 * chart.rate)
    return on


def places_for(aim: Aim, chart: Chart) -> NDArray[np.bool_]:
    """Which beats of a track may meet an aim, (beats,): those of its kind but for those that are kept off it, or the one that
    is pinned to it.
    """
    if aim.pinned_samples is not None and chart.beats.size:
        return np.arange(chart.beats.size) == _nearest(chart, aim.pinned_samples)
    does = places_of(aim.kind, chart)
    for samples in aim.forbidden_samples if chart.beats.size else ():
        does[_nearest(chart, samples)] = False
    return does


def _nearest(chart: Chart, samples: int) -> int:
    """The beat nearest to a place: a chart that was corrected may have it a little beside."""
    return int(np.abs(chart.beats - samples).argmin())


def waypoints_of(aims: Sequence[Aim], chart: Chart, bars: Bars, limits: Limits) -> tuple[Waypoint, ...]:
    """The aims that are met on the way to the ending, in the order in which they come."""
    bar = np.searchsorted(bars.first_beat, np.arange(chart.beats.size), side="right") - 1
    usable = (bar >= 0) & (chart.beats <= bars.at[bars.end])
    usable[usable] &= ~limits.skipped[bar[usable]]
    into = chart.beats - bars.at[np.maximum(bar, 0)]
    found = []
    last_hit = int(np.abs(chart.beats - chart.last_hit_samples).argmin())
    for aim in on_the_way(aims):
        does = places_for(aim, chart) if aim.kind in _ON_THE_BEAT else np.zeros(chart.beats.size, dtype=bool)
        at = np.flatnonzero(usable & does)
        tolerance = max(0, aim.tolerance_samples - round(MARGIN_S * chart.rate))
        missed, may_end = MISSED_COST[aim.weight], bool(does[last_hit])
        found.append(Waypoint(aim.at_samples, tolerance, bar[at], into[at], missed, may_end, aim.until_samples))
    return tuple(found)


def on_the_way(aims: Sequence[Aim]) -> list[Aim]:
    """The aims that the music meets before its last hit, in the order in which they come: beats, and silences between them."""
    return sorted((aim for aim in aims if aim.kind in _ON_THE_WAY), key=lambda aim: aim.at_samples)
