"""Beats, metre and downbeats: the most likely way through what the ear heard.

The ear says for each moment how likely a beat and a downbeat are. A listener also knows that beats come evenly, that the
speed changes slowly, and that bars have the same number of beats. Beats are decoded first; the metre and beat one are then
decided over the whole piece by all signs together.
"""

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from evenseam.core.listen._kernels import best_bar_places, best_beats
from evenseam.core.listen.accents import bar_signs, beat_signs
from evenseam.core.listen.ear import METERS, STEP_HOPS, Hearing
from evenseam.core.listen.spectra import Spectra

_SLOWEST_BPM, _FASTEST_BPM = 48.0, 220.0
_USUAL_BPM, _TEMPO_WEIGHT = 118.0, 0.6  # every beat pays for the square of its octaves from the usual tempo
_STIFFNESS = 200.0  # cost of a change of interval by a factor e, in nats
_LARGEST_CHANGE = 0.08
_FLOOR, _CEILING = -5.0, 4.0
_BEAT_BIAS = 2.5  # stands for how many more moments without a beat there are than with one
_SIGNS_COUNT, _CUT_BAR_COST = 0.2, 9.0
_OPENING_WEIGHT, _OPENING_HOPS = 8.0, 4.0
_USUAL_METERS, _USUAL_METER_WEIGHT = np.array([0.08, 0.15, 0.64, 0.04, 0.05, 0.04]), 0.03
_SIGN_WEIGHTS = np.array([1.96, 0.0, 0.04, 0.06, 0.68, -0.14, 0.32, -0.50, 0.24, -0.16, -0.33])  # of SIGNS, in that order
_BAR_SIGN_WEIGHTS = np.array([-0.09, 0.14, -0.08, 0.38, -0.01, 0.17, 0.14, -0.04, 0.02, 0.18])  # of BAR_SIGNS
# Two bars repeat as one does: likeness says less of the metre than of where its bars begin, once the metre is clear.
_LIKENESS_FOR_PLACE, _CLEAR_FROM, _CLEAR_CUT_COST = 8.0, 0.9, 14.0
_SIGN_BIAS = -0.6  # the fitted bias, less how rare downbeats are
_BEAM = 30.0
_AS_TAPPED, _TAP_HOPS, _TAP_WEIGHT = 1.08, 15, 6.0  # a hand is off by up to some 50 ms, and its tempo by a few per cent
_WINDOW_S, _OVERLAP_S = 150.0, 40.0
_COMPOUND_WEIGHTS = (0.3, 1.03, 0.3, -3.46, -1.84)  # ear, thirds against halves, first against second third, tempo, bias
_COMPOUND_FROM = -0.4

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

    def from_to(self, first_hop: float, last_hop: float) -> Self:
        """The same beats, and those before and after them up to where music starts and the last hit falls.

        At the edges the ear has heard too little to be sure, but a listener counts on.
        """
        before = _counted_on(self.hops[:2], -1, first_hop)
        after = _counted_on(self.hops[-2:], 1, last_hop)
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
    """Beats on from the outer one of a pair, at their distance, up to a limit (give or take a seventh of a beat)."""
    step = float(pair[1] - pair[0])
    outer = pair[0] if way < 0 else pair[1]
    room = (limit - outer) * way + 0.15 * step
    return outer + way * step * np.arange(1, max(0, int(room // step)) + 1)


def find_bars(spec: Spectra, heard: Hearing, hops_per_s: float, opening_hop: float) -> BarTrack | None:
    """Decode beats and bars; `opening_hop` is where the music starts. Returns None for recordings too short to have any."""
    beat = _by_hop(heard.beat)
    shortest, longest = int(60 * hops_per_s / _FASTEST_BPM), int(60 * hops_per_s / _SLOWEST_BPM)
    if beat.size <= 4 * longest:
        return None
    worth = _worth(beat) + _opening(np.arange(beat.size), opening_hop)
    at = _decode(worth.astype(np.float32), (shortest, longest), hops_per_s, _USUAL_BPM)
    usual, place = _places(spec, heard, at, opening_hop)
    sure = (_near_peak(beat, at), _near_peak(_by_hop(heard.downbeat), at))
    return BarTrack(at.astype(np.float64), place, _written(usual, spec, heard, at, hops_per_s), *sure)


def follow_tempo(beat: FloatArray, hops_per_s: float, bpm: float, tapped_hops: NDArray[np.float64]) -> NDArray[np.int64]:
    """Hops of the most likely beats at about a tempo, through or near the places that were tapped.

    `beat`: float32 (steps,), as in Hearing. Returns none for recordings shorter than four beats.
    """
    likely = _by_hop(beat)
    shortest, longest = int(60 * hops_per_s / (bpm * _AS_TAPPED)), -int(-60 * hops_per_s * _AS_TAPPED // bpm)
    if likely.size <= 4 * longest:
        return np.empty(0, dtype=np.int64)
    worth = _worth(likely)
    for hop in tapped_hops:
        near = slice(max(0, int(hop) - _TAP_HOPS), int(hop) + _TAP_HOPS + 1)
        worth[near] += _TAP_WEIGHT * np.exp(-0.5 * np.square((np.arange(worth.size)[near] - hop) / (_TAP_HOPS / 3)))
    return _decode(worth.astype(np.float32), (shortest, longest), hops_per_s, bpm)


def downbeat_share(heard: Hearing, beat_hops: NDArray[np.float64]) -> FloatArray:
    """Of the likelihood of each beat, how much the ear gives to its being a downbeat; float32 (beats,), 0.02 to 0.98."""
    at = np.clip(np.rint(beat_hops).astype(int), 0, heard.beat.size * STEP_HOPS - 1)
    beat, downbeat = _near_peak(_by_hop(heard.beat), at), _near_peak(_by_hop(heard.downbeat), at)
    return np.clip(downbeat / np.maximum(beat, 0.02), 0.02, 0.98).astype(np.float32)


def _places(spec: Spectra, heard: Hearing, at: NDArray[np.int64], opening_hop: float) -> tuple[int, NDArray[np.int64]]:
    """Beats to the bar, and the place of each beat in its bar: all signs of downbeats together, over the whole piece.

    The signs count for less than the odds they were fitted to: what misleads in one bar does so in the next ones too.
    """
    beats = at.astype(np.float64)
    signs = beat_signs(spec, downbeat_share(heard, beats), beats)
    worth = _SIGNS_COUNT * (signs @ _SIGN_WEIGHTS + _SIGN_BIAS) + _opening(at, opening_hop)
    likeness = _SIGNS_COUNT * np.stack([bar_signs(spec, beats, n) @ _BAR_SIGN_WEIGHTS for n in METERS])
    meters = np.array(METERS, dtype=np.int64)
    bonus = _USUAL_METER_WEIGHT * meters * np.log(_USUAL_METERS)
    index, place = best_bar_places(worth + likeness + bonus[:, None], meters, _CUT_BAR_COST)
    share = np.bincount(index, minlength=meters.size) / index.size
    usual = slice(share.argmax(), share.argmax() + 1)
    if share.max() > _CLEAR_FROM:
        _, place = best_bar_places(worth + _LIKENESS_FOR_PLACE * likeness[usual], meters[usual], _CLEAR_CUT_COST)
    return int(meters[usual][0]), place


def _written(beats_per_bar: int, spec: Spectra, heard: Hearing, at: NDArray[np.int64], hops_per_s: float) -> tuple[int, int]:
    """The metre as written: compound when the beats are slow, fall in three, and all three parts are struck alike.

    Shuffled music falls in three as well, but leaves the middle out; the weights were fitted to scores of our own.
    """
    if beats_per_bar > 4 or at.size < 2:
        return beats_per_bar, 4
    steps = np.clip(at // STEP_HOPS, 0, heard.ternary.size - 1)
    three = float(np.clip(heard.ternary[steps].mean(), 0.01, 0.99))
    near = maximum_filter1d(spec.rise, 5)

    def struck(part: float) -> float:
        return float(near[np.rint(at[:-1] + part * np.diff(at)).astype(int)].mean()) + 1e-6

    first, second, half = struck(1 / 3), struck(2 / 3), struck(1 / 2)
    bpm = 60 * hops_per_s / float(np.median(np.diff(at)))
    signs = (
        np.log(three / (1 - three)),
        np.clip(np.log(min(first, second) / half), -2, 2.5),
        np.clip(np.log(first / second), -2, 1),
        np.log2(bpm / 100),
        1.0,
    )
    compound = float(np.dot(signs, _COMPOUND_WEIGHTS)) > _COMPOUND_FROM
    return (3 * beats_per_bar, 8) if compound else (beats_per_bar, 4)


def _opening(hops: NDArray[np.int64], opening_hop: float) -> NDArray[np.float64]:
    """What it is worth to have a beat, and beat one, where the music starts: most music begins on beat one."""
    return _OPENING_WEIGHT * np.exp(-0.5 * ((hops - opening_hop) / _OPENING_HOPS) ** 2)


def _worth(beat: FloatArray) -> NDArray[np.float64]:
    """What a beat at every hop is worth against none, in nats."""
    odds = np.log(np.maximum(beat, 1e-4) / np.maximum(1 - beat, 1e-2)) + _BEAT_BIAS
    return np.asarray(np.clip(odds, _FLOOR, _CEILING), dtype=np.float64)


def _decode(worth: FloatArray, intervals: tuple[int, int], hops_per_s: float, usual_bpm: float) -> NDArray[np.int64]:
    """Hops of the beats; long recordings in windows, each going on from a beat of the one before."""
    shortest, longest = intervals
    lengths = np.log(np.arange(shortest, longest + 1))
    apart = np.abs(lengths[:, None] - lengths[None, :])
    unusual = _TEMPO_WEIGHT * np.square(np.log2(60 * hops_per_s / np.arange(shortest, longest + 1) / usual_bpm))
    change = np.where(apart < _LARGEST_CHANGE, _STIFFNESS * apart + unusual[:, None], np.inf).astype(np.float32)
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


def _by_hop(values: FloatArray) -> FloatArray:
    """From steps to hops, halfway values between."""
    steps = np.arange(values.size * STEP_HOPS, dtype=np.float32) / STEP_HOPS
    return np.interp(steps, np.arange(values.size), values).astype(np.float32)


def _near_peak(values: FloatArray, at: NDArray[np.int64]) -> FloatArray:
    """Highest value within three hops of each place."""
    padded = np.pad(values, 3)
    return np.max([padded[at + k] for k in range(7)], axis=0)
