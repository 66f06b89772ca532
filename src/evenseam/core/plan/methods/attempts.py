"""Attempts: within which limits a way is looked for in turn, and whether one that was found keeps to those of another."""

from dataclasses import dataclass

import numpy as np

from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, FURTHER_GIVES_PCT, USUAL_GIVES_PCT, Brief
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.labels import Route
from evenseam.core.plan.search.openings import MOST_OWN_BARS, OWN


@dataclass(frozen=True, slots=True)
class Attempt:
    """Limits within which a way is looked for."""

    give_pct: float
    hold: int
    short_bars: bool
    other_openings: bool = False
    may_start_anew: bool = False

    def leaves_open(self, other: "Attempt") -> bool:
        """Whether it may do all that another may, at the same give."""
        return (
            self != other
            and self.give_pct == other.give_pct
            and self.hold <= other.hold
            and self.short_bars >= other.short_bars
            and self.other_openings >= other.other_openings
            and self.may_start_anew >= other.may_start_anew
        )


def attempts_for(brief: Brief) -> list[Attempt]:
    """What is tried in turn for a length; what was not asked for may go further: hold before give, a little give before
    short bars."""
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    if brief.give_pct is not None:
        steps = [(brief.give_pct, False), (brief.give_pct, True)]
    else:
        further = [(give, short) for give in FURTHER_GIVES_PCT for short in (False, True)]
        steps = list(dict.fromkeys([*((give, False) for give in USUAL_GIVES_PCT), *further]))
    return [Attempt(give, hold, short) for give, short in steps for hold in holds]


def keeps_within(offer: Offer, route: Route, attempt: Attempt) -> bool:
    """Whether a way leaves no short bar where an attempt may not, and plays long enough between its seams."""
    is_short = any(offer.chart.beat_in_bar[left] != offer.chart.beat_in_bar[entered] for left, entered in route.seams)
    if is_short and not attempt.short_bars:
        return False
    opening = min(attempt.hold, MOST_OWN_BARS) if route.opens_on == OWN else attempt.hold
    leaves = [left for left, _ in route.seams] + ([] if route.fades_on is None else [route.fades_on])
    enters = [max(0, route.opens_on), *(entered for _, entered in route.seams)][: len(leaves)]
    bar_left, bar_entered = (np.searchsorted(offer.bars.first_beat, beats, side="right") for beats in (leaves, enters))
    return bool(np.all(bar_left - bar_entered >= [opening, *[attempt.hold] * len(leaves)][: len(leaves)]))
