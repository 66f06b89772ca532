"""Blend: seams bring the music near its hits, and give lands it on them.

Between two hits the music is rearranged freely, and its speed is changed for that stretch alone. Where there are no hits a
blend is a rearrangement.
"""

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby, islice

import numpy as np

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, Aim, Brief
from evenseam.core.plan.landing import Tail, after_samples
from evenseam.core.plan.methods.rearrange import (
    ANEW_COST,
    GIVE_MARGIN,
    Attempt,
    Rearrange,
    edges_of,
    graph_for,
    keeps,
    laid_out,
    openings_of,
    starts_anew,
)
from evenseam.core.plan.methods.stretch import Stretch
from evenseam.core.plan.methods.trim import Trim
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.aims import MET_BY_THE_MUSIC, MISSED_COST, on_the_way, waypoints_of
from evenseam.core.plan.search.labels import Route, Wanted
from evenseam.core.plan.search.openings import openings_inside
from evenseam.core.plan.search.shape import SHAPE_COST
from evenseam.core.plan.search.stages import EndAnew
from evenseam.core.plan.search.waypoints import Passing

_GIVES_PCT = (1.5, 3.0, 6.0)  # tried in this order when no give is asked for
MOST_WITHOUT_BARS_PCT = 6.0
_BOUND = 22.0  # dearer ways from one hit to the next are not looked at: the music rather starts anew there
_SPARE = 3  # further routes that are laid out when cutting took one past its give


class Blend:
    """Finds the cheapest way past the hits; see `_attempts` for what goes further where one of them would be missed."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans with different seams, best first; hits that no way meets are missed in all of them.

        Raises: NoPlanError when not even the length can be had, with what would be possible instead.
        """
        if not offer.has_bars:
            return _without_bars(offer, brief, count)
        if not any(aim.kind in MET_BY_THE_MUSIC for aim in brief.aims):
            return _or_trimmed(offer, brief, count)
        last_hits = [aim for aim in brief.aims if aim.kind == "last_hit" and brief.landing != "fade"]
        last_hit = last_hits[-1] if last_hits else None
        found = self._found(offer, brief, count, last_hit)
        if last_hit is not None and (not found or _missed(found[0])):
            without = self._found(offer, brief, count, None)
            missed = MISSED_COST[last_hit.weight]
            if without and (not found or without[0].score + missed < found[0].score):
                found = without
        return found or _or_trimmed(offer, brief, count)

    def _found(self, offer: Offer, brief: Brief, count: int, last_hit: Aim | None) -> tuple[Plan, ...]:
        """The plans of the first attempt that misses no more than the one that leaves nothing out."""
        search, groups = _Search(offer, brief, count, last_hit), _attempts(brief)
        first, freest = groups[0][0], groups[-1][-1]
        made = search.plans(first)
        if first == freest or not search.missed(first):
            return made
        enough = search.missed(groups[0][-1])
        if enough:
            enough = search.missed(freest)
        if made and search.missed(first) <= enough:
            return made
        for attempts in groups:
            if better := search.first_of(attempts, enough):
                return better
        return search.plans(freest) or made


class _Search:
    """Ways past the hits of one brief, and plans of them."""

    def __init__(self, offer: Offer, brief: Brief, count: int, last_hit: Aim | None) -> None:
        self._offer, self._brief, self._count, self._last_hit = offer, brief, count, last_hit
        self._waypoints = waypoints_of(brief.aims, offer.chart, offer.bars, offer.limits)
        self._searched: dict[tuple[Attempt, int], tuple[Route, ...]] = {}
        self._weights = [aim.weight for aim in on_the_way(brief.aims)]

    def _routes(self, attempt: Attempt, count: int) -> tuple[Route, ...]:
        """The cheapest ways within the limits of an attempt, or more of them that are known already."""
        known = max((n for done, n in self._searched if done == attempt), default=0)
        if known < count:
            known, self._searched[attempt, count] = count, self._search(attempt, count)
        return self._searched[attempt, known]

    def _search(self, attempt: Attempt, count: int) -> tuple[Route, ...]:
        offer, brief = self._offer, self._brief
        graph = graph_for(offer, brief, edges_of(offer, brief, attempt), openings_of(offer, brief, attempt))
        anew, ending = starts_anew(offer, attempt), _ends_anew(offer, brief, attempt, self._last_hit)
        returns = openings_inside(offer.chart, offer.bars, offer.limits, attempt.hold, sections_only=False)
        passing = Passing(graph, self._waypoints, brief.max_seams, anew, returns, ending, brief.order == "forward")
        wanted = _wanted(offer, brief, attempt, self._last_hit)
        return passing.routes(wanted, count, _BOUND + SHAPE_COST * graph.shape.most_s / 4)

    def missed(self, attempt: Attempt) -> float:
        """What the hits that it misses cost; one that is only nice is worth neither more give nor less hold."""
        found = self._routes(attempt, 1)
        met = {m.number for m in found[0].met} if found else set()
        costs = (MISSED_COST[weight] for k, weight in enumerate(self._weights) if k not in met and weight != "nice")
        return sum(costs) if found else np.inf

    def plans(self, attempt: Attempt) -> tuple[Plan, ...]:
        """The plans of its ways, laid out, that are within the give that was asked for."""
        routes = self._routes(attempt, self._count + (_SPARE if self._brief.give_pct is not None else 0))
        made = (laid_out(self._offer, route, self._brief, self._last_hit) for route in routes)
        return tuple(islice((plan for plan in made if keeps(plan, self._brief.give_pct)), self._count))

    def first_of(self, attempts: Sequence[Attempt], enough: float) -> tuple[Plan, ...]:
        """The plans of the first of some attempts that misses no more than `enough`; the last of each give misses least."""
        if self.missed(attempts[-1]) > enough:
            return ()
        for _, alike in groupby(attempts, key=lambda attempt: attempt.give_pct):
            *others, loosest = alike
            if self.missed(loosest) > enough:
                continue
            for attempt in (*others, loosest):
                if self.missed(attempt) <= enough and (made := self.plans(attempt)):
                    return made
        return ()


def _or_trimmed(offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
    """The length alone, by seams; where it is too short for the track's own opening and ending, a stretch of the track.

    Raises: NoPlanError of the rearranging, which says more.
    """
    try:
        return Rearrange().plans(offer, brief, count)
    except NoPlanError as error:
        possible = error.params.get("possible_samples")
        if not possible or brief.target_samples >= min(possible):
            raise
        try:
            return Trim().plans(offer, brief, count)
        except NoPlanError:
            raise error from None


def _without_bars(offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
    """What can be had of a track in which no bars were heard: a little speed, or a stretch of it. Raises: NoPlanError."""
    slightly = replace(brief, give_pct=MOST_WITHOUT_BARS_PCT if brief.give_pct is None else brief.give_pct)
    for method, asked in ((Stretch(), slightly), (Trim(), brief)):
        try:
            return method.plans(offer, asked, count)
        except NoPlanError as error:
            refused = error
    raise NoPlanError(
        f"No bars were heard in this track to rearrange. {refused.detail} Or correct its beats and bars.", **refused.params
    )


def _missed(plan: Plan) -> float:
    """What the hits that a plan misses cost, without those that are only nice."""
    return sum(MISSED_COST[hit.weight] for hit in plan.hits if not hit.is_kept and hit.weight != "nice")


def _wanted(offer: Offer, brief: Brief, attempt: Attempt, last_hit: Aim | None) -> Wanted:
    chart = offer.chart
    give = max(0.0, attempt.give_pct / 100 - GIVE_MARGIN)
    if last_hit is not None:
        near = last_hit.tolerance_samples
        return Wanted(last_hit.at_samples, give, Tail(near, near, near).with_margin(chart.rate))
    return Wanted(brief.target_samples - after_samples(chart, brief), give, Tail.of(chart, brief).with_margin(chart.rate))


def _ends_anew(offer: Offer, brief: Brief, attempt: Attempt, last_hit: Aim | None) -> EndAnew | None:
    """Straight into the last hit, where an attempt allows that."""
    if not attempt.may_start_anew or brief.landing == "fade":
        return None
    beats, at = offer.chart.beats, offer.chart.last_hit_samples
    beat = int(np.abs(beats - at).argmin())
    is_aimed = last_hit is not None
    return EndAnew(at if is_aimed else int(beats[beat]), beat, ANEW_COST, is_aimed)


def _attempts(brief: Brief) -> list[list[Attempt]]:
    """What is tried in turn while hits are missed: another opening, then a beat that breaks off to start anew on a hit.

    In each of these groups more give where none was asked for, and less hold; what can be had in a group is a way of its last
    attempt. Short bars may be bought from the start: a hit that is met is worth more than one of them.
    """
    gives = _GIVES_PCT if brief.give_pct is None else (brief.give_pct,)
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    freedoms = [(False, False), (True, False), (True, True)] if brief.opening is None else [(False, False), (False, True)]
    return [[Attempt(give, hold, True, *free) for give in gives for hold in holds] for free in freedoms]
