"""Loop: the opening, some whole bars again and again, and the ending."""

from dataclasses import replace

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import FURTHER_GIVES_PCT, Brief, Listening
from evenseam.core.plan.landing import Tail, after_samples, target_for
from evenseam.core.plan.methods.attempts import Attempt
from evenseam.core.plan.methods.rearrange import GIVE_MARGIN, graph_for, keeps, laid_out, longest_of, openings_of
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.refusals import refusal
from evenseam.core.plan.search.graph import Edges, edges_of_pairs
from evenseam.core.plan.search.labels import Wanted, Ways
from evenseam.core.plan.search.limits import OUT_OF_REACH

_NEARLY_AS_GOOD = 0.97  # of the best loop: where music comes round often, it varies between such
_SPARE = 3
_TO_A_FADE_BARS = 8  # after going round once, before there is a bar line to fade from
_LOOKED_AT = 60  # lengths on either side: those before may be had without going round


class Loop:
    """Goes round the loops that were heard; where they are equally good it may vary between them."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans with different seams, best first. Raises: NoPlanError with what would be possible instead."""
        if brief.order == "forward":
            raise NoPlanError("A loop goes back to what was heard. Let the order be free, or rearrange the track forward.")
        chart = offer.chart
        after = after_samples(chart, brief)
        gives = (0.0, *FURTHER_GIVES_PCT) if brief.give_pct is None else (brief.give_pct,)
        tail = Tail.of(chart, brief).with_margin(chart.rate)
        wanted = [Wanted(brief.target_samples - after, max(0.0, give / 100 - GIVE_MARGIN), tail) for give in gives]
        ways = _ways(offer, brief, wanted[-1])
        for one in wanted:
            routes = ways.routes(one, count + _SPARE)
            plans = [p for r in routes if r.seams and keeps(p := laid_out(offer, r, brief), brief.give_pct)]
            if plans:
                return tuple(plans[:count])
        nearest = (_nearest_that_loops(ways, wanted[-1], side) for side in (0, 1))
        possible = [target_for(chart, brief, played) for played in nearest if played is not None]
        if brief.landing == "fade" and not possible:
            raise NoPlanError("After the bars that go round there is no room for a fade. Land on the own ending, or rearrange.")
        raise refusal(brief, possible, chart.rate)


def _nearest_that_loops(ways: Ways, wanted: Wanted, side: int) -> int | None:
    """Samples of the nearest music that goes round at least once, shorter (0) or longer (1), at the track's own speed."""
    for _ in range(_LOOKED_AT):
        if (played := ways.nearest(wanted)[side]) is None:
            return None
        wanted = replace(wanted, samples=played, give=0.0)
        if found := [route.played_samples for route in ways.routes(wanted, 1 + _SPARE) if route.seams]:
            return min(found, key=lambda samples: abs(samples - played))
    return None


def _ways(offer: Offer, brief: Brief, widest: Wanted) -> Ways:
    edges, hold = _loops(offer, brief.listening)
    graph = graph_for(offer, brief, edges, openings_of(offer, brief, Attempt(0.0, hold, short_bars=False)))
    is_loop = graph.beat_to[graph.seams] >= 0
    once_round = (graph.at[graph.node_from[graph.seams]] + graph.samples[graph.seams])[is_loop].min(initial=OUT_OF_REACH)
    until = once_round + _TO_A_FADE_BARS * graph.usual_step if once_round < OUT_OF_REACH else 0
    return Ways(graph, max(longest_of(graph, widest), int(until)), brief.max_seams)


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
