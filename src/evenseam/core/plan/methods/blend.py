"""Blend: seams bring the music near its hits, and give lands it on them.

Between two hits the music is rearranged freely, and its speed is changed for that stretch alone. Where there are no hits a
blend is a rearrangement.
"""

from dataclasses import replace

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, Aim, Brief
from evenseam.core.plan.landing import Tail
from evenseam.core.plan.methods.rearrange import GIVE_MARGIN, Attempt, Rearrange, edges_of, keeps, laid_out, opened_of
from evenseam.core.plan.methods.stretch import Stretch
from evenseam.core.plan.methods.trim import Trim
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.aims import MET_BY_THE_MUSIC, MISSED_COST, waypoints_of
from evenseam.core.plan.search.labels import Wanted
from evenseam.core.plan.search.waypoints import MOST_BOUND, Passing

_GIVES_PCT = (1.5, 3.0, 6.0)  # tried in this order when no give is asked for
MOST_WITHOUT_BARS_PCT = 6.0
_USUAL_BOUND = 10.0  # dearer ways from one hit to the next are looked at only where cheaper ones miss something
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
        last_hit = next((aim for aim in reversed(brief.aims) if aim.kind == "last_hit"), None)
        found = self._found(offer, brief, count, last_hit)
        if last_hit is not None and (not found or _missed(found[0])):
            without = self._found(offer, brief, count, None)
            missed = MISSED_COST[last_hit.weight]
            if without and (not found or without[0].score + missed < found[0].score):
                found = without
        return found or _or_trimmed(offer, brief, count)

    def _found(self, offer: Offer, brief: Brief, count: int, last_hit: Aim | None) -> tuple[Plan, ...]:
        """The plans of the first attempt that misses no more than the one that leaves nothing out."""
        waypoints = waypoints_of(brief.aims, offer.chart, offer.bars, offer.limits)
        *attempts, freest = _attempts(brief)

        def plans(attempt: Attempt, bound: float) -> tuple[Plan, ...]:
            edges, opened = edges_of(offer, brief, attempt), opened_of(offer, attempt)
            steps = offer.limits.steps(offer.bars.steps)
            passing = Passing(offer.chart.beats, offer.bars, steps, edges, opened, waypoints, brief.max_seams)
            routes = passing.routes(_wanted(offer, brief, attempt, last_hit), count + _SPARE, bound)
            made = (laid_out(offer, route, brief, last_hit) for route in routes)
            return tuple(plan for plan in made if keeps(plan, brief.give_pct))[:count]

        bound = _USUAL_BOUND
        least = plans(freest, bound)
        if not least or _missed(least[0]):
            bound = MOST_BOUND
            least = plans(freest, bound)
        for attempt in attempts:
            found = plans(attempt, bound)
            if found and (not least or _missed(found[0]) <= _missed(least[0])):
                return found
        return least


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
    """What the hits that a plan misses cost; one that is only nice is worth neither more give nor less hold."""
    return sum(MISSED_COST[hit.weight] for hit in plan.hits if not hit.is_kept and hit.weight != "nice")


def _wanted(offer: Offer, brief: Brief, attempt: Attempt, last_hit: Aim | None) -> Wanted:
    chart = offer.chart
    give = max(0.0, attempt.give_pct / 100 - GIVE_MARGIN)
    if last_hit is not None:
        near = last_hit.tolerance_samples
        return Wanted(last_hit.at_samples, give, Tail(near, near, near).with_margin(chart.rate))
    ring_out = chart.ring_out_end_samples - chart.last_hit_samples
    return Wanted(brief.target_samples - ring_out, give, Tail.of(chart, brief).with_margin(chart.rate))


def _attempts(brief: Brief) -> list[Attempt]:
    """What is tried in turn while hits are missed: less hold, and more give where none was asked for.

    Short bars may be bought from the start: a hit that is met is worth more than one of them. Whatever can be had is a way of
    the last attempt, which leaves nothing out.
    """
    gives = _GIVES_PCT if brief.give_pct is None else (brief.give_pct,)
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    return [Attempt(give, hold, short_bars=True) for give in gives for hold in holds]
