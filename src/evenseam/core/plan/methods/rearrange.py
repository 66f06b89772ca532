"""Rearrange: many passages, joined at seams; what is left over of the length is spread as give."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import Aim, Brief
from evenseam.core.plan.laying.assemble import assemble
from evenseam.core.plan.methods.attempts import Attempt, attempts_for, keeps_within
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.refusals import refusal
from evenseam.core.plan.seams import SeamName
from evenseam.core.plan.search.endings import with_fades
from evenseam.core.plan.search.graph import Edges
from evenseam.core.plan.search.labels import Route, Wanted, Ways
from evenseam.core.plan.search.limits import check_ending, check_opening
from evenseam.core.plan.search.openings import Graph, Openings, graph_of, on_the_ending, openings_inside, own_opening
from evenseam.core.plan.search.shape import Shape
from evenseam.core.plan.tail import Tail, after_samples, target_for

_GIVE_MARGIN = 0.0004  # waveform alignment moves cuts by milliseconds after the search; give must still hold then
_KEPT_SHARE = 0.1  # of its cost: a kept seam goes before any that is only as good
ANEW_COST = 12.0  # of breaking the beat, over what an opening costs there
HOLD_WORTH = 12.0  # what a longer hold, and no short bar, may cost more than the freest way
MARGIN_COST = 0.01  # what a sum may be off in the search
_ROUNDED_PCT = 1e-9  # what a speed may be off by the rounding of its division
_MOVED_S = 0.05  # by which all cuts of a way together rarely move its end more
_SPARE = 4  # further routes that are laid out when cutting took one past its give


class Rearrange:
    """Finds the cheapest way through the bars, within the usual limits first; see `attempts_for` for what goes further when."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans with different seams, best first. Raises: NoPlanError with what would be possible instead."""
        search = OneLength(offer, brief)
        for attempt in search.attempts:
            best = search.best(attempt)
            for wished in (count, count + _SPARE) if best else ():  # more where cutting took some past their give
                routes = best if wished == 1 else search.routes(attempt, wished)
                plans = [p for r in routes if keeps(p := laid_out(offer, r, brief), brief.give_pct)]
                if len(plans) >= min(count, len(routes)):
                    break
            if best and plans:
                return tuple(plans[:count])
        raise search.refusal()


class OneLength:
    """The ways of one length, within the limits of one attempt after another; none is looked for that another tells of."""

    def __init__(self, offer: Offer, brief: Brief) -> None:
        """Raises: NoPlanError where a give was asked for and no attempt has a way within it."""
        self._offer, self._brief = offer, brief
        self.attempts = attempts_for(brief)
        self._ways: dict[tuple[int, bool], Ways] = {}
        self._none: list[Attempt] = []
        most_pct = max(attempt.give_pct for attempt in self.attempts)
        self._widest = replace(wanted_for(offer.chart, brief, most_pct), give=most_pct / 100)
        # Every way with a longer hold or without short bars is one of the freest.
        self._freest = min(self.attempts, key=lambda attempt: (attempt.hold, not attempt.short_bars))
        self._cheapest = None if brief.give_pct is None else self._cheapest_of_all()
        cost = self._cheapest.cost if self._cheapest else 0.0
        self._least_cost, self._most_cost = cost - MARGIN_COST, cost + HOLD_WORTH if self._cheapest else np.inf

    def best(self, attempt: Attempt) -> tuple[Route, ...]:
        """The cheapest way of an attempt, none where there is none."""
        wanted = self._wanted_with(attempt)
        if self._cheapest and wanted.may_last(self._cheapest) and keeps_within(self._offer, self._cheapest, attempt):
            return (self._cheapest,)
        if any(other.leaves_open(attempt) for other in self._none):
            return ()
        if not (found := self._of(attempt).routes(wanted, 1, self._most_cost, self._least_cost)):
            self._none.append(attempt)
            if self._cheapest and attempt.hold > self._freest.hold:
                self.best(replace(attempt, hold=self._freest.hold))  # which tells of those between them
        return found

    def routes(self, attempt: Attempt, count: int) -> tuple[Route, ...]:
        """Up to `count` ways of an attempt, cheapest first."""
        return self._of(attempt).routes(self._wanted_with(attempt), count, least_cost=self._least_cost)

    def refusal(self) -> NoPlanError:
        """That there is no plan, and the lengths that can be had."""
        ways, chart = self._of(self._freest), self._offer.chart
        possible: list[int] = []
        for attempt in self.attempts:
            if (attempt.hold, attempt.short_bars) == (self._freest.hold, self._freest.short_bars):
                reached = _reachable(ways, self._wanted_with(attempt), chart.rate)
                possible += [target_for(chart, self._brief, reach) for reach in reached]
        return refusal(self._brief, possible, chart.rate)

    def _cheapest_of_all(self) -> Route:
        found = self._of(self._freest).routes(self._widest, 1)
        if not found:  # where that has none, no other has
            raise self.refusal()
        return found[0]

    def _of(self, attempt: Attempt) -> Ways:
        offer, brief, key = self._offer, self._brief, (attempt.hold, attempt.short_bars)
        if key not in self._ways:
            graph = graph_for(offer, brief, edges_of(offer, brief, attempt), openings_of(offer, brief, attempt))
            self._ways[key] = Ways(graph, longest_of(graph, self._widest), brief.max_seams)
        return self._ways[key]

    def _wanted_with(self, attempt: Attempt) -> Wanted:
        return wanted_for(self._offer.chart, self._brief, attempt.give_pct)


def wanted_for(chart: Chart, brief: Brief, give_pct: float) -> Wanted:
    """What a brief wants to be played, within some give and the tail, less what cutting may yet move."""
    give = max(0.0, give_pct / 100 - _GIVE_MARGIN)
    return Wanted(brief.target_samples - after_samples(chart, brief), give, Tail.of(chart, brief).with_margin(chart.rate))


def laid_out(offer: Offer, route: Route, brief: Brief, last_hit: Aim | None = None) -> Plan:
    """The plan of a route, cut to the sample, its last hit where that is aimed."""
    anew = {seam.seam: seam for seam in route.anew}
    cuts = [offer.cut_anew(anew[k]) if k in anew else offer.cut(left, entered) for k, (left, entered) in enumerate(route.seams)]
    return assemble(offer.chart, offer.joins, route, cuts, brief, last_hit)


def keeps(plan: Plan, give_pct: float | None) -> bool:
    """Whether a plan is within the give that was asked for: cutting moves seams by milliseconds, which may be too much."""
    return give_pct is None or abs(plan.max_speed_change_pct()) <= give_pct + _ROUNDED_PCT


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


def starts_anew(offer: Offer, brief: Brief, attempt: Attempt) -> Openings | None:
    """Where the music may start anew on a hit, where an attempt allows that; on its ending only where it is to end there."""
    if not attempt.may_start_anew:
        return None
    found = openings_inside(offer.chart, offer.bars, offer.limits, attempt.hold, sections_only=False)
    if brief.landing != "fade":
        found = found.and_others(on_the_ending(offer.bars))
    return replace(found, cost=found.cost + np.float32(ANEW_COST))


def longest_of(graph: Graph, widest: Wanted) -> int:
    """Past the length wanted and past the shortest there is, so that a refusal can name what is possible."""
    return max(widest.longest_played, int(graph.samples[graph.seams.stop :].max())) + 2 * graph.usual_step


def _reachable(ways: Ways, wanted: Wanted, rate: int) -> list[int]:
    """The wanted lengths nearest to this one that would have been met, cuts moving the end by a little."""
    shorter, longer = ways.nearest(wanted)
    lengths = []
    if shorter is not None:
        inside = min(_MOVED_S * rate, wanted.give * shorter / 2)
        lengths.append(int(shorter / (1 - wanted.give) + wanted.tail.silence_samples - inside))
    if longer is not None:
        inside = min(_MOVED_S * rate, wanted.give * longer / 2)
        lengths.append(int(np.ceil(longer / (1 + wanted.give) - wanted.tail.early_samples + inside)))
    return lengths


def _allowed(offer: Offer, edges: Edges, brief: Brief) -> Edges:
    """The edges without the seams that are forbidden, and where the order is kept without those that go back."""
    free = ~_among(offer, edges, brief.forbidden_seams)
    if brief.order == "forward":
        free &= edges.beat_to > edges.beat_from
    return edges[free]


def _among(offer: Offer, edges: Edges, seams: Sequence[SeamName]) -> NDArray[np.bool_]:
    """Which of the edges are some seams; (edges,)."""
    places = {name.places(offer.chart.beats) for name in seams}
    pairs = zip(edges.beat_from.tolist(), edges.beat_to.tolist(), strict=True)
    return np.fromiter((pair in places for pair in pairs), dtype=bool, count=edges.cost.size)
