"""Sections by likeness, and loops, from how alike the bars are (Foote 2000: novelty along the diagonal)."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Loop, Section

_KERNEL_BARS = 8
_MIN_BARS = 4
_ALIKE, _THE_SAME = 0.62, 0.75
_MOST_LOOPS = 8
_BARS_AT_ONCE = 1024  # of a matrix of likeness held in full precision

Likeness = NDArray[np.float64] | NDArray[np.float16]


def parts_of(
    features: NDArray[np.float32], beats: NDArray[np.int64], place: NDArray[np.int64], beats_per_bar: int, end_samples: int
) -> tuple[tuple[Section, ...], tuple[Loop, ...]]:
    """Sections and loops of a piece from the features of its beats, their places in the bar, and where the music ends."""
    bars, bar_beats = bar_features(features, place, beats_per_bar)
    alike, bar_samples = likeness(bars), beats[bar_beats]
    return find_sections(alike, bar_samples, end_samples), find_loops(alike, bar_samples, end_samples)


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
        distance = _distances(bars, bars).astype(np.float64)
        return np.exp(-distance / _median_above_0(distance))
    alike = np.empty((n, n), dtype=np.float16)
    scale = _median_above_0(_distances(bars[:: -(-n // _BARS_AT_ONCE)], bars))
    for start in range(0, n, _BARS_AT_ONCE // 4):
        part = slice(start, start + _BARS_AT_ONCE // 4)
        alike[part] = np.exp(-_distances(bars[part], bars) / np.float32(scale))
    return alike


def _distances(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    square = np.square(a).sum(axis=1)[:, None] + np.square(b).sum(axis=1) - 2 * a @ b.T
    return np.asarray(np.sqrt(np.maximum(square, 0)), dtype=np.float32)


def _median_above_0(distance: NDArray) -> float:
    return float(np.median(distance[distance > 0])) if np.any(distance > 0) else 1.0


def find_sections(alike: Likeness, bar_samples: NDArray[np.int64], end_samples: int) -> tuple[Section, ...]:
    """Cut where the bars before and after differ most; letter the parts by likeness (A, B, C ... in order of coming)."""
    n = alike.shape[0]
    if n < 2 * _MIN_BARS:
        start = int(bar_samples[0]) if n else 0
        return (Section(start, end_samples, "A"),) if end_samples > start else ()
    cuts = [0, *_boundaries(_novelty(alike)), n]
    labels = _letters(alike, cuts)
    edges = [*(int(bar_samples[c]) for c in cuts[:-1]), end_samples]
    merged: list[Section] = []
    for (start, end), label in zip(pairwise(edges), labels, strict=True):
        if merged and merged[-1].label == label:
            merged[-1] = Section(merged[-1].start_samples, end, label)
        else:
            merged.append(Section(start, end, label))
    return tuple(merged)


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


def _novelty(alike: Likeness) -> NDArray[np.float64]:
    half = min(_KERNEL_BARS, alike.shape[0] // 2)
    away = np.arange(-half, half) + 0.5
    taper = np.exp(-0.5 * (away / (half / 2)) ** 2)
    kernel = np.outer(np.sign(away) * taper, np.sign(away) * taper)
    padded = np.pad(alike, half, mode="edge")
    n = alike.shape[0]
    values = np.array([(padded[i : i + 2 * half, i : i + 2 * half] * kernel).sum() for i in range(n)])
    values[: _MIN_BARS - 1] = 0
    return values


def _boundaries(novelty: NDArray[np.float64]) -> list[int]:
    threshold = novelty.mean() + 0.4 * novelty.std()
    chosen: list[int] = []
    for i in np.argsort(-novelty, kind="stable"):
        if novelty[i] < threshold:
            break
        if _MIN_BARS <= i <= novelty.size - 2 and all(abs(int(i) - c) >= _MIN_BARS for c in chosen):
            chosen.append(int(i))
    return sorted(chosen)


def _letters(alike: Likeness, cuts: list[int]) -> list[str]:
    """A part takes the letter of the earlier part it is most like, with a prime for each variation of it (A, A', A'').

    It is the same when nearly every bar of it has its like there, varied when most of it has.
    """
    spans = list(pairwise(cuts))

    def mean(a: tuple[int, int], b: tuple[int, int]) -> float:
        return float(np.max(alike[a[0] : a[1], b[0] : b[1]], axis=1).mean())

    letters: list[str] = []
    seen: dict[str, tuple[int, int]] = {}
    for span in spans:
        best = max(seen, key=lambda letter: mean(span, seen[letter]), default=None)
        likeness_of_best = mean(span, seen[best]) if best is not None else 0.0
        if best is not None and likeness_of_best >= _THE_SAME:
            letters.append(best)
            continue
        if best is not None and likeness_of_best >= _ALIKE:
            family = best[0]
            label = family + "'" * sum(letter[0] == family for letter in seen)
        else:
            label = chr(ord("A") + min(len({letter[0] for letter in seen}), 25))
        letters.append(label)
        seen.setdefault(label, span)
    return letters
