"""Beats, metre and downbeats: the most likely way through what the ear heard.

The ear says for each moment how likely a beat and a downbeat are. A listener also knows that beats come evenly, that the
speed changes slowly, and that bars have the same number of beats: that is decoded here, all at once, so that the metre
can decide between a tempo and its half or double.
"""

from dataclasses import dataclass
from fractions import Fraction
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen._kernels import best_bars
from evenseam.core.listen.ear import METERS, STEP_HOPS, Hearing

_SLOWEST_BPM, _FASTEST_BPM = 48.0, 220.0
_STIFFNESS = 60.0  # cost of a change of interval by a factor e, in nats
_LARGEST_CHANGE = 0.1
_SLIP_COST, _OTHER_METER_COST = 9.0, 6.0
_FLOOR, _CEILING = -5.0, 4.0
_BEAT_BIAS, _DOWNBEAT_BIAS = 1.5, 1.5
_METERS_KEPT = 2
_METER_WEIGHT = 0.1
_BEAM = 30.0
_WINDOW_S, _OVERLAP_S = 150.0, 40.0
_COMPOUND_FROM = 0.5

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class BarTrack:
    """`hops`: float64 (beats,); `place`: int64 (beats,), 0 on downbeats; `meter`: as written, (6, 8) has two beats.

    `beat_sure` and `bar_sure`: float32 (beats,), how clearly each beat is one, and each downbeat a downbeat.
    """

    hops: NDArray[np.float64]
    place: NDArray[np.int64]
    meter: tuple[int, int]
    beat_sure: FloatArray
    bar_sure: FloatArray

    @property
    def beats_per_bar(self) -> int:
        """Beats to the bar, as felt: dotted quarters in compound metres."""
        return self.meter[0] // 3 if self.meter[1] == 8 else self.meter[0]

    def from_to(self, first_hop: Fraction, last_hop: Fraction) -> Self:
        """The same beats, and those before and after them up to where music starts and the last hit falls.

        At the edges the ear has heard too little to be sure, but a listener counts on.
        """
        before = _counted_on(self.hops[:2], -1, float(first_hop))
        after = _counted_on(self.hops[-2:], 1, float(last_hop))
        usual = self.beats_per_bar
        place = [
            (self.place[0] - 1 - np.arange(before.size))[::-1] % usual,
            self.place,
            (self.place[-1] + 1 + np.arange(after.size)) % usual,
        ]
        pad = (before.size, after.size)
        hops = np.concatenate([before[::-1], self.hops, after])
        sure = (np.pad(self.beat_sure, pad, mode="edge"), np.pad(self.bar_sure, pad, mode="edge"))
        return type(self)(hops, np.concatenate(place), self.meter, *sure)


def _counted_on(pair: NDArray[np.float64], way: int, limit: float) -> NDArray[np.float64]:
    """Beats on from the outer one of a pair, at their distance, up to a limit (give or take a tenth of a beat)."""
    step = float(pair[1] - pair[0])
    outer = pair[0] if way < 0 else pair[1]
    room = (limit - outer) * way + 0.15 * step
    return outer + way * step * np.arange(1, max(0, int(room // step)) + 1)


def find_bars(heard: Hearing, hops_per_s: float) -> BarTrack | None:
    """Decode beats and bars. Returns None for recordings too short to have any."""
    beat, downbeat = _by_hop(heard.beat), _by_hop(heard.downbeat)
    shortest, longest = int(60 * hops_per_s / _FASTEST_BPM), int(60 * hops_per_s / _SLOWEST_BPM)
    if beat.size <= 4 * longest:
        return None
    meters, bonus = _likely_meters(heard)
    plain = _worth(np.maximum(beat - downbeat, 0.02 * beat), beat, _BEAT_BIAS)
    found = _decode(plain, _worth(downbeat, beat, _DOWNBEAT_BIAS), meters, bonus, (shortest, longest), hops_per_s)
    first_of = np.concatenate([[0], np.cumsum(meters)])
    index = np.searchsorted(first_of, found[:, 2], side="right") - 1
    place = found[:, 2] - first_of[index]
    usual = int(meters[np.bincount(index).argmax()])
    at = found[:, 0]
    return BarTrack(at.astype(np.float64), place, _written(usual, heard, at), _near_peak(beat, at), _near_peak(downbeat, at))


def _likely_meters(heard: Hearing) -> tuple[NDArray[np.int64], FloatArray]:
    """The metres worth trying, three and four always among them, and what a bar of each is worth for its likelihood."""
    mean = heard.meter.mean(axis=0)
    likely = [METERS[k] for k in np.argsort(-mean, kind="stable")[:_METERS_KEPT]]
    meters = np.array(sorted({*likely, 3, 4}), dtype=np.int64)
    return meters, (_METER_WEIGHT * meters * np.log(mean[meters - METERS[0]] + 0.02)).astype(np.float32)


def _written(beats_per_bar: int, heard: Hearing, at: NDArray[np.int64]) -> tuple[int, int]:
    steps = np.clip(at // STEP_HOPS, 0, heard.ternary.size - 1)
    compound = beats_per_bar <= 4 and float(heard.ternary[steps].mean()) > _COMPOUND_FROM
    return (3 * beats_per_bar, 8) if compound else (beats_per_bar, 4)


def _decode(
    beat: FloatArray,
    downbeat: FloatArray,
    meters: NDArray[np.int64],
    bonus: FloatArray,
    intervals: tuple[int, int],
    hops_per_s: float,
) -> NDArray[np.int64]:
    """Rows of hop, interval and state; long recordings in windows, each going on from a beat of the one before."""
    shortest, longest = intervals
    lengths = np.log(np.arange(shortest, longest + 1))
    apart = np.abs(lengths[:, None] - lengths[None, :])
    change = np.where(apart < _LARGEST_CHANGE, _STIFFNESS * apart, np.inf).astype(np.float32)
    first_of = np.concatenate([[0], np.cumsum(meters)]).astype(np.int64)
    window, overlap = int(_WINDOW_S * hops_per_s), int(_OVERLAP_S * hops_per_s)
    rows, begin, start = [], 0, np.array([-1, 0, 0], dtype=np.int64)
    while True:
        end = min(begin + window, beat.size)
        if beat.size - end < overlap:
            end = beat.size
        part = best_bars(
            beat[begin:end], downbeat[begin:end], shortest, longest, change, first_of, bonus,
            np.float32(_SLIP_COST), np.float32(_OTHER_METER_COST), np.float32(_BEAM), start,
        )  # fmt: skip
        part[:, 0] += begin
        if end == beat.size:
            rows.append(part)
            break
        kept = part[part[:, 0] < end - overlap]
        rows.append(kept[:-1])
        begin = int(kept[-1, 0])
        start = np.array([0, kept[-1, 1], kept[-1, 2]], dtype=np.int64)
    return np.concatenate(rows)


def _by_hop(values: FloatArray) -> FloatArray:
    """From steps to hops, halfway values between."""
    steps = np.arange(values.size * STEP_HOPS, dtype=np.float32) / STEP_HOPS
    return np.interp(steps, np.arange(values.size), values).astype(np.float32)


def _worth(event: FloatArray, beat: FloatArray, bias: float) -> FloatArray:
    """Log odds of an event against no beat at all, kept within bounds so that one moment cannot decide a piece.

    The bias stands for how many more moments without a beat there are than the ear was taught to expect.
    """
    odds = np.log(np.maximum(event, 1e-4) / np.maximum(1 - beat, 1e-2)) + bias
    return np.clip(odds, _FLOOR, _CEILING).astype(np.float32)


def _near_peak(values: FloatArray, at: NDArray[np.int64]) -> FloatArray:
    """Highest value within three hops of each place."""
    padded = np.pad(values, 3)
    return np.max([padded[at + k] for k in range(7)], axis=0)
