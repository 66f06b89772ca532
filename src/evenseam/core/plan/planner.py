"""The planner: holds what a track offers, and answers briefs at once."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.decode import Sound
from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import Mark
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.plan.assemble import assemble
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, GIVE_BEFORE_SHORT_BARS_PCT, USUAL_GIVE_PCT, Brief
from evenseam.core.plan.graph import Bars, Edges, seam_edges, usable_bars
from evenseam.core.plan.joins import Joins, all_joins
from evenseam.core.plan.limits import Limits, limits_of
from evenseam.core.plan.plan import Plan
from evenseam.core.plan.search import Found, Route, Wanted, search
from evenseam.core.timebase import format_clock

_GIVE_MARGIN = 0.0004  # waveform alignment moves cuts by milliseconds after the search; give must still hold then
_KEPT_SHARE = 0.1  # of its cost: a kept seam goes before any that is only as good
LONGEST_TARGET_S = 3 * 3600


class Planner:
    """Plans for one track. Construction is free; what a track offers is weighed at the first brief and kept.

    Parameters: chart: of the track. samples: its sound, float32 (channels, samples) or a memory map of that shape; it
    is only read around seams. joins: what was weighed when the track was listened to; weighed here if there is none.
    marks: spans that every plan keeps or skips, or has no seam in.
    """

    def __init__(self, chart: Chart, samples: Sound, joins: Joins | None = None, marks: Sequence[Mark] = ()) -> None:
        if samples.ndim != 2 or samples.shape[1] != chart.n_samples:
            raise BriefError("Chart and sound are not of the same track.")
        self._chart = chart
        self._samples = samples
        self._weighed = joins
        self._marks = tuple(marks)
        self._edges: dict[tuple[int, bool], Edges] = {}

    @cached_property
    def _joins(self) -> Joins:
        return self._weighed or all_joins(self._chart)

    @cached_property
    def _bars(self) -> Bars:
        return usable_bars(self._chart)

    @cached_property
    def _limits(self) -> Limits:
        return limits_of(self._chart, self._bars.first_beat, self._marks)

    def plan(self, brief: Brief) -> Plan:
        """The best plan for a brief. Raises: NoPlanError with what would be possible instead."""
        return self.alternates(brief, 1)[0]

    def alternates(self, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans for a brief with different seams, best first. Raises: NoPlanError."""
        if brief.target_samples > LONGEST_TARGET_S * self._chart.rate:
            raise BriefError("The longest length that can be asked for is 3 hours.")
        routes = self._routes(brief, count)
        return tuple(assemble(self._chart, self._samples, self._joins, r, brief.target_samples) for r in routes)

    def _routes(self, brief: Brief, count: int) -> tuple[Route, ...]:
        """Search within the usual limits first; what was not asked for may then go further, hold before give."""
        chart = self._chart
        ring_out = chart.ring_out_end_samples - chart.last_hit_samples
        possible: list[int] = []
        for give_pct, hold, short_bars in _attempts(brief):
            wanted = Wanted(brief.target_samples - ring_out, max(0.0, give_pct / 100 - _GIVE_MARGIN))
            found = self._search(wanted, hold, short_bars, count if brief.max_seams is None else 64, brief.kept_seams)
            routes = [r for r in found.routes if brief.max_seams is None or len(r.seams) <= brief.max_seams]
            if routes:
                return tuple(routes[:count])
            possible += [reach + ring_out for reach in found.reachable(wanted)]
        raise _refusal(brief, possible, chart.rate)

    def _search(self, wanted: Wanted, hold: int, short_bars: bool, count: int, kept: tuple[tuple[int, int], ...] = ()) -> Found:
        if (hold, short_bars) not in self._edges:
            self._edges[hold, short_bars] = seam_edges(self._chart, self._bars, self._joins, self._limits, hold, short_bars)
        edges = self._edges[hold, short_bars]
        if kept:
            edges = replace(edges, cost=self._with_kept(edges, kept))
        return search(self._chart, self._bars, self._limits, edges, wanted, min(hold, 2), count)

    def _with_kept(self, edges: Edges, kept: tuple[tuple[int, int], ...]) -> NDArray[np.float32]:
        """The costs of the edges, those of kept seams so low that they are taken wherever the length allows."""
        beats = self._chart.beats
        places = {(_nearest(beats, a), _nearest(beats, b)) for a, b in kept}
        pairs = zip(edges.beat_from.tolist(), edges.beat_to.tolist(), strict=True)
        is_kept = np.fromiter((pair in places for pair in pairs), dtype=bool, count=edges.cost.size)
        return np.where(is_kept, edges.cost * np.float32(_KEPT_SHARE), edges.cost)


def _nearest(beats: NDArray[np.int64], sample: int) -> int:
    """The beat nearest to a sample: alignment moves a seam by far less than half a beat."""
    after = int(np.searchsorted(beats, sample))
    around = [k for k in (after - 1, after) if 0 <= k < beats.size]
    return min(around, key=lambda k: abs(int(beats[k]) - sample))


def _refusal(brief: Brief, possible: list[int], rate: int) -> NoPlanError:
    """What would be possible instead: the nearest shorter and the nearest longer length that can be had."""
    asked = format_clock(brief.target_samples / rate)
    shorter = max((p for p in possible if p < brief.target_samples), default=None)
    longer = min((p for p in possible if p > brief.target_samples), default=None)
    nearest = [p for p in (shorter, longer) if p is not None]
    params = {"possible_samples": nearest, "possible_s": [p / rate for p in nearest]}
    if brief.max_seams is not None:
        return NoPlanError(
            f"{asked} cannot be reached with at most {brief.max_seams} seams. Allow more seams, or another length.", **params
        )
    if longer is not None and shorter is None:
        return NoPlanError(
            f"{asked} is too short to rearrange: with its own opening and ending this track takes at least "
            f"{_rounded_up(longer, rate)}. Ask for that or more, or choose another track.",
            **params,
        )
    words = " and ".join([format_clock(p / rate) if p == shorter else _rounded_up(p, rate) for p in nearest])
    give_pct = brief.give_pct if brief.give_pct is not None else USUAL_GIVE_PCT[-1]
    hint = f" The nearest that can be had: {words}." if words else ""
    return NoPlanError(
        f"{asked} cannot be reached with a give of {give_pct:g} %.{hint} Allow more give, or another length.", **params
    )


def _rounded_up(samples: int, rate: int) -> str:
    """To the next millisecond, so that the length that is named can really be had."""
    return format_clock(Fraction(-(-samples * 1000 // rate), 1000))


def _attempts(brief: Brief) -> Iterator[tuple[float, int, bool]]:
    """Give in per cent, hold in bars, and whether short bars may be used, in the order in which they are tried."""
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    if brief.give_pct is not None:
        steps = [(brief.give_pct, False), (brief.give_pct, True)]
    else:
        usual = [(give, short) for give in USUAL_GIVE_PCT for short in (False, True)]
        steps = [usual[0], (GIVE_BEFORE_SHORT_BARS_PCT, False), *usual[1:]]
    return ((give, hold, short) for give, short in steps for hold in holds)
