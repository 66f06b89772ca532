"""Blend: seams bring the music near its hits, and give lands it on them.

Between two hits the music is rearranged freely, and its speed is changed for that stretch alone. Where there are no hits a
blend is a rearrangement.
"""

from dataclasses import replace

import numpy as np

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, Aim, Brief
from evenseam.core.plan.methods.attempts import Attempt
from evenseam.core.plan.methods.past_hits import PastHits
from evenseam.core.plan.methods.rearrange import Rearrange
from evenseam.core.plan.methods.stretch import Stretch
from evenseam.core.plan.methods.trim import Trim
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.aims import MET_BY_THE_MUSIC, MISSED_COST

_USUAL_GIVE_PCT, _MOST_GIVE_PCT = 1.5, 6.0  # when no give is asked for: first, and where hits would be missed
MOST_WITHOUT_BARS_PCT = 6.0


class Blend:
    """Finds the cheapest way past the hits; see `_freedoms` for what goes further where one of them would be missed."""

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
        missed = MISSED_COST[last_hit.weight] if last_hit is not None else 0.0
        if last_hit is not None and (not found or (_missed(found[0]) and found[0].score > missed)):
            without = self._found(offer, brief, count, None)
            if without and (not found or without[0].score + missed < found[0].score):
                found = without
        return found or _or_trimmed(offer, brief, count)

    def _found(self, offer: Offer, brief: Brief, count: int, last_hit: Aim | None) -> tuple[Plan, ...]:
        """The plans of the first attempt that misses no more than the one that leaves nothing out; none if that has none."""
        search, usual, freedoms = PastHits(offer, brief, count, last_hit), _usual(brief), _freedoms(brief)
        if not search.missed(usual, 0.0) and (made := search.plans(usual)) and not _missed(made[0]):
            return made
        enough = 0.0 if not search.missed(freedoms[0], 0.0) else search.missed(freedoms[-1])
        if np.isinf(enough):
            return ()
        free = next(attempt for attempt in freedoms if search.missed(attempt, enough) <= enough)
        found = []
        for attempt in (usual, replace(free, hold=usual.hold), free, freedoms[-1]):
            if search.missed(attempt, enough) <= enough and (made := search.plans(attempt)):
                if _missed(made[0]) <= enough:  # else cutting lost a hit
                    return made
                found.append(made)
        return min(found, key=lambda plans: _missed(plans[0]), default=())


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


def _usual(brief: Brief) -> Attempt:
    """What is tried first. Short bars may be bought from the start: a hit that is met is worth more than one of them."""
    give = _USUAL_GIVE_PCT if brief.give_pct is None else brief.give_pct
    return Attempt(give, DEFAULT_HOLD_BARS if brief.hold_bars is None else brief.hold_bars, True)


def _freedoms(brief: Brief) -> list[Attempt]:
    """What is tried while hits are missed: all the give and as little hold as may be, each where nothing was asked for; then
    another opening too, then a beat that breaks off to start anew on a hit. What can be had at all is a way of the last."""
    give = _MOST_GIVE_PCT if brief.give_pct is None else brief.give_pct
    freedoms = [(False, False), (True, False), (True, True)] if brief.opening is None else [(False, False), (False, True)]
    return [Attempt(give, 1 if brief.hold_bars is None else brief.hold_bars, True, *free) for free in freedoms]
