"""What speaks for each beat being the first of its bar, besides what the ear says of it.

Harmony changes with the bar, bass and band come in together, new things begin. And bars repeat: a figure comes again one
bar later, higher or lower when the chord changes, so music starts (and stops) to differ from itself a bar ago at a bar
line, even where the bass leads into the next bar and the drums stress the end of this one. Each sign is taken against the
beats around it; their weights were fitted to scores of our own (bench/ear/accents_fit.py), by logistic regression.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from evenseam.core.listen.features.spectra import TONE_HOPS, Spectra

SIGNS = ("ear", "bass", "strike", "harmony 1", "harmony 2", "harmony 4", "low 1", "low 2", "new 4", "new 8", "new 16")
BAR_SIGNS = (
    "all 1", "all 2", "all bar", "low 1", "low 2", "low bar", "struck 1", "struck 2", "all 1, two bars", "low 1, two bars",
)  # fmt: skip
_LOW_BANDS, _LOW_TONES = 5, 24
_AROUND_BEATS = 17

FloatArray = NDArray[np.float64]


def beat_signs(spec: Spectra, share: NDArray[np.float32], beat_hops: FloatArray) -> FloatArray:
    """The SIGNS of every beat, (beats, 11), in deviations from the beats around it.

    `share`: of each beat's likelihood, how much is that of a downbeat.
    """
    hops = np.clip(np.rint(beat_hops).astype(int), 0, spec.n_hops - 1)
    low = spec.bands[:, :_LOW_BANDS].mean(axis=1)
    after, before = (
        low[np.clip(hops[:, None] + np.arange(*span), 0, low.size - 1)].mean(axis=1) for span in ((1, 7), (-7, -1))
    )
    rows = np.clip(hops // TONE_HOPS, 0, spec.tones.shape[0] - 1)
    tones, bands = row_means(spec.tones, rows), row_means(spec.bands, hops)
    signs = [
        np.log(share / (1 - share)),
        after - before,
        maximum_filter1d(spec.rise, 7)[hops],
        *(_change(tones, width) for width in (1, 2, 4)),
        *(_change(tones[:, :_LOW_TONES], width) for width in (1, 2)),
        *(_change(bands, width) for width in (4, 8, 16)),
    ]
    return np.stack([_standard(np.asarray(s, dtype=np.float64)) for s in signs], axis=1)


def bar_signs(spec: Spectra, beat_hops: FloatArray, beats_per_bar: int) -> FloatArray:
    """The BAR_SIGNS of every beat, (beats, 10): how much its likeness to the music one bar or two bars ago changes there."""
    hops = np.clip(np.rint(beat_hops).astype(int), 0, spec.n_hops - 1)
    tones = row_means(spec.tones, np.clip(hops // TONE_HOPS, 0, spec.tones.shape[0] - 1))
    low, bands = tones[:, :_LOW_TONES], row_means(spec.bands, hops)
    signs = [
        *(_turn(_unlike(values, beats_per_bar), width) for values in (tones, low) for width in (1, 2, beats_per_bar)),
        *(_turn(_unlike(bands, beats_per_bar), width) for width in (1, 2)),
        *(_turn(_unlike(values, 2 * beats_per_bar), 1) for values in (tones, low)),
    ]
    return np.stack([_standard(s) for s in signs], axis=1)


def _unlike(values: FloatArray, lag: int) -> FloatArray:
    """Distance of each row to that `lag` rows before, (beats,); the first rows get the mean of the others."""
    if values.shape[0] <= lag:
        return np.zeros(values.shape[0])
    away = np.linalg.norm(values[lag:] - values[:-lag], axis=1)
    return np.concatenate([np.full(lag, away.mean()), away])


def _turn(values: FloatArray, width: int) -> FloatArray:
    """How much the mean of `width` values from each on differs from that of those before it, (beats,)."""
    total, b = np.concatenate([[0.0], np.cumsum(values)]), np.arange(values.size)
    last, first = np.minimum(b + width, values.size), np.maximum(b - width, 0)
    after = (total[last] - total[b]) / np.maximum(last - b, 1)
    before = (total[b] - total[first]) / np.maximum(b - first, 1)
    turn = np.abs(after - before)
    turn[0] = turn[1:].mean() if turn.size > 1 else 0.0
    return turn


def row_means(values: NDArray[np.float32], at: NDArray[np.int64]) -> FloatArray:
    """Mean of the rows from each place to the next, (places, columns); places past the end take the last row."""
    at = np.clip(at, 0, values.shape[0] - 1)
    counts = np.maximum(np.diff(at, append=values.shape[0]), 1)
    return np.add.reduceat(values, at, axis=0).astype(np.float64) / counts[:, None]


def _change(values: FloatArray, width: int) -> FloatArray:
    """Distance of the mean of `width` beats from each beat on to the mean of those before it, (beats,)."""
    n = values.shape[0]
    total = np.concatenate([np.zeros((1, values.shape[1])), np.cumsum(values, axis=0)])
    b = np.arange(n)
    last, first = np.minimum(b + width, n), np.maximum(b - width, 0)
    after = (total[last] - total[b]) / np.maximum(last - b, 1)[:, None]
    before = (total[b] - total[first]) / np.maximum(b - first, 1)[:, None]
    change = np.linalg.norm(after - before, axis=1)
    change[0] = change[1:].mean() if n > 1 else 0.0
    return change


def _standard(values: FloatArray) -> FloatArray:
    local = values - uniform_filter1d(values, min(values.size, _AROUND_BEATS), mode="nearest")
    return np.clip(local / (local.std() + 1e-9), -3, 3)
