"""Metre and beat one: all signs of downbeats together, over the whole piece."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from evenseam.core.listen.beats._kernels_beats import best_bar_places
from evenseam.core.listen.beats.accents import bar_signs, beat_signs
from evenseam.core.listen.beats.ear import METERS, STEP_HOPS, Hearing
from evenseam.core.listen.beats.tracking import by_hop, near_peak, opening_worth
from evenseam.core.listen.features.spectra import Spectra

_SIGNS_COUNT, _CUT_BAR_COST = 0.2, 12.0
_USUAL_METERS, _USUAL_METER_WEIGHT = np.array([0.08, 0.15, 0.64, 0.04, 0.05, 0.04]), 0.03
_SIGN_WEIGHTS = np.array([1.96, 0.0, 0.04, 0.06, 0.68, -0.14, 0.32, -0.50, 0.24, -0.16, -0.33])  # of SIGNS, in that order
_BAR_SIGN_WEIGHTS = np.array([-0.09, 0.14, -0.08, 0.38, -0.01, 0.17, 0.14, -0.04, 0.02, 0.18])  # of BAR_SIGNS
# Two bars repeat as one does: likeness says less of the metre than of where its bars begin, once the metre is clear.
_LIKENESS_FOR_PLACE, _CLEAR_FROM, _CLEAR_CUT_COST = 8.0, 0.9, 24.0
_SIGN_BIAS = -0.6  # the fitted bias, less how rare downbeats are
_USUAL_BAR_S, _BAR_WEIGHT = 2.0, 0.03  # every beat pays for the square of the octaves of its bar from the usual length
# Bars of three that differ by turns are halves of bars of six: by their signs, the count's odds, and its word on the metre.
_SIX_WEIGHTS, _SIX_FROM, _FEWEST_BARS = (1.0, 0.5, 1.5), 2.5, 6
_COUNT_WEIGHT, _COUNT_LIMIT = 0.07, 4.0  # of the count's odds, which the ear has a share in
_COMPOUND_WEIGHTS = (0.3, 1.03, 0.3, -3.46, -1.84)  # ear, thirds against halves, first against second third, tempo, bias
_COMPOUND_FROM = -0.4

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Places:
    """Beats to the bar, and of every beat (beats,): its place in its bar, and what speaks for its being the first of one.

    `worth`: by all signs together; `ear_odds`: the ear's log odds of its being a downbeat.
    """

    beats_per_bar: int
    place: NDArray[np.int64]
    worth: NDArray[np.float64]
    ear_odds: NDArray[np.float64]


def find_places(
    spec: Spectra,
    heard: Hearing,
    at: NDArray[np.int64],
    opening_hop: float,
    hops_per_s: float,
    odds: FloatArray,
    counted_meters: FloatArray,
) -> Places:
    """Beats to the bar, and the place of each beat in its bar.

    `odds`: the count's log odds of each beat being a downbeat; `counted_meters`: its log probabilities of METERS.
    The signs count for less than the odds they were fitted to: what misleads in one bar does so in the next ones too.
    """
    beats, odds = at.astype(np.float64), np.clip(odds, -_COUNT_LIMIT, _COUNT_LIMIT)
    share = downbeat_share(heard, beats)
    ear_odds = np.log(share / (1 - share)).astype(np.float64)
    signs = beat_signs(spec, share, beats) @ _SIGN_WEIGHTS + _SIGN_BIAS
    worth = _SIGNS_COUNT * signs + opening_worth(at, opening_hop) + _COUNT_WEIGHT * odds
    likeness = _SIGNS_COUNT * np.stack([bar_signs(spec, beats, n) @ _BAR_SIGN_WEIGHTS for n in METERS])
    meters = np.array(METERS, dtype=np.int64)
    index, place = best_bar_places(worth + likeness + _usual(meters, at, hops_per_s)[:, None], meters, _CUT_BAR_COST)
    share = np.bincount(index, minlength=meters.size) / index.size
    chosen = int(share.argmax())
    if share[chosen] <= _CLEAR_FROM:
        return Places(METERS[chosen], place, worth + likeness[chosen], ear_odds)

    def clearly(k: int) -> Places:
        total = worth + _LIKENESS_FOR_PLACE * likeness[k]
        return Places(METERS[k], best_bar_places(total[None], meters[k : k + 1], _CLEAR_CUT_COST)[1], total, ear_odds)

    found = clearly(chosen)
    three, six = METERS.index(3), METERS.index(6)
    if chosen == three and _are_halves(found.place, signs, odds, float(counted_meters[six] - counted_meters[three])):
        return clearly(six)
    return found


def _usual(meters: NDArray[np.int64], at: NDArray[np.int64], hops_per_s: float) -> NDArray[np.float64]:
    """What each metre is worth to every downbeat before anything is heard: how common it is, and how usual the bars' length."""
    beat_s = float(np.median(np.diff(at))) / hops_per_s if at.size > 1 else _USUAL_BAR_S / 4
    octaves = np.log2(meters * beat_s / _USUAL_BAR_S)
    return np.asarray(meters * (_USUAL_METER_WEIGHT * np.log(_USUAL_METERS) - _BAR_WEIGHT * octaves**2), dtype=np.float64)


def _are_halves(place: NDArray[np.int64], signs: NDArray[np.float64], odds: FloatArray, six: float) -> bool:
    """Whether every second bar begins with more weight than the others. `six`: the count's log odds of six against three."""
    first = np.flatnonzero(place == 0)
    if first.size < _FEWEST_BARS:
        return False
    signs_by_turns, odds_by_turns = (abs(float(v[first[::2]].mean() - v[first[1::2]].mean())) for v in (signs, odds))
    return float(np.dot(_SIX_WEIGHTS, (signs_by_turns, odds_by_turns, six))) > _SIX_FROM


def written_meter(
    beats_per_bar: int, spec: Spectra, heard: Hearing, at: NDArray[np.int64], hops_per_s: float
) -> tuple[int, int]:
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


def downbeat_share(heard: Hearing, beat_hops: NDArray[np.float64]) -> FloatArray:
    """Of the likelihood of each beat, how much the ear gives to its being a downbeat; float32 (beats,), 0.02 to 0.98."""
    at = np.clip(np.rint(beat_hops).astype(int), 0, heard.beat.size * STEP_HOPS - 1)
    beat, downbeat = near_peak(by_hop(heard.beat), at), near_peak(by_hop(heard.downbeat), at)
    return np.clip(downbeat / np.maximum(beat, 0.02), 0.02, 0.98).astype(np.float32)
