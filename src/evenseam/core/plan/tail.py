"""How a fit ends: what its tail makes up for before any speed is changed.

A length is first met by the choice of seams. What is then left over is taken from the end of the ring-out, under a fade that
follows its decay, or left to a little silence after it; only what remains after that costs speed.
"""

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Brief

LAST_HIT_LEAD_S = 0.018  # the ring-out's own speed begins just before the last hit, so that its attack stays whole
_UNHEARD_S = 0.020  # so much sooner or later is no choice that anybody hears
MARGIN_S = 0.008  # waveform alignment moves cuts by milliseconds after the search; the tail must still do then
_EARLY_COST, _SILENCE_COST = 0.6, 0.6  # of all that is allowed; less than a seam
_FADE_TO_EARLY = 3.0  # the fade is so many times as long as what it leaves out, to sound like decay
_FADE_OUT_S = 0.010  # so that a ring-out that is cut, or its hiss, does not tick
_ODD_STOP_COST, _ODD_BAR_COST = 2.0, 1.0  # a fade that begins inside a section, or inside a phrase of four bars
_FADE_GIVE = 1 / 3  # of its length: a fade may be so much shorter or longer than was asked for


@dataclass(frozen=True, slots=True)
class Tail:
    """How much sooner the ring-out may end, how much silence may follow it, and how much of either nobody hears; samples.

    Of a fade: how much shorter and how much longer it may be.
    """

    early_samples: int
    silence_samples: int
    unheard_samples: int

    @classmethod
    def of(cls, chart: Chart, brief: Brief) -> Self:
        """The tail of a track, within the limits of a brief."""
        unheard = round(_UNHEARD_S * chart.rate)
        if brief.landing == "fade":
            either_way = round(_FADE_GIVE * after_samples(chart, brief))
            return cls(either_way, either_way, unheard)
        ring_out = chart.ring_out_end_samples - chart.last_hit_samples
        early = min(max(unheard, round(ring_out * brief.early_pct / 100)), max(0, ring_out - unheard))
        return cls(early, max(unheard, round(brief.silence_s * chart.rate)), unheard)

    def with_margin(self, rate: int) -> Self:
        """The same with room for cuts that have still to be aligned."""
        margin = round(MARGIN_S * rate)
        early, silence, unheard = (max(0, n - margin) for n in (self.early_samples, self.silence_samples, self.unheard_samples))
        return type(self)(early, silence, unheard)

    def takes(self, over: NDArray[np.int64]) -> NDArray[np.int64]:
        """Of so many samples too many (below 0: too few), those that the tail makes up for."""
        return np.minimum(np.maximum(over, -self.silence_samples), self.early_samples)

    def cost(self, taken: NDArray[np.int64]) -> NDArray[np.float64]:
        """What that costs the listener."""
        most = np.where(taken > 0, max(1, self.early_samples), max(1, self.silence_samples))
        worst = np.where(taken > 0, _EARLY_COST, _SILENCE_COST)
        return np.where(np.abs(taken) <= self.unheard_samples, 0.0, worst * np.square(taken / most))


@dataclass(frozen=True, slots=True)
class Ending:
    """What a way through a track ends with: `from_samples`, its last hit or where its fade begins, to `end_samples`."""

    from_samples: int
    end_samples: int
    is_fade: bool

    @classmethod
    def of(cls, chart: Chart, brief: Brief, fades_from_samples: int | None) -> Self:
        """The track's own ending, or the fade from a sample of the track."""
        if fades_from_samples is None:
            return cls(chart.last_hit_samples, chart.ring_out_end_samples, is_fade=False)
        return cls(fades_from_samples, fades_from_samples + after_samples(chart, brief), is_fade=True)

    @property
    def n_samples(self) -> int:
        """How long it is."""
        return self.end_samples - self.from_samples


def after_samples(chart: Chart, brief: Brief) -> int:
    """What is heard after the last hit, or after the bar line on which the fade begins, before the tail takes anything."""
    if brief.landing == "fade":
        return min(round(brief.fade_s * chart.rate), brief.target_samples // 2)
    return chart.ring_out_end_samples - chart.last_hit_samples


def target_for(chart: Chart, brief: Brief, played_samples: int) -> int:
    """The length to ask for that has so much played until its last hit, or until its fade, and its tail whole."""
    if brief.landing == "fade":
        return played_samples + min(round(brief.fade_s * chart.rate), played_samples)
    return played_samples + after_samples(chart, brief)


def stops_of(chart: Chart) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Where a fade may begin, in order, and what speaks against it."""
    if chart.free_time or not chart.downbeats.size:
        return chart.beats, _ODD_STOP_COST + 1 - chart.beat_sure.astype(np.float64)
    stops = chart.downbeats
    sections = np.array([s.start_samples for s in chart.sections], dtype=np.int64)
    nearest = np.abs(stops[:, None] - sections).argmin(axis=1)
    bars = np.arange(stops.size)
    begun = np.array([int(np.abs(stops - s).argmin()) for s in sections])
    since = bars - begun[np.maximum(0, np.searchsorted(begun, bars, side="right") - 1)]
    at_section = np.abs(stops - sections[nearest]) <= 0.05 * chart.rate
    return stops, np.where(at_section, 0.0, _ODD_STOP_COST + _ODD_BAR_COST * (since % 4 != 0))


def own_speed_from(chart: Chart, ending: Ending) -> int:
    """The sample of the track from which a fit keeps the track's own speed to its end."""
    return ending.from_samples - round(LAST_HIT_LEAD_S * chart.rate)


def fade_samples(chart: Chart, early_samples: int) -> int:
    """How long the fade is at the end of a ring-out that is ended so much early."""
    ring_out = chart.ring_out_end_samples - early_samples - chart.last_hit_samples
    wanted = max(round(_FADE_OUT_S * chart.rate), round(_FADE_TO_EARLY * early_samples))
    return min(wanted, max(round(_FADE_OUT_S * chart.rate), round(0.8 * ring_out)))
