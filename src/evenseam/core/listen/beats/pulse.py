"""A steady pulse, held on to: music that keeps its tempo throughout does not slip by a part of a beat on the way.

Where drums stay away or play between the beats, the most likely beats can go over to the third or the half of the beat
and back. Each stretch is in tempo by itself; only the whole piece shows that they cannot all be right.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

_RUN_BEATS = 12
_SAME_TEMPO, _STEADY_SHARE = 0.012, 0.72  # so many runs of beats agree on the tempo to so much
_SEARCH_HOPS, _NEAR_HOPS = 0.12, 3
_OFF_PULSE, _SLIPPED_SHARE = 0.12, 0.02
_ON_BEATS = 4
_OFF_COST = 12.0  # more than from the surest beat to the surest rest
_MOST_BEATS = 4000  # hours of music do not keep one pulse, and looking for it would take long

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Pulse:
    """A beat every `period` hops, one of them at hop `origin`; it holds from hop `start` to `end`."""

    period: float
    origin: int
    start: int
    end: int

    def off(self, hops: NDArray[np.int64]) -> FloatArray:
        """How far each hop is from the nearest beat of the pulse, in beats, 0 to 0.5."""
        beats = (hops - self.origin) / self.period
        return np.abs(beats - np.rint(beats))


def steady_pulse(worth: FloatArray, at: NDArray[np.int64]) -> Pulse | None:
    """The one pulse of a piece whose runs of beats agree on the tempo; None when it has no such tempo, or is too short.

    `worth`: float64 (hops,), of a beat at each hop; `at`: the beats as decoded. A slowing down at the end is left out.
    """
    if not 3 * _RUN_BEATS <= at.size <= _MOST_BEATS:
        return None
    periods = (at[_RUN_BEATS:] - at[:-_RUN_BEATS]) / _RUN_BEATS
    alike = _agreeing(periods, float(np.median(periods)))
    if not alike.any():
        return None
    usual = float(np.median(periods[alike]))
    agreeing = _agreeing(periods, usual)
    if agreeing.mean() < _STEADY_SHARE:
        return None
    runs = np.flatnonzero(agreeing)
    first, last = int(runs[0]), int(runs[-1]) + _RUN_BEATS
    period, origin = _best_comb(worth, usual)
    whole = Pulse(period, origin, 0, worth.size)
    # Music that begins or ends on the pulse keeps it there, whatever slipped in between.
    is_on = whole.off(at) <= _OFF_PULSE
    start = 0 if first == 0 or is_on[:_ON_BEATS].all() else int(at[first])
    end = worth.size if last == at.size - 1 or is_on[-_ON_BEATS:].all() else int(at[last])
    return Pulse(period, origin, start, end)


def has_slipped(pulse: Pulse, at: NDArray[np.int64]) -> bool:
    """Whether some of the beats are a part of a beat off the pulse."""
    held = at[(at >= pulse.start) & (at < pulse.end)]
    return bool((pulse.off(held) > _OFF_PULSE).mean() >= _SLIPPED_SHARE)


def held_to(pulse: Pulse, worth: FloatArray) -> FloatArray:
    """The worth of beats when those off the pulse cost something, as far as the pulse holds."""
    hops = np.arange(worth.size)
    away = (pulse.off(hops) > _OFF_PULSE) & (hops >= pulse.start) & (hops < pulse.end)
    return worth - _OFF_COST * away


def _agreeing(periods: FloatArray, usual: float) -> NDArray[np.bool_]:
    return np.abs(periods / usual - 1) < _SAME_TEMPO


def _best_comb(worth: FloatArray, usual: float) -> tuple[float, int]:
    """Period and first beat of the evenly spaced beats that are worth most, the period near `usual`, to a hop at the end."""
    near = maximum_filter1d(worth, _NEAR_HOPS)
    phases = np.arange(int(np.ceil(usual + _SEARCH_HOPS)))
    best = (-np.inf, usual, 0)
    for period in usual + np.arange(-_SEARCH_HOPS, _SEARCH_HOPS, usual / worth.size):
        teeth = np.rint(np.arange((worth.size - phases.size) // period) * period).astype(np.int64)
        total = near[teeth[:, None] + phases].sum(axis=0)
        if (top := float(total.max())) > best[0]:
            best = (top, float(period), int(total.argmax()))
    return best[1:]
