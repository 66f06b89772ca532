"""Ways past the hits of one brief: looked for within the limits of one attempt after another, and laid out as plans.

An attempt that leaves more open tells of those that leave less: its best way is theirs where it makes no use of the rest,
and theirs costs no less than its own. So most attempts need no search, or a short one.
"""

from dataclasses import replace

import numpy as np

from evenseam.core.plan.brief import Aim, Brief
from evenseam.core.plan.methods.attempts import Attempt, keeps_within
from evenseam.core.plan.methods.rearrange import (
    ANEW_COST,
    MARGIN_COST,
    edges_of,
    graph_for,
    keeps,
    laid_out,
    openings_of,
    starts_anew,
    wanted_for,
)
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.aims import MISSED_COST, on_the_way, waypoints_of
from evenseam.core.plan.search.labels import Route, Wanted
from evenseam.core.plan.search.openings import OWN, Graph, openings_inside
from evenseam.core.plan.search.room import FEW_SEAMS
from evenseam.core.plan.search.stages import EndAnew
from evenseam.core.plan.search.waypoints import Bounds, Passing
from evenseam.core.plan.tail import Tail

# Dearer ways from one hit to the next are not looked at: the music rather passes one over, or starts anew on a must. A must is
# looked for further where no longer hold than necessary is left to give up, the end where the music has to start anew near it,
# and all where so few seams may be taken that each has to be a certain one.
_BOUND, _FEW_BOUND, _HELD_BOUND, _MUST_BOUND, _END_BOUND, _ANEW_END_BOUND = 8.0, 12.0, 12.0, 22.0, 22.0, 60.0
_SHORT_BOUND, _LONG_S = 16.0, 600.0  # what is shorter than ten minutes is looked at further, in no more time
_SPARE = 3  # further routes that are laid out when cutting took one past its give


class PastHits:
    """What each attempt at one brief misses, and its plans. `last_hit`: the aim of the last hit, where there is one."""

    def __init__(self, offer: Offer, brief: Brief, count: int, last_hit: Aim | None) -> None:
        self._offer, self._brief, self._count, self._last_hit = offer, brief, count, last_hit
        self._waypoints = waypoints_of(brief.aims, offer.chart, offer.bars, offer.limits)
        self._weights = [aim.weight for aim in on_the_way(brief.aims)]
        self._least_missed = min((w.missed_cost for w in self._waypoints), default=np.inf)
        self._nice_cost = sum(MISSED_COST[weight] for weight in self._weights if weight == "nice")
        self._passings: dict[tuple[Attempt, int | None], Passing] = {}
        self._known: dict[tuple[Attempt, int, bool], tuple[Route, ...]] = {}
        self._plans: dict[Route, Plan] = {}

    def missed(self, attempt: Attempt, may_miss: float = np.inf) -> float:
        """What the hits that an attempt misses cost, if no more than `may_miss`, else infinite.

        One that is only nice does not count: it is worth neither more give nor less hold.
        """
        found = self._routes(attempt, 1, may_miss)
        met = {m.number for m in found[0].met} if found else set()
        costs = (MISSED_COST[weight] for k, weight in enumerate(self._weights) if k not in met and weight != "nice")
        return sum(costs) if found else np.inf

    def plans(self, attempt: Attempt) -> tuple[Plan, ...]:
        """The plans of its ways, laid out, that are within the give that was asked for; best first.

        Cutting moves the music by milliseconds, so that a hit that a way meets may just be missed: then other ways are tried.
        """
        made = self._laid_out(attempt, self._count)
        if len(made) < self._count or any(lost for lost, _ in made):
            made = self._laid_out(attempt, self._count + _SPARE)
        made.sort(key=lambda of: of[0] + of[1].score)
        return tuple(plan for _, plan in made[: self._count])

    def _laid_out(self, attempt: Attempt, count: int) -> list[tuple[float, Plan]]:
        """Plans of the cheapest ways, and what the hits cost that each of them lost."""
        made = ((route, self._plan(route)) for route in self._routes(attempt, count))
        return [(self._lost(route, plan), plan) for route, plan in made if keeps(plan, self._brief.give_pct)]

    def _plan(self, route: Route) -> Plan:
        """The plan of a way, laid out once, whichever attempts it is found by."""
        if route not in self._plans:
            self._plans[route] = laid_out(self._offer, route, self._brief, self._last_hit)
        return self._plans[route]

    def _lost(self, route: Route, plan: Plan) -> float:
        """What the hits cost that a way meets and its plan does not."""
        met = {(self._waypoints[m.number].at_samples, self._weights[m.number]) for m in route.met}
        return sum(MISSED_COST[h.weight] for h in plan.hits if not h.is_kept and (h.asked_samples, h.weight) in met)

    def _routes(self, attempt: Attempt, count: int, may_miss: float = np.inf) -> tuple[Route, ...]:
        may_miss += self._nice_cost
        everything = may_miss >= self._least_missed
        for known in (self._known.get((attempt, count, True)), self._known.get((attempt, count, False))):
            if known or (known is not None and not everything):
                return known  # what meets all hits is the same whatever else might be missed
        found = self._known_within(attempt) if count == 1 and everything else ()
        self._known[attempt, count, everything] = found or self._search(attempt, count, may_miss)
        return self._known[attempt, count, everything]

    def _known_within(self, attempt: Attempt) -> tuple[Route, ...]:
        """The best way of an attempt that leaves more open, where it has made no use of that: none is better here."""
        freer = (routes for (other, count, _), routes in self._known.items() if count == 1 and other.leaves_open(attempt))
        return next((routes for routes in freer if routes and self._is_within(routes[0], attempt)), ())

    def _most_cost(self, attempt: Attempt, count: int) -> float:
        """What the best way of an attempt costs at most: no more than that of one which leaves less open."""
        known = (routes[0].cost for (other, _, _), routes in self._known.items() if routes and attempt.leaves_open(other))
        return min(known, default=np.inf) + MARGIN_COST if count == 1 else np.inf

    def _is_within(self, route: Route, attempt: Attempt) -> bool:
        """Whether a way takes no opening and no start anew that an attempt has not, and is long enough between its seams."""
        if (route.opens_on != OWN and not attempt.other_openings) or (route.anew and not attempt.may_start_anew):
            return False
        return keeps_within(self._offer, route, attempt)

    def _search(self, attempt: Attempt, count: int, may_miss: float) -> tuple[Route, ...]:
        most_seams = self._brief.max_seams
        passing = self._known_passing(attempt, most_seams)
        if not passing.may_last(_wanted(self._offer, self._brief, attempt, self._last_hit)):
            return ()
        # To count many seams takes several times as long, and they may be few enough.
        if count == 1 and most_seams is not None and most_seams > FEW_SEAMS and not passing.seams_are_short:
            free = self._within_seams(None, attempt, count, may_miss)
            if not free or len(free[0].seams) <= most_seams:
                return free
        return self._within_seams(most_seams, attempt, count, may_miss)

    def _within_seams(self, most_seams: int | None, attempt: Attempt, count: int, may_miss: float) -> tuple[Route, ...]:
        passing = self._known_passing(attempt, most_seams)
        wanted = _wanted(self._offer, self._brief, attempt, self._last_hit)
        must = _MUST_BOUND if attempt.hold == (self._brief.hold_bars or 1) else _HELD_BOUND
        to_end = _ANEW_END_BOUND if attempt.may_start_anew else max(must, _END_BOUND)
        bound = _FEW_BOUND if most_seams is not None and most_seams <= FEW_SEAMS else _BOUND
        bound = max(bound, min(_SHORT_BOUND, _BOUND * _LONG_S * self._offer.chart.rate / self._brief.target_samples))
        bounds = Bounds(bound, max(must, bound), to_end, self._most_cost(attempt, count))
        return passing.routes(wanted, count, bounds, may_miss)

    def _known_passing(self, attempt: Attempt, most_seams: int | None) -> Passing:
        if (attempt, most_seams) not in self._passings:
            self._passings[attempt, most_seams] = self._passing(attempt, most_seams)
        return self._passings[attempt, most_seams]

    def _passing(self, attempt: Attempt, most_seams: int | None) -> Passing:
        offer, brief = self._offer, self._brief
        anew, ending = starts_anew(offer, brief, attempt), _ends_anew(offer, brief, attempt, self._last_hit)
        has_rests = any(waypoint.until_samples is not None for waypoint in self._waypoints)
        returns = (
            openings_inside(offer.chart, offer.bars, offer.limits, attempt.hold, sections_only=False) if has_rests else None
        )

        def ahead() -> Ahead:
            jumps = tuple(openings for openings in (anew, returns) if openings is not None)
            return Ahead.of(self._graph(attempt), jumps, np.inf if ending is None else ending.cost)

        key = replace(attempt, give_pct=0.0), has_rests, _asked_of_the_track(brief)
        known, lasts = offer.ahead(key, ahead), _wanted(offer, brief, attempt, self._last_hit).samples
        return Passing(known, self._waypoints, lasts, most_seams, anew, returns, ending, brief.order == "forward")

    def _graph(self, attempt: Attempt) -> Graph:
        offer, brief = self._offer, self._brief
        return graph_for(offer, brief, edges_of(offer, brief, attempt), openings_of(offer, brief, attempt))


def _asked_of_the_track(brief: Brief) -> Brief:
    """What of a brief decides which ways there are, and what they cost."""
    target = brief.target_samples if brief.landing == "fade" else 1
    return replace(brief, target_samples=target, give_pct=None, hold_bars=None, max_seams=None, aims=())


def _wanted(offer: Offer, brief: Brief, attempt: Attempt, last_hit: Aim | None) -> Wanted:
    wanted = wanted_for(offer.chart, brief, attempt.give_pct)
    if last_hit is None:
        return wanted
    near = last_hit.tolerance_samples
    return replace(wanted, samples=last_hit.at_samples, tail=Tail(near, near, near).with_margin(offer.chart.rate))


def _ends_anew(offer: Offer, brief: Brief, attempt: Attempt, last_hit: Aim | None) -> EndAnew | None:
    """Straight into the last hit, where an attempt allows that."""
    if not attempt.may_start_anew or brief.landing == "fade":
        return None
    beats, at = offer.chart.beats, offer.chart.last_hit_samples
    beat = int(np.abs(beats - at).argmin())
    is_aimed = last_hit is not None
    return EndAnew(at if is_aimed else int(beats[beat]), beat, ANEW_COST, is_aimed)
