"""What each beat sounds like, scaled so that distance between two beats is how different they sound."""

import numpy as np
from numpy.typing import NDArray

_BANDS_KEPT, _BRIGHT_FROM = 16, 11
_TIMBRE_WEIGHT, _CHROMA_WEIGHT, _LEVEL_WEIGHT = 1.0, 1.6, 0.6


def beat_features(
    bands: NDArray[np.float32], chroma: NDArray[np.float32], beat_hops: NDArray[np.float64]
) -> NDArray[np.float32]:
    """Describe each beat in two halves: timbre (16 bands), harmony (12 pitch classes) and level, (beats, 58)."""
    n_hops = bands.shape[0]
    hops = np.clip(np.rint(beat_hops).astype(int), 0, n_hops - 1)
    if not hops.size:
        return np.zeros((0, 2 * (_BANDS_KEPT + 12 + 1)), dtype=np.float32)
    ends = np.append(hops[1:], min(n_hops, hops[-1] + (hops[-1] - hops[-2] if hops.size > 1 else 50)))
    middles = np.maximum((hops + ends) // 2, hops + 1)
    halves = np.stack([hops, middles], axis=1).ravel()
    halves = np.minimum(halves, n_hops - 1)
    each = between_beats(bands, halves)
    grouped = each.reshape(each.shape[0], _BANDS_KEPT, each.shape[1] // _BANDS_KEPT).mean(axis=2)
    level = grouped.mean(axis=1, keepdims=True)
    timbre = grouped - level
    harmony = between_beats(chroma, halves)
    harmony = harmony - 0.8 * harmony.min(axis=1, keepdims=True)
    harmony /= np.linalg.norm(harmony, axis=1, keepdims=True) + 1e-9
    parts = [
        _TIMBRE_WEIGHT * timbre / (_spread(timbre) * np.sqrt(_BANDS_KEPT)),
        _CHROMA_WEIGHT * harmony,
        _LEVEL_WEIGHT * level / _spread(level),
    ]
    described = np.concatenate(parts, axis=1)
    return described.reshape(hops.size, -1).astype(np.float32)


def beat_intensity(
    bands: NDArray[np.float32], rise: NDArray[np.float32], beat_hops: NDArray[np.float64]
) -> NDArray[np.float32]:
    """How full the music is on each beat beside the rest of the piece, 0 to 1; level and density of attacks."""
    hops = np.clip(np.rint(beat_hops).astype(int), 0, bands.shape[0] - 1)
    if not hops.size:
        return np.zeros(0, dtype=np.float32)
    parts = [between_beats(v, hops)[:, 0] for v in (bands.mean(axis=1, keepdims=True), rise[:, None])]
    scaled = [np.clip((p - np.percentile(p, 2)) / (np.percentile(p, 98) - np.percentile(p, 2) + 1e-6), 0, 1) for p in parts]
    return (0.7 * scaled[0] + 0.3 * scaled[1]).astype(np.float32)


def starts_brightly(features: NDArray[np.float32], at: NDArray[np.int64]) -> NDArray[np.float64]:
    """How loud and bright some beats start, from the features of all; in their scale, (beats at `at`,)."""
    first = features[at, : _BANDS_KEPT + 12 + 1].astype(np.float64)
    return np.sqrt(_BANDS_KEPT) * first[:, _BRIGHT_FROM:_BANDS_KEPT].mean(axis=1) + first[:, -1]


def mean_between(values: NDArray[np.float32], at: NDArray[np.float64]) -> NDArray[np.float32]:
    """Mean of `values` (steps,) from each place to the next; float32 (places,)."""
    if not at.size:
        return np.zeros(0, dtype=np.float32)
    steps = np.clip(np.rint(at).astype(int), 0, values.size - 1)
    ends = np.maximum(np.append(steps[1:], min(values.size, steps[-1] + 25)), steps + 1)
    total = np.concatenate([[0.0], np.cumsum(values, dtype=np.float64)])
    return ((total[ends] - total[steps]) / (ends - steps)).astype(np.float32)


def between_beats(values: NDArray[np.float32], hops: NDArray[np.int64]) -> NDArray[np.float64]:
    """Mean of `values` (hops, d) from each beat to the next; (beats, d)."""
    ends = np.append(hops[1:], values.shape[0])
    starts = np.minimum(hops + 2, ends - 1)  # the attack itself still holds the end of the sound before
    pairs = np.minimum(np.stack([starts, ends], axis=1).ravel(), values.shape[0] - 1)
    counts = np.maximum(np.minimum(ends, values.shape[0] - 1) - starts, 1)
    return np.add.reduceat(values, pairs, axis=0)[::2].astype(np.float64) / counts[:, None]


def _spread(values: NDArray[np.float64]) -> float:
    return float(np.sqrt(np.mean(np.var(values, axis=0)))) + 1e-6
