"""The planner: holds what a track offers, and answers briefs at once."""

from collections.abc import Sequence

from evenseam.core.audio.decode import Sound
from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import BriefError
from evenseam.core.plan.brief import LONGEST_TARGET_S, Brief
from evenseam.core.plan.methods import METHODS
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.joins import Joins


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

    def alternates(self, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans for a brief with different seams, best first. Raises: BriefError, NoPlanError."""
        if brief.target_samples > LONGEST_TARGET_S * self._offer.chart.rate:
            raise BriefError("The longest length that can be asked for is 3 hours.")
        if brief.method not in METHODS:
            raise BriefError(f"The method '{brief.method}' is not there; there are: {', '.join(METHODS)}.")
        return METHODS[brief.method].plans(self._offer, brief, count)
