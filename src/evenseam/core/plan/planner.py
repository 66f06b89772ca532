"""The planner: holds what a track offers, and answers briefs at once."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from evenseam.core.audio.sound import Sound
from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.plan.brief import LONGEST_TARGET_S, Brief, MethodName
from evenseam.core.plan.judging.apart import apart
from evenseam.core.plan.judging.changes import Change, changes_for
from evenseam.core.plan.judging.costs import Costs, costs_of
from evenseam.core.plan.judging.forecast import Forecast, forecast_of
from evenseam.core.plan.methods import METHODS
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.aims import MISSED_COST
from evenseam.core.plan.search.joins import Joins

_LOOKED_AT, _MOST_LOOKED_AT = 6, 48  # plans for each alternate that is asked for
_FAR_ENOUGH = 0.25  # of the time something else is heard: further away is not better than cheaper


@dataclass(frozen=True, slots=True)
class Tried:
    """What one method makes of a brief: a plan and what it costs the listener, or why there is none."""

    method: MethodName
    plan: Plan | None
    costs: Costs | None
    problem: NoPlanError | None


def _cost_with_hits(plan: Plan) -> float:
    """The cost of a plan, with that of the hits it misses; a blend has them in its score."""
    missed = 0.0 if plan.method == "blend" else sum(MISSED_COST[hit.weight] for hit in plan.hits if not hit.is_kept)
    return plan.score + missed


def _heard_apart(plans: tuple[Plan, ...], count: int) -> tuple[Plan, ...]:
    """The best of some plans, and those that are furthest from all before them in what is heard; in their own order."""
    kept = list(plans[:1])
    others = list(plans[1:])
    while others and len(kept) < count:
        best = max(others, key=lambda plan: min(_FAR_ENOUGH, *(apart(plan, other) for other in kept)))
        others.remove(best)
        kept.append(best)
    return tuple(sorted(kept, key=plans.index))


class Planner:
    """Plans for one track. Construction is free; what a track offers is weighed at the first brief and kept.

    Parameters: chart: of the track. samples: its sound, float32 (channels, samples) or a memory map of that shape; it
    is only read around seams. joins: what was weighed when the track was listened to; weighed here if there is none.
    marks: spans that every plan keeps or skips, or has no seam in.
    """

    def __init__(self, chart: Chart, samples: Sound, joins: Joins | None = None, marks: Sequence[TrackMark] = ()) -> None:
        self._offer = Offer(chart, samples, joins, marks)

    def plan(self, brief: Brief) -> Plan:
        """The best plan for a brief. Raises: NoPlanError with what would be possible instead."""
        return self.alternates(brief, 1)[0]

    def changes(self, brief: Brief) -> tuple[Change, ...]:
        """The smallest changes of a brief that would have all musts met, or the length; none where they are."""
        return changes_for(brief, self.plan)

    def forecast(self) -> Forecast:
        """How the track would do in any slot."""
        return forecast_of(self._offer)

    def tried(self, brief: Brief) -> tuple[Tried, ...]:
        """What every method makes of a brief, the cheapest first, those that make nothing last. Same plans stand there once.

        Hits that are missed count for every method, whether it looked for them or not.
        """
        found: list[Tried] = []
        for method in METHODS:
            asked = replace(brief, method=method)
            try:
                plan = self.plan(asked)
            except NoPlanError as problem:
                found.append(Tried(method, None, None, problem))
                continue
            if all(other.plan is None or other.plan.passages != plan.passages for other in found):
                found.append(Tried(method, plan, costs_of(plan, self._offer.chart), None))
        return tuple(sorted(found, key=lambda one: _cost_with_hits(one.plan) if one.plan else np.inf))

    def alternates(self, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans for a brief that differ in what is heard, best first. Raises: BriefError, NoPlanError."""
        if brief.target_samples > LONGEST_TARGET_S * self._offer.chart.rate:
            raise BriefError("The longest length that can be asked for is 3 hours.")
        wanted = 1 if count == 1 else min(_MOST_LOOKED_AT, _LOOKED_AT * count)
        return _heard_apart(METHODS[brief.method].plans(self._offer, brief, wanted), count)
