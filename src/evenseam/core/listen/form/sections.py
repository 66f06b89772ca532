"""Sections, and loops, from how alike the bars are.

A section begins where bars stop to sound like those before (Foote 2000) and where what they repeat changes: each bar is
described by how far away its like are, and that description jumps (Serra et al. 2014); and many begin with a stroke. Sections
that run alongside one another are one letter (average linkage of how alike they are bar by bar, at the best lag).
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.ndimage import gaussian_filter, median_filter

from evenseam.core.chart.chart import Loop, Section
from evenseam.core.chart.description import SOUND
from evenseam.core.chart.distances import all_apart
from evenseam.core.listen.features.describe import starts_brightly

_KERNEL_BARS = 8
_MIN_BARS, _FEWEST_AT_ENDS = 7, 4  # an intro may be shorter, and an ending
_BARS_A_CUT = 35  # in long pieces there is no more than one boundary in so many bars
_MOST_CUTS = 11  # in all others
_THRESHOLD = 1.05  # of the spread of novelty
_STROKE_WEIGHT, _AROUND_BARS = 0.3, 17
_EIGHT_BARS, _FOUR_BARS, _ODD_BARS = 0.5, 0.2, -0.2  # what a length that is usual for a section is worth, in novelty
_NEIGHBOURS = (0.06, 0.1)  # of the bars: those that a bar is said to repeat, by two counts
_SMOOTH_BARS, _SMOOTH_LAGS = 2.0, 1.0
_SAME_LETTER = 0.52
_LEAST_ALONGSIDE = 0.7
_MOST_LOOPS = 8
_BARS_AT_ONCE = 1024  # of a matrix of likeness held in full precision

Likeness = NDArray[np.float64] | NDArray[np.float16]


def parts_of(
    features: NDArray[np.float32], beats: NDArray[np.int64], place: NDArray[np.int64], beats_per_bar: int, end_samples: int
) -> tuple[tuple[Section, ...], tuple[Loop, ...]]:
    """Sections and loops of a piece from the features of its beats, their places in the bar, and where the music ends."""
    bars, bar_beats = bar_features(features, place, beats_per_bar)
    alike, bar_samples = likeness(bars), beats[bar_beats]
    signs = Signs(starts_brightly(features, bar_beats), _sounding_alike(features, place, beats_per_bar))
    return find_sections(alike, bar_samples, end_samples, signs), find_loops(alike, bar_samples, end_samples)


@dataclass(frozen=True)
class Signs:
    """What else tells that a section begins.

    strokes: how loud and bright each bar starts, (bars,). sounds: how alike bars are in timbre, harmony and level alone,
    whatever notes they play, (bars, bars); None in pieces of hours.
    """

    strokes: NDArray[np.float64]
    sounds: Likeness | None


def _sounding_alike(features: NDArray[np.float32], place: NDArray[np.int64], beats_per_bar: int) -> Likeness | None:
    bars, _ = bar_features(features[:, SOUND], place, beats_per_bar)
    return likeness(bars) if bars.shape[0] <= _BARS_AT_ONCE else None


def bar_features(
    features: NDArray[np.float32], place: NDArray[np.int64], meter: int
) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
    """Features of whole bars: the beats of each bar side by side, (bars, meter * d), and the beat each bar starts on."""
    starts = np.flatnonzero(place == 0)
    starts = starts[starts + meter <= place.size]
    if not starts.size:
        return np.empty((0, meter * features.shape[1]), dtype=np.float32), starts
    return np.concatenate([features[starts + k] for k in range(meter)], axis=1), starts


def likeness(bars: NDArray[np.float32]) -> Likeness:
    """(bars, bars) 1 for equal bars, falling to 0: exp of the negative distance over its median.

    Float64, but float16 for pieces of hours, whose median is taken from some of the bars.
    """
    n = bars.shape[0]
    if n <= _BARS_AT_ONCE:
        distance = all_apart(bars, bars).astype(np.float64)
        return np.exp(-distance / _median_above_0(distance))
    alike = np.empty((n, n), dtype=np.float16)
    scale = _median_above_0(all_apart(bars[:: -(-n // _BARS_AT_ONCE)], bars))
    for start in range(0, n, _BARS_AT_ONCE // 4):
        part = slice(start, start + _BARS_AT_ONCE // 4)
        alike[part] = np.exp(-all_apart(bars[part], bars) / np.float32(scale))
    return alike


def _median_above_0(distance: NDArray) -> float:
    return float(np.median(distance[distance > 0])) if np.any(distance > 0) else 1.0


def find_sections(
    alike: Likeness, bar_samples: NDArray[np.int64], end_samples: int, signs: Signs | None = None
) -> tuple[Section, ...]:
    """Sections with a letter each, A, B, C in order of coming; one that comes again has the letter that it had.

    Two of a letter in a row are two sections: the second begins as the first did. Without `signs`, how alike bars are in all
    has to tell.
    """
    n = alike.shape[0]
    if n < 2 * _MIN_BARS:
        start = int(bar_samples[0]) if n else 0
        return (Section(start, end_samples, "A"),) if end_samples > start else ()
    cuts = [0, *_boundaries(_novelty(alike, signs)), n]
    edges = [*(int(bar_samples[c]) for c in cuts[:-1]), end_samples]
    return tuple(
        Section(start, end, letter) for (start, end), letter in zip(pairwise(edges), _letters(alike, cuts), strict=True)
    )


def find_loops(alike: Likeness, bar_samples: NDArray[np.int64], end_samples: int) -> tuple[Loop, ...]:
    """Spans of 2, 4, 8 or 16 bars whose next bar is like their first and whose last bar is like the one before them."""
    n = alike.shape[0]
    edges = np.append(bar_samples, end_samples)
    found = []
    for bars in (2, 4, 8, 16):
        for start in range(1, n - bars):
            end = start + bars
            found.append((float(np.sqrt(alike[start, end] * alike[start - 1, end - 1])), bars, start))
    found.sort(key=lambda row: (-row[0] - 0.01 * row[1], row[2]))
    kept: list[tuple[float, int, int]] = []
    for score, bars, start in found:
        if all(bars != b or abs(start - s) >= bars for _, b, s in kept):
            kept.append((score, bars, start))
        if len(kept) == _MOST_LOOPS:
            break
    return tuple(Loop(int(edges[s]), int(edges[s + b]), b, round(score, 4)) for score, b, s in kept)


def _novelty(alike: Likeness, signs: Signs | None) -> NDArray[np.float64]:
    """How much begins anew at every bar, its median 0 and its spread 1. Of pieces of hours, from near by only.

    A section is heard to begin by its sound more than by its notes: a figure that goes on under new players hides no beginning.
    """
    sounds = alike if signs is None or signs.sounds is None else signs.sounds
    novelty = _scaled(_unlike_before(sounds))
    if alike.shape[0] <= _BARS_AT_ONCE:
        precise = np.asarray(alike, dtype=np.float64)
        otherwise = np.sum([_scaled(_repeats_otherwise(precise, share)) for share in _NEIGHBOURS], axis=0)
        novelty = _scaled(novelty + _scaled(otherwise))
    if signs is not None:
        around = median_filter(signs.strokes, min(signs.strokes.size, _AROUND_BARS), mode="nearest")
        novelty = _scaled(novelty + _STROKE_WEIGHT * np.clip(_scaled(signs.strokes - around), -1, 4))
    return novelty


def _scaled(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return (values - np.median(values)) / (np.std(values) + 1e-9)


def _unlike_before(alike: Likeness) -> NDArray[np.float64]:
    """How unlike the bars before and after a bar are, and how alike among themselves."""
    half = min(_KERNEL_BARS, alike.shape[0] // 2)
    away = np.arange(-half, half) + 0.5
    taper = np.exp(-0.5 * (away / (half / 2)) ** 2)
    kernel = np.outer(np.sign(away) * taper, np.sign(away) * taper)
    padded = np.pad(alike, half, mode="edge")
    n = alike.shape[0]
    return np.array([(padded[i : i + 2 * half, i : i + 2 * half] * kernel).sum() for i in range(n)])


def _repeats_otherwise(alike: NDArray[np.float64], share: float) -> NDArray[np.float64]:
    """How much the lags at which bars have their like, `share` of all bars, change from one bar to the next."""
    n = alike.shape[0]
    others = alike - np.diag(np.diag(alike))
    nearest = max(2, int(share * n))
    least = np.partition(others, n - nearest, axis=1)[:, n - nearest][:, None]
    repeats = (others >= least) & (others.T >= least.T)
    by_lag = np.zeros((n, 2 * n), dtype=np.float32)
    for bar in range(n):
        by_lag[bar, n - bar : 2 * n - bar] = repeats[bar]
    smooth = gaussian_filter(by_lag, (_SMOOTH_BARS, _SMOOTH_LAGS), mode="constant")
    changes = np.sqrt(np.square(np.diff(smooth, axis=0)).sum(axis=1))
    return np.append(0.0, changes).astype(np.float64)


def _boundaries(novelty: NDArray[np.float64]) -> list[int]:
    """The bars at which sections begin: those that are most new together, and lie a usual number of bars apart.

    The best of all choices, by dynamic programming; where it has too many, something has to be newer to count.
    """
    most, least = max(_MOST_CUTS, novelty.size // _BARS_A_CUT), _THRESHOLD
    while len(chosen := _best_cuts(novelty - least)) > most:
        least += 0.1
    return chosen


def _best_cuts(worth: NDArray[np.float64]) -> list[int]:
    n = worth.size
    lengths = np.arange(n + 1)
    usual = np.select([lengths % 8 == 0, lengths % 4 == 0, lengths % 2 == 1], [_EIGHT_BARS, _FOUR_BARS, _ODD_BARS], 0.0)
    best, before = np.full(n + 1, -np.inf), np.zeros(n + 1, dtype=np.int64)
    best[0] = 0.0
    for end in range(_FEWEST_AT_ENDS, n + 1):
        starts = best[: max(1, end - (_MIN_BARS if end < n else _FEWEST_AT_ENDS) + 1)]
        gain = starts + usual[end - np.arange(starts.size)] * (end < n)
        gain[0] = 0.0  # whatever comes first may have any number of bars: an intro, a pick-up
        before[end] = int(np.argmax(gain))
        best[end] = gain[before[end]] + (worth[end] if end < n else 0.0)
    cuts: list[int] = []
    at = int(before[n])
    while at:
        cuts.append(at)
        at = int(before[at])
    return cuts[::-1]


def _letters(alike: Likeness, cuts: list[int]) -> list[str]:
    spans = list(pairwise(cuts))
    if len(spans) == 1:
        return ["A"]
    away = [1 - _alongside(alike, a, b) for k, a in enumerate(spans) for b in spans[k + 1 :]]
    groups = fcluster(linkage(np.array(away), "average"), 1 - _SAME_LETTER, "distance").tolist()
    order = list(dict.fromkeys(groups))
    return [chr(ord("A") + min(order.index(group), 25)) for group in groups]


def _alongside(alike: Likeness, a: tuple[int, int], b: tuple[int, int]) -> float:
    """How alike two stretches of bars are, bar by bar, at the lag where they are most; in pieces of hours from their starts."""
    part = alike[a[0] : a[1], b[0] : b[1]]
    least = _LEAST_ALONGSIDE * min(part.shape)
    lags = range(1 - part.shape[0], part.shape[1]) if alike.shape[0] <= _BARS_AT_ONCE else (0,)
    runs = (part.diagonal(lag) for lag in lags)
    return max((float(run.mean()) for run in runs if run.size >= least), default=0.0)
