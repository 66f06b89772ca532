"""Beats: the most likely way through what the ear heard, told that beats come evenly and that the speed changes slowly."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.beats._kernels_beats import best_beats
from evenseam.core.listen.beats.ear import STEP_HOPS, Hearing
from evenseam.core.listen.beats.pulse import has_slipped, held_to, steady_pulse

_SLOWEST_BPM, _FASTEST_BPM = 48.0, 220.0
_USUAL_BPM, _TEMPO_WEIGHT = 118.0, 0.6  # every beat pays for the square of its octaves from the usual tempo
_STIFFNESS = 200.0  # cost of a change of interval by a factor e, in nats
_YIELD, _YIELDED_STIFFNESS = 3.0, 50.0  # but where a player lingers, much more is hardly dearer than a little
_LARGEST_CHANGE, _LARGEST_YIELDED = 0.08, 0.12
_FLOOR, _CEILING = -5.0, 4.0
_BEAT_BIAS = 2.5  # stands for how many more moments without a beat there are than with one
_OPENING_WEIGHT, _OPENING_HOPS = 8.0, 4.0
_BEAM = 30.0
_AS_TAPPED, _TAP_HOPS, _TAP_WEIGHT = 1.08, 15, 6.0  # a hand is off by up to some 50 ms, and its tempo by a few per cent
_QUICKER, _SLOWER = 0.8, 1.35  # intervals between beats that are held to a pulse: it may slow down at the end
_HEARD_FROM, _SURELY_FROM, _ON_PULSE = 0.3, 0.6, 0.06  # off the pulse by more (in beats), a beat has to be surely heard
_WINDOW_S, _OVERLAP_S = 150.0, 40.0

FloatArray = NDArray[np.float32]


def decode_beats(heard: Hearing, hops_per_s: float, opening_hop: float) -> NDArray[np.int64] | None:
    """Hops of the beats as the ear hears them, before they are counted. Returns None for recordings too short to have any."""
    beat = by_hop(heard.beat)
    shortest, longest = int(60 * hops_per_s / _FASTEST_BPM), int(60 * hops_per_s / _SLOWEST_BPM)
    if beat.size <= 4 * longest:
        return None
    worth = _worth(beat) + opening_worth(np.arange(beat.size), opening_hop)
    at = _decode(worth.astype(np.float32), (shortest, longest), hops_per_s, _USUAL_BPM)
    pulse = steady_pulse(worth, at)
    if pulse is None:
        return at
    if has_slipped(pulse, at):
        near = int(_QUICKER * pulse.period), int(_SLOWER * pulse.period)
        at = _decode(held_to(pulse, worth).astype(np.float32), near, hops_per_s, 60 * hops_per_s / pulse.period, is_steady=True)
    likely = near_peak(beat, at)
    return _evened(at, (likely >= _SURELY_FROM) | ((likely >= _HEARD_FROM) & (pulse.off(at) <= _ON_PULSE)))


def _evened(at: NDArray[np.int64], is_heard: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Beats of a steady pulse, those that are not heard laid evenly between those that are.

    What little speaks for another place between two beats that are heard leads astray.
    """
    index, heard = np.arange(at.size), np.flatnonzero(is_heard)
    if heard.size < 2:
        return at
    inside = (index > heard[0]) & (index < heard[-1]) & ~is_heard
    return np.where(inside, np.rint(np.interp(index, heard, at[heard])).astype(np.int64), at)


def follow_tempo(beat: FloatArray, hops_per_s: float, bpm: float, tapped_hops: NDArray[np.float64]) -> NDArray[np.int64]:
    """Hops of the most likely beats at about a tempo, through or near the places that were tapped.

    `beat`: float32 (steps,), as in Hearing. Returns none for recordings shorter than four beats.
    """
    likely = by_hop(beat)
    shortest, longest = int(60 * hops_per_s / (bpm * _AS_TAPPED)), -int(-60 * hops_per_s * _AS_TAPPED // bpm)
    if likely.size <= 4 * longest:
        return np.empty(0, dtype=np.int64)
    worth = _worth(likely)
    for hop in tapped_hops:
        near = slice(max(0, int(hop) - _TAP_HOPS), int(hop) + _TAP_HOPS + 1)
        worth[near] += _TAP_WEIGHT * np.exp(-0.5 * np.square((np.arange(worth.size)[near] - hop) / (_TAP_HOPS / 3)))
    return _decode(worth.astype(np.float32), (shortest, longest), hops_per_s, bpm)


def opening_worth(hops: NDArray[np.int64], opening_hop: float) -> NDArray[np.float64]:
    """What it is worth to have a beat, and beat one, where the music starts: most music begins on beat one."""
    return _OPENING_WEIGHT * np.exp(-0.5 * ((hops - opening_hop) / _OPENING_HOPS) ** 2)


def by_hop(values: FloatArray) -> FloatArray:
    """From steps to hops, halfway values between."""
    steps = np.arange(values.size * STEP_HOPS, dtype=np.float32) / STEP_HOPS
    return np.interp(steps, np.arange(values.size), values).astype(np.float32)


def near_peak(values: FloatArray, at: NDArray[np.int64]) -> FloatArray:
    """Highest value within three hops of each place."""
    padded = np.pad(values, 3)
    return np.max([padded[at + k] for k in range(7)], axis=0)


def near_steps(values: FloatArray, hops: NDArray[np.float64] | NDArray[np.int64], reach: int) -> FloatArray:
    """Highest of the ear's steps within `reach` steps (20 ms each) of each hop."""
    steps = np.clip(np.rint(hops / STEP_HOPS).astype(int), 0, values.size - 1)
    return np.max([values[np.clip(steps + k, 0, values.size - 1)] for k in range(-reach, reach + 1)], axis=0).astype(np.float32)


def _worth(beat: FloatArray) -> NDArray[np.float64]:
    """What a beat at every hop is worth against none, in nats."""
    odds = np.log(np.maximum(beat, 1e-4) / np.maximum(1 - beat, 1e-2)) + _BEAT_BIAS
    return np.asarray(np.clip(odds, _FLOOR, _CEILING), dtype=np.float64)


def _decode(
    worth: FloatArray, intervals: tuple[int, int], hops_per_s: float, usual_bpm: float, is_steady: bool = False
) -> NDArray[np.int64]:
    """Hops of the beats; long recordings in windows, each going on from a beat of the one before.

    `is_steady`: nobody lingers.
    """
    shortest, longest = intervals
    lengths = np.log(np.arange(shortest, longest + 1))
    apart = np.abs(lengths[:, None] - lengths[None, :])
    unusual = _TEMPO_WEIGHT * np.square(np.log2(60 * hops_per_s / np.arange(shortest, longest + 1) / usual_bpm))
    stiff, largest = _STIFFNESS * apart, _LARGEST_CHANGE
    if not is_steady:
        stiff, largest = np.minimum(stiff, _YIELD + _YIELDED_STIFFNESS * apart), _LARGEST_YIELDED
    change = np.where(apart < largest, stiff + unusual[:, None], np.inf).astype(np.float32)
    window, overlap = int(_WINDOW_S * hops_per_s), int(_OVERLAP_S * hops_per_s)
    rows, begin, start = [], 0, np.array([-1, 0], dtype=np.int64)
    while True:
        end = min(begin + window, worth.size)
        if worth.size - end < overlap:
            end = worth.size
        part = best_beats(worth[begin:end], shortest, longest, change, np.float32(_BEAM), start)
        part[:, 0] += begin
        if end == worth.size:
            rows.append(part)
            break
        kept = part[part[:, 0] < end - overlap]
        rows.append(kept[:-1])
        begin = int(kept[-1, 0])
        start = np.array([0, kept[-1, 1]], dtype=np.int64)
    return np.concatenate(rows)[:, 0]
