"""After how long a recording repeats itself: what speaks for a bar's length before any bar is known.

Music repeats after a bar more than after any other short time. The autocorrelation of harmony and of attacks by band at
the lags of one to four bars therefore tells a true bar from one and a half or two thirds of it, which beats alone do not.
"""

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from evenseam.core.listen.spectra import Spectra

_LONGEST_LAG_HOPS = 1600
_ATTACK_BANDS = 8
_NEAR_HOPS = 2


@dataclass(frozen=True, slots=True, eq=False)
class LagProfiles:
    """Autocorrelation by lag in hops, 1 at lag 0: `harmony` of the chroma, `attacks` of the band-wise rises."""

    harmony: NDArray[np.float64]
    attacks: NDArray[np.float64]

    def bar_strength(self, bar_hops: float) -> tuple[float, float]:
        """Mean over one to four bars of (harmony, attacks)."""
        lags = [bar_hops * n for n in (1, 2, 3, 4)]
        return _mean_near(self.harmony, lags), _mean_near(self.attacks, lags)

    def beat_strength(self, beat_hops: float) -> float:
        """Mean of attacks over one to four beats."""
        return _mean_near(self.attacks, [beat_hops * n for n in (1, 2, 3, 4)])


def lag_profiles(spec: Spectra) -> LagProfiles:
    """Lag profiles of a recording. O(n log n)."""
    chroma = spec.chroma / (np.linalg.norm(spec.chroma, axis=1, keepdims=True) + 1e-6)
    chroma = gaussian_filter1d(chroma, 5, axis=0)
    attacks = spec.flux.reshape(spec.n_hops, _ATTACK_BANDS, -1).mean(axis=2)
    attacks = gaussian_filter1d(np.sqrt(attacks), 1.5, axis=0)
    return LagProfiles(_autocorrelation(chroma, 800), _autocorrelation(attacks, 400))


def _autocorrelation(values: NDArray[np.float32], local_hops: int) -> NDArray[np.float64]:
    """Of all columns together, each against its local mean; sparse long lags are not blown up."""
    n = values.shape[0]
    values = values - uniform_filter1d(values, local_hops, axis=0)
    size = scipy.fft.next_fast_len(2 * n, real=True)
    power = np.square(np.abs(scipy.fft.rfft(values, size, axis=0))).sum(axis=1)
    raw = scipy.fft.irfft(power, size)[: min(n, _LONGEST_LAG_HOPS)].astype(np.float64)
    return raw / max(float(raw[0]), 1e-9) * n / np.maximum(n - np.arange(raw.size), n / 4)


def _mean_near(profile: NDArray[np.float64], lags: list[float]) -> float:
    """Mean of the highest values within two hops of the lags; lags past the profile count as 0."""
    total = 0.0
    for lag in lags:
        near = profile[max(0, round(lag) - _NEAR_HOPS) : round(lag) + _NEAR_HOPS + 1]
        total += float(near.max()) if near.size > _NEAR_HOPS else 0.0
    return total / len(lags)
