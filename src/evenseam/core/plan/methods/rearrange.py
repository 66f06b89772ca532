"""Rearrange: many passages, joined at seams; what is left over of the length is spread as give."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.assemble import assemble
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, FURTHER_GIVES_PCT, USUAL_GIVES_PCT, Aim, Brief
from evenseam.core.plan.landing import Tail, after_samples
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.refusals import refusal
from evenseam.core.plan.search.endings import with_fades
from evenseam.core.plan.search.graph import Edges
from evenseam.core.plan.search.labels import Route, Wanted, Ways
from evenseam.core.plan.search.limits import check_ending, check_opening
from evenseam.core.plan.search.openings import Graph, Openings, graph_of, on_the_ending, openings_inside, own_opening
from evenseam.core.plan.search.shape import Shape

GIVE_MARGIN = 0.0004  # waveform alignment moves cuts by milliseconds after the search; give must still hold then
_KEPT_SHARE = 0.1  # of its cost: a kept seam goes before any that is only as good
ANEW_COST = 12.0  # of breaking the beat, over what an opening costs there
_HOLD_WORTH = 12.0  # what a longer hold, and no short bar, may cost more than the freest way
MARGIN_COST = 0.01  # what a sum may be off in the search
_SPARE = 4  # further routes that are laid out when cutting took one past its give


@dataclass(frozen=True, slots=True)
class Attempt:
    """Limits within which a way is looked for."""

    give_pct: float
    hold: int
    short_bars: bool
    other_openings: bool = False
    may_start_anew: bool = False


class Rearrange:
    """Finds the cheapest way through the bars, within the usual limits first; see `_attempts` for what goes further when."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans with different seams, best first. Raises: NoPlanError with what would be possible instead."""
        chart = offer.chart
        after = after_samples(chart, brief)
        tail = Tail.of(chart, brief).with_margin(chart.rate)
        attempts = list(_attempts(brief))
        widest = Wanted(brief.target_samples - after, max(a.give_pct for a in attempts) / 100, tail)
        # Every way with a longer hold or without short bars is one of the freest.
        freest = min(attempts, key=lambda a: (a.hold, not a.short_bars))
        ways: dict[tuple[int, bool], Ways] = {}
        possible: list[int] = []
        least_cost, most_cost = 0.0, np.inf
        if brief.give_pct is not None:
            free = ways[freest.hold, freest.short_bars] = _ways(offer, brief, freest, widest)
            if not (cheapest := free.routes(widest, 1)):  # where that has none, no other has
                raise refusal(brief, [reach + after for reach in _reachable(free, widest)], chart.rate)
            least_cost, most_cost = cheapest[0].cost, cheapest[0].cost + _HOLD_WORTH
        for attempt in attempts:
            key = (attempt.hold, attempt.short_bars)
            if key not in ways:
                ways[key] = _ways(offer, brief, attempt, widest)
            wanted = Wanted(brief.target_samples - after, max(0.0, attempt.give_pct / 100 - GIVE_MARGIN), tail)
            best = ways[key].routes(wanted, 1, most_cost, least_cost - MARGIN_COST)
            plans: list[Plan] = []
            for wished in (count, count + _SPARE) if best else ():  # more where cutting took some past their give
                routes = best if wished == 1 else ways[key].routes(wanted, wished, least_cost=least_cost - MARGIN_COST)
                plans = [p for r in routes if keeps(p := laid_out(offer, r, brief), brief.give_pct)]
                if len(plans) >= min(count, len(routes)):
                    break
            if plans:
                return tuple(plans[:count])
            if key == (freest.hold, freest.short_bars):
                possible += [reach + after for reach in _reachable(ways[key], wanted)]
        raise refusal(brief, possible, chart.rate)


def laid_out(offer: Offer, route: Route, brief: Brief, last_hit: Aim | None = None) -> Plan:
    """The plan of a route, cut to the sample, its last hit where that is aimed."""
    anew = {seam.seam: seam for seam in route.anew}
    cuts = [offer.cut_anew(anew[k]) if k in anew else offer.cut(left, entered) for k, (left, entered) in enumerate(route.seams)]
    return assemble(offer.chart, offer.joins, route, cuts, brief, last_hit)


def keeps(plan: Plan, give_pct: float | None) -> bool:
    """Whether a plan is within the give that was asked for: cutting moves seams by milliseconds, which may be too much."""
    return give_pct is None or abs(plan.max_speed_change_pct()) <= give_pct


def edges_of(offer: Offer, brief: Brief, attempt: Attempt) -> Edges:
    """The seams that may be taken, those that are to be kept the cheapest; none that a brief forbids."""
    edges = offer.edges(attempt.hold, attempt.short_bars, brief.listening)
    if brief.order == "forward" or brief.forbidden_seams:
        edges = _allowed(offer, edges, brief)
    if brief.kept_seams:
        is_kept = _among(offer, edges, brief.kept_seams)
        edges = edges.at_cost(np.where(is_kept, edges.cost * np.float32(_KEPT_SHARE), edges.cost))
    return edges


def graph_for(offer: Offer, brief: Brief, edges: Edges, openings: Openings) -> Graph:
    """All that ways go along. Raises: NoPlanError when a skip covers the ending, or there is no room for a fade."""
    chart, bars, limits = offer.chart, offer.bars, offer.limits
    shape = Shape.of(brief.shape, chart, bars)
    if brief.landing == "fade":
        longest = after_samples(chart, brief) + Tail.of(chart, brief).silence_samples
        faded = with_fades(edges, chart, bars, limits, longest)
        return graph_of(chart.beats, bars, faded, openings, 0, limits, fades=True, shape=shape)
    check_ending(limits)
    to_hit = chart.last_hit_samples - int(bars.at[bars.end])
    return graph_of(chart.beats, bars, edges, openings, to_hit, limits, shape=shape)


def openings_of(offer: Offer, brief: Brief, attempt: Attempt) -> Openings:
    """Where ways may begin: as the brief asks, else with the track's own opening, and with others where an attempt has them.

    Raises: NoPlanError when there is no such place.
    """
    chart, bars, hold = offer.chart, offer.bars, attempt.hold
    if brief.opening in ("section", "bar"):
        found = openings_inside(chart, bars, offer.limits, hold, brief.opening == "section")
        if not found.bar.size:
            raise NoPlanError(
                f"No {brief.opening} of this track is free to open with. Ask for its own opening, or change the marks."
            )
        return found
    own = own_opening(chart, bars, hold)
    check_opening(offer.limits, int(own.to[0]))
    if brief.opening == "own" or not attempt.other_openings:
        return own
    return own.and_others(openings_inside(chart, bars, offer.limits, hold, sections_only=False))


def starts_anew(offer: Offer, attempt: Attempt) -> Openings | None:
    """Where the music may start anew on a hit, where an attempt allows that."""
    if not attempt.may_start_anew:
        return None
    found = openings_inside(offer.chart, offer.bars, offer.limits, attempt.hold, sections_only=False)
    found = found.and_others(on_the_ending(offer.bars))
    return replace(found, cost=found.cost + np.float32(ANEW_COST))


def _ways(offer: Offer, brief: Brief, attempt: Attempt, widest: Wanted) -> Ways:
    graph = graph_for(offer, brief, edges_of(offer, brief, attempt), openings_of(offer, brief, attempt))
    return Ways(graph, longest_of(graph, widest), brief.max_seams)


def longest_of(graph: Graph, widest: Wanted) -> int:
    """Past the length wanted and past the shortest there is, so that a refusal can name what is possible."""
    return max(widest.longest_played, int(graph.samples[graph.seams.stop :].max())) + 2 * graph.usual_step


def _reachable(ways: Ways, wanted: Wanted) -> list[int]:
    """The wanted lengths nearest to this one that would have been met."""
    shorter, longer = ways.nearest(wanted)
    lengths = []
    if shorter is not None:
        lengths.append(int((shorter + wanted.tail.silence_samples) / (1 - wanted.give)))
    if longer is not None:
        lengths.append(int(np.ceil((longer - wanted.tail.early_samples) / (1 + wanted.give))))
    return lengths


def _allowed(offer: Offer, edges: Edges, brief: Brief) -> Edges:
    """The edges without the seams that are forbidden, and where the order is kept without those that go back."""
    free = ~_among(offer, edges, brief.forbidden_seams)
    if brief.order == "forward":
        free &= edges.beat_to > edges.beat_from
    return edges[free]


def _among(offer: Offer, edges: Edges, seams: Sequence[tuple[int, int]]) -> NDArray[np.bool_]:
    """Which of the edges are some seams, given as samples of the track; (edges,)."""
    beats = offer.chart.beats
    places = {(_nearest(beats, a), _nearest(beats, b)) for a, b in seams}
    pairs = zip(edges.beat_from.tolist(), edges.beat_to.tolist(), strict=True)
    return np.fromiter((pair in places for pair in pairs), dtype=bool, count=edges.cost.size)


def _nearest(beats: NDArray[np.int64], sample: int) -> int:
    """The beat nearest to a sample: alignment moves a seam by far less than half a beat."""
    after = int(np.searchsorted(beats, sample))
    around = [k for k in (after - 1, after) if 0 <= k < beats.size]
    return min(around, key=lambda k: abs(int(beats[k]) - sample))


def _attempts(brief: Brief) -> Iterator[Attempt]:
    """What is tried in turn; what was not asked for may go further, hold before give, a little give before short bars."""
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    if brief.give_pct is not None:
        steps = [(brief.give_pct, False), (brief.give_pct, True)]
    else:
        further = [(give, short) for give in FURTHER_GIVES_PCT for short in (False, True)]
        steps = list(dict.fromkeys([*((give, False) for give in USUAL_GIVES_PCT), *further]))
    return (Attempt(give, hold, short) for give, short in steps for hold in holds)
