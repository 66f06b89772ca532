"""Loop: the opening, some whole bars again and again, and the ending."""

from dataclasses import replace

import numpy as np

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import FURTHER_GIVES_PCT, Brief, Listening
from evenseam.core.plan.methods.attempts import Attempt
from evenseam.core.plan.methods.rearrange import graph_for, keeps, laid_out, longest_of, openings_of, wanted_for
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.refusals import refusal
from evenseam.core.plan.search.graph import Edges, edges_of_pairs
from evenseam.core.plan.search.labels import Route, Wanted, Ways
from evenseam.core.plan.search.openings import Openings
from evenseam.core.plan.tail import target_for

_NEARLY_AS_GOOD = 0.97  # of the best loop: where music comes round often, it varies between such
_SPARE = 3
_FIRST = -10  # and below, in the place of the beat that a way opens on: with which first round
_LOOKED_AT = 60  # lengths on either side: those before may be had without going round


class Loop:
    """Goes round the loops that were heard; where they are equally good it may vary between them."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans with different seams, best first. Raises: NoPlanError with what would be possible instead."""
        if brief.order == "forward":
            raise NoPlanError("A loop goes back to what was heard. Let the order be free, or rearrange the track forward.")
        if brief.max_seams == 0:
            raise NoPlanError("Going round takes a seam. Allow one, or have the track trimmed.")
        chart = offer.chart
        gives = (0.0, *FURTHER_GIVES_PCT) if brief.give_pct is None else (brief.give_pct,)
        wanted = [wanted_for(chart, brief, give_pct) for give_pct in gives]
        ways = _Rounds(offer, brief, wanted[-1])
        for one in wanted:
            routes = ways.routes(one, count + _SPARE)
            plans = [p for r in routes if r.seams and keeps(p := laid_out(offer, r, brief), brief.give_pct)]
            if plans:
                return tuple(plans[:count])
        nearest = (_nearest_that_loops(ways, wanted[-1], side) for side in (0, 1))
        possible = [target_for(chart, brief, played) for played in nearest if played is not None]
        raise refusal(brief, possible, chart.rate)


def _nearest_that_loops(ways: "_Rounds", wanted: Wanted, side: int) -> int | None:
    """Samples of the nearest music that goes round at least once, shorter (0) or longer (1), at the track's own speed."""
    for _ in range(_LOOKED_AT):
        if (played := ways.nearest(wanted)[side]) is None:
            return None
        wanted = replace(wanted, samples=played, give=0.0)
        if found := [route.played_samples for route in ways.routes(wanted, 1 + _SPARE) if route.seams]:
            return min(found, key=lambda samples: abs(samples - played))
    return None


class _Rounds:
    """The ways that go round loops. Before a fade they begin with a first round: a way to the same bar at the same time that
    goes round nothing would be cheaper, and one alone is kept of such."""

    def __init__(self, offer: Offer, brief: Brief, widest: Wanted) -> None:
        edges, hold = _loops(offer, brief.listening)
        openings, most_seams = openings_of(offer, brief, Attempt(0.0, hold, short_bars=False)), brief.max_seams
        self._first: list[tuple[int, tuple[int, int]]] = []  # what a way opens on, and its first seam
        if brief.landing == "fade":
            openings, self._first = _once_round(offer, edges, openings)
            most_seams = None if most_seams is None else most_seams - 1
        graph = graph_for(offer, brief, edges, openings)
        self._ways = Ways(graph, longest_of(graph, widest), most_seams)

    def routes(self, wanted: Wanted, count: int) -> tuple[Route, ...]:
        """As of `Ways`, the first round among their seams."""
        return tuple(self._whole(route) for route in self._ways.routes(wanted, count))

    def nearest(self, wanted: Wanted) -> tuple[int | None, int | None]:
        """As of `Ways`."""
        return self._ways.nearest(wanted)

    def _whole(self, route: Route) -> Route:
        if not self._first:
            return route
        opens_on, seam = self._first[_FIRST - route.opens_on]
        return replace(route, opens_on=opens_on, seams=(seam, *route.seams))


def _once_round(offer: Offer, edges: Edges, openings: Openings) -> tuple[Openings, list[tuple[int, tuple[int, int]]]]:
    """Openings that go on until the end of a loop and play it again, numbered down from `_FIRST` in the place of their beat.

    Raises: NoPlanError where nothing goes round after them.
    """
    bars, bar_from = offer.bars, edges.bar_from
    pairs = [
        (o, e)
        for o in range(openings.to.size)
        for e in range(edges.to.size)
        if bar_from[e] >= openings.to[o] and edges.to[e] < bars.end
    ]
    if not pairs:
        raise NoPlanError("After the bars that go round there is no room for a fade. Land on the own ending, or rearrange.")
    o, e = (np.array(numbers, dtype=np.int64) for numbers in zip(*pairs, strict=True))
    played = bars.at[bar_from[e]] - openings.entered[o] + edges.samples[e]
    first = [(int(openings.beat[a]), (int(edges.beat_from[b]), int(edges.beat_to[b]))) for a, b in pairs]
    bar = np.searchsorted(bars.first_beat, edges.beat_to[e], side="right") - 1
    cost = (openings.cost[o] + edges.cost[e]).astype(np.float32)
    return Openings(_FIRST - np.arange(o.size), bar, bars.at[edges.to[e]] - played, edges.to[e], cost), first


def _loops(offer: Offer, listening: Listening) -> tuple[Edges, int]:
    """Seams from the ends of loops back to their starts, and the bars that play on after each. Raises: NoPlanError."""
    chart, bars = offer.chart, offer.bars
    starts = {int(at): int(beat) for at, beat in zip(bars.at, bars.first_beat, strict=True)}
    found = [
        (loop.score, loop.bars, starts[loop.end_samples], starts[loop.start_samples])
        for loop in chart.loops
        if loop.start_samples in starts and loop.end_samples in starts
    ]
    if not found:
        raise NoPlanError("No bars of this track go round by themselves. Rearrange it instead.")
    best = max(found)
    pairs = [(end, start) for score, _, end, start in found if score >= _NEARLY_AS_GOOD * best[0]]
    hold = min(n for score, n, *_ in found if score >= _NEARLY_AS_GOOD * best[0])
    return offer.heard_as(edges_of_pairs(chart, bars, offer.joins, offer.limits, pairs, hold), listening), hold
