"""Stretch: the whole track at one speed, its pitch kept. Nothing is cut, so nothing can be heard as a cut."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import MOST_GIVE_PCT, Brief
from evenseam.core.plan.laying.assemble import assemble
from evenseam.core.plan.methods.rearrange import keeps
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.labels import Route, Wanted
from evenseam.core.plan.tail import Ending, Tail, own_speed_from
from evenseam.core.timebase import format_clock


class Stretch:
    """One passage from the opening to the ring-out, at the speed that brings it to length; the tail comes before the speed."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """The one plan there is. Raises: NoPlanError where it would have to go faster or slower than give allows."""
        chart = offer.chart
        if not offer.allows(chart.music_start_samples, chart.ring_out_end_samples):
            raise NoPlanError("Something of this track is marked to be skipped, so all of it cannot be played. Rearrange it.")
        # The ring-out keeps its own speed, and so does the attack of the last hit.
        brief = replace(brief, landing="ring_out")  # all of the track ends as it ends
        own_speed = own_speed_from(chart, Ending.of(chart, brief, None))
        ring_out, played = chart.ring_out_end_samples - own_speed, own_speed - chart.music_start_samples
        most_pct = MOST_GIVE_PCT if brief.give_pct is None else brief.give_pct
        tail = Tail.of(chart, brief)
        wanted = Wanted(brief.target_samples - ring_out, most_pct / 100, tail)
        cost = float(wanted.cost(np.array([played]))[0])
        route = Route((), cost, played)
        plan = assemble(chart, offer.joins, route, (), brief) if wanted.samples > 0 else None
        if plan is None or not keeps(plan, most_pct):
            raise _too_far(chart.rate, played, ring_out, tail, most_pct)
        return (plan,)[:count]


def _too_far(rate: int, played: int, ring_out: int, tail: Tail, most_pct: float) -> NoPlanError:
    """The refusal, with the shortest and the longest that one speed can make of a track."""
    give = Fraction(most_pct) / 100
    shortest = -int(-(played / (1 + give)) // 1) + ring_out - tail.early_samples
    longest = int(played / (1 - give)) + ring_out + tail.silence_samples
    low, high = (format_clock(Fraction(n, rate)) for n in (shortest, longest))
    return NoPlanError(
        f"One speed for all of this track makes {low} to {high} of it with a give of {most_pct:g} %. "
        "Rearrange it, or ask for another length.",
        possible_samples=[shortest, longest],
        possible_s=[shortest / rate, longest / rate],
    )
