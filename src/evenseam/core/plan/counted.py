"""The beats of a plan where they are heard: what is counted by whoever writes, plays or cuts to it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import BriefError
from evenseam.core.plan.model import Plan

_APART_S = 0.05  # nearer beats are one: of two that meet where the music starts anew the one that enters


@dataclass(frozen=True, slots=True)
class Counted:
    """Beats on the output of a plan, in order of time: `at_samples` and `source_samples`, int64 (beats,), and `beat_in_bar`
    (0: a downbeat). `quarters`: how many quarter notes a beat is written as; `rate` in Hz; `length_samples` of the plan.
    """

    rate: int
    length_samples: int
    at_samples: NDArray[np.int64]
    source_samples: NDArray[np.int64]
    beat_in_bar: NDArray[np.int16]
    quarters: float

    def at_s(self) -> NDArray[np.float64]:
        """Seconds from the start of the output."""
        return self.at_samples / self.rate

    def bars(self) -> NDArray[np.intp]:
        """The beats that bars begin with."""
        return np.flatnonzero(self.beat_in_bar == 0)


def counted(plan: Plan, chart: Chart) -> Counted:
    """The beats of a plan. Raises: BriefError for a track in free time, which has none."""
    if chart.free_time:
        raise BriefError("This track is in free time: it has no bars to write down. Give it a tempo on Gather first.")
    at, source, place = [], [], []
    for passage in plan.passages:
        inside = np.flatnonzero((chart.beats >= passage.source_in_samples) & (chart.beats < passage.source_out_samples))
        at.append(np.rint(passage.time_map().out_at(chart.beats[inside])).astype(np.int64))
        source.append(chart.beats[inside])
        place.append(chart.beat_in_bar[inside])
    out, track, beat = np.concatenate(at), np.concatenate(source), np.concatenate(place)
    is_heard = (out >= 0) & (out < plan.target_samples)
    for rest in plan.rests:
        is_heard &= (out < rest.out_in_samples) | (out >= rest.out_out_samples)
    out, track, beat = out[is_heard], track[is_heard], beat[is_heard]
    stays = np.append(np.diff(out) >= _APART_S * plan.rate, True) if out.size else np.zeros(0, dtype=bool)
    if not stays.any():
        raise BriefError("No beat of the track is heard in this fit, so there are no bars to write down.")
    quarters = chart.meter[0] * 4 / chart.meter[1] / chart.beats_per_bar
    return Counted(plan.rate, plan.target_samples, out[stays], track[stays], beat[stays], quarters)
