"""Trim: one stretch of the track as it is, from a place where music may begin to one where it may stop, under a fade."""

from dataclasses import dataclass

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import Brief, LandingAsked
from evenseam.core.plan.laying.hits_met import hits_met
from evenseam.core.plan.model import Fade, Landing, Opening, OpeningKind, Passage, Pin, Plan
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.alternates import different
from evenseam.core.plan.search.labels import Route
from evenseam.core.plan.search.openings import LEAD_S, OPENING_COST, opening_fade
from evenseam.core.plan.tail import stops_of
from evenseam.core.timebase import format_clock

_NO_ENDING_COST = 6.0  # the piece has an ending, and a fade is none
_NO_STOP_COST = 4.0  # no bar line in reach for a fade to begin on
SHORTEST_S = 4.0
_SHORTEST_FADE_S, _LONGEST_FADE_S = 0.8, 6.0
_FADE_OUT_S = 0.010  # so that a tail that is cut, or its hiss, does not tick


@dataclass(frozen=True, slots=True)
class _Cut:
    """A stretch of the track: where it starts, how it opens, and where its fade begins."""

    start_samples: int
    kind: OpeningKind
    fade_samples: int
    cost: float
    seams: tuple[tuple[int, int], ...]
    played_samples: int


class Trim:
    """Finds where to begin so that the length ends soon after a phrase does."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans that begin elsewhere, best first. Raises: NoPlanError where the track is too short for it."""
        chart, target = offer.chart, brief.target_samples
        starts = [(start, kind) for start, kind in _starts(chart) if brief.opening in (None, kind)]
        if not starts:
            raise NoPlanError(f"This track has no {brief.opening} to open with. Ask for its own opening.")
        room = chart.ring_out_end_samples - min(start for start, _ in starts)
        if target < SHORTEST_S * chart.rate:
            raise NoPlanError(
                f"Less than {SHORTEST_S:g} s of a track is no music. Ask for more.",
                possible_samples=[round(SHORTEST_S * chart.rate)],
                possible_s=[SHORTEST_S],
            )
        if target > room:
            raise NoPlanError(
                f"There is only {format_clock(room / chart.rate)} of this track to trim. Lengthen it by another method.",
                possible_samples=[room],
                possible_s=[room / chart.rate],
            )
        cuts = [
            _cut(chart, start, kind, target, brief.landing)
            for start, kind in starts
            if start + target <= chart.n_samples and offer.allows(start, start + target)
        ]
        if not cuts:
            raise NoPlanError(
                "No stretch of this length keeps what is marked to be kept and skips what is to be skipped. "
                "Rearrange it, or change the marks."
            )
        return tuple(_plan(chart, cut, brief) for cut in different(cuts, count))


def _starts(chart: Chart) -> list[tuple[int, OpeningKind]]:
    """Where music may begin: as it does, at a section, on any downbeat."""
    sections = {s.start_samples for s in chart.sections[1:]}
    lead = round(LEAD_S * chart.rate)
    found: dict[int, OpeningKind] = {int(b) - lead: "bar" for b in chart.downbeats[1:] if b > chart.music_start_samples + lead}
    found |= {s - lead: "section" for s in sections if s > chart.music_start_samples + lead}
    return [(chart.music_start_samples, "own"), *found.items()]


def _cut(chart: Chart, start: int, kind: OpeningKind, target: int, landing: LandingAsked) -> _Cut:
    """The best stop near the end of a stretch: the last place in reach at which a phrase ends."""
    end = start + target
    if landing != "fade" and abs(end - chart.ring_out_end_samples) <= _SHORTEST_FADE_S * chart.rate:
        return _Cut(start, kind, 0, OPENING_COST[kind], ((start, start),), target)
    stops, costs = stops_of(chart)
    reach = (end - stops >= _SHORTEST_FADE_S * chart.rate) & (end - stops <= _LONGEST_FADE_S * chart.rate) & (stops > start)
    if not reach.any():
        fade = min(round(_LONGEST_FADE_S * chart.rate), target // 2)
        cost = OPENING_COST[kind] + _NO_ENDING_COST + _NO_STOP_COST
        return _Cut(start, kind, fade, cost, ((start, start),), target)
    best = int(np.flatnonzero(reach)[np.argmin(costs[reach])])
    cost = OPENING_COST[kind] + _NO_ENDING_COST + float(costs[best])
    return _Cut(start, kind, end - int(stops[best]), cost, ((start, start),), target)


def _plan(chart: Chart, cut: _Cut, brief: Brief) -> Plan:
    passage = Passage((Pin(cut.start_samples, 0), Pin(cut.start_samples + brief.target_samples, brief.target_samples)))
    has_ending = cut.fade_samples == 0
    return Plan(
        method=brief.method,
        rate=chart.rate,
        target_samples=brief.target_samples,
        passages=(passage,),
        seams=(),
        score=cut.cost,
        hits=hits_met(chart, brief.aims, (passage,), (), Route((), cut.cost, brief.target_samples)),
        opening=Opening(cut.kind),
        landing=Landing("ring_out", chart.last_hit_samples - cut.start_samples) if has_ending else Landing("fade"),
        fade_in=opening_fade(chart, cut.kind),
        fade_out=Fade(round(_FADE_OUT_S * chart.rate)) if has_ending else Fade(cut.fade_samples, "cosine"),
    )
