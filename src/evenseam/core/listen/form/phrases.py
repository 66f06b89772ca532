"""Music in free time: where it breathes. A seam can go where little sounds, nothing strikes, and the harmony stands still."""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, minimum_filter1d, percentile_filter, uniform_filter1d

from evenseam.core.listen.features.spectra import TONE_HOPS, Spectra

_SHORTEST_S, _LONGEST_S = 0.9, 6.0
_ATTACK_WEIGHT, _CHANGE_WEIGHT, _LEVEL_WEIGHT = 1.0, 0.7, 1.0


def find_breaths(
    spec: Spectra, start_hop: float, end_hop: float, hops_per_s: float
) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """Breath points between two hops, in order, at least 0.9 s apart and where it can be at most 6 s.

    Returns: float64 hops, and how calm each is beside the rest of the piece, float32 0 to 1.
    """
    rows_per_s = hops_per_s / TONE_HOPS
    calm = _calm(spec, rows_per_s)
    first, last = int(start_hop / TONE_HOPS), min(int(end_hop / TONE_HOPS), calm.size - 1)
    chosen = [first]
    shortest, longest = max(1, round(_SHORTEST_S * rows_per_s)), round(_LONGEST_S * rows_per_s)
    peak = calm >= maximum_filter1d(calm, shortest) - 1e-6
    while chosen[-1] + shortest < last - shortest:
        low, high = chosen[-1] + shortest, min(chosen[-1] + longest, last - shortest) + 1
        candidates = low + np.flatnonzero(peak[low:high])
        # The first breath that is nearly as good as the best within reach: phrases as short as the music has them.
        good = candidates[calm[candidates] > calm[low:high].max() - 0.35] if candidates.size else candidates
        chosen.append(int(good[0]) if good.size else low + int(calm[low:high].argmax()))
    at = np.array(chosen)
    rank = np.searchsorted(np.sort(calm[first : last + 1]), calm[at]) / max(1, last + 1 - first)
    return at.astype(np.float64) * TONE_HOPS, rank.astype(np.float32)


def _calm(spec: Spectra, rows_per_s: float) -> NDArray[np.float64]:
    """How much every row (four hops) invites a breath; in deviations of the piece."""
    n = spec.tones.shape[0]
    level = _by_row(spec.bands.mean(axis=1), n)
    attack = maximum_filter1d(_by_row(spec.rise, n), 5)
    smooth = uniform_filter1d(spec.tones.astype(np.float64), 5, axis=0)
    reach = max(1, round(0.4 * rows_per_s))
    change = np.abs(np.roll(smooth, -reach, axis=0) - np.roll(smooth, reach, axis=0)).mean(axis=1)
    around = percentile_filter(level, 70, size=max(3, round(8 * rows_per_s)))
    dip = np.clip((around - minimum_filter1d(level, 3)) / (around + 1e-6), 0, 1)
    return -_ATTACK_WEIGHT * _standard(attack) - _CHANGE_WEIGHT * _standard(change) + _LEVEL_WEIGHT * _standard(dip)


def _by_row(values: NDArray[np.float32], n: int) -> NDArray[np.float64]:
    padded = np.pad(values.astype(np.float64), (0, max(0, n * TONE_HOPS - values.size)), mode="edge")
    return padded[: n * TONE_HOPS].reshape(n, TONE_HOPS).max(axis=1)


def _standard(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.clip((values - values.mean()) / (values.std() + 1e-9), -2.5, 2.5)
