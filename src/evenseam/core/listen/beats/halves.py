"""What is heard at every half beat, in the music's own time: what the count is decided from.

A beat that was decoded may be half a beat off, or every second true one, or there may be twice as many as true ones. On a
grid of half beats all of these are choices of the same steps, and bars look alike whatever their tempo.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.beats.accents import row_means
from evenseam.core.listen.beats.ear import STEP_HOPS, Hearing
from evenseam.core.listen.beats.tracking import near_steps
from evenseam.core.listen.features.spectra import TONE_HOPS, Spectra

LAGS = (2, 3, 4, 5, 6, 8, 10, 12, 14, 16, 24, 32)  # half beats back
_GROUP_BANDS, _LOW_TONES = 6, 24
_BEFORE_HOPS, _AFTER_HOPS = 4, 4
_PLACES_AT_ONCE = 512
_USUAL_BPM = 118.0
_SIZES = {
    "bands": 48,
    "tones": 60,
    "struck": 16,
    "ear": 4,
    "around": 9,
    **{f"unlike {what}": len(LAGS) for what in ("tones", "low", "bands", "struck")},
    "tempo": 1,
}
_ENDS = np.cumsum(list(_SIZES.values())).tolist()
GROUPS = {name: slice(end - size, end) for (name, size), end in zip(_SIZES.items(), _ENDS, strict=True)}
N_FEATURES: int = _ENDS[-1]

FloatArray = NDArray[np.float32]


def half_beat_hops(beat_hops: NDArray[np.int64]) -> NDArray[np.int64]:
    """Hops of all beats and of the places halfway between them, int64 (2 * beats - 1,)."""
    halves = np.empty(2 * beat_hops.size - 1, dtype=np.int64)
    halves[::2] = beat_hops
    halves[1::2] = np.rint((beat_hops[1:] + beat_hops[:-1]) / 2)
    return halves


def half_beat_features(spec: Spectra, heard: Hearing, hops: NDArray[np.int64], hops_per_s: float) -> FloatArray:
    """What is heard at every half beat, float32 (halves, N_FEATURES): spectra, attacks, the ear, likeness, tempo."""
    quarters = np.rint(hops + np.diff(hops, append=2 * hops[-1] - hops[-2]) / 2).astype(np.int64)
    rows = np.clip(hops // TONE_HOPS, 0, spec.tones.shape[0] - 1)
    bands, tones = row_means(spec.bands, hops), row_means(spec.tones, rows)
    struck = np.concatenate([_struck(spec.bands, hops), _struck(spec.bands, quarters)], axis=1)
    ear = [
        _logit(near_steps(values, at, 1).astype(np.float64))
        for at in (hops, quarters)
        for values in (heard.beat, heard.downbeat)
    ]
    steps = np.clip(hops // STEP_HOPS, 0, heard.beat.size - 1)
    context = np.stack([heard.ternary, heard.lead, heard.voice], axis=1)
    around = row_means(np.concatenate([context, heard.meter], axis=1), steps)
    bpm = 30 * hops_per_s / np.maximum(1, np.gradient(hops.astype(np.float64)))
    features = [
        (bands - 2.0) / 2.0,
        (tones - 1.0) / 1.5,
        struck,
        np.stack(ear, axis=1) / 3,
        around,
        *(_unlike(values) for values in (tones, tones[:, :_LOW_TONES], bands, struck)),
        np.log2(bpm / _USUAL_BPM)[:, None],
    ]
    return np.concatenate(features, axis=1).astype(np.float32)


def _struck(bands: FloatArray, at: NDArray[np.int64]) -> NDArray[np.float64]:
    """The sharpest rise near each place, by groups of bands, (places, 8)."""
    out = np.empty((at.size, bands.shape[1] // _GROUP_BANDS))
    for first in range(0, at.size, _PLACES_AT_ONCE):
        places = at[first : first + _PLACES_AT_ONCE, None]
        near = bands[np.clip(places + np.arange(-_BEFORE_HOPS - 2, _AFTER_HOPS + 1), 0, bands.shape[0] - 1)]
        rise = np.maximum(near[:, 2:] - near[:, :-2], 0).max(axis=1)
        out[first : first + _PLACES_AT_ONCE] = rise.reshape(places.size, -1, _GROUP_BANDS).mean(axis=2, dtype=np.float64)
    return out


def _logit(share: NDArray[np.float64]) -> NDArray[np.float64]:
    kept = np.clip(share, 1e-3, 1 - 1e-3)
    return np.log(kept / (1 - kept))


def _unlike(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Distance of each half beat to those LAGS before it, against the mean of all, (halves, lags); 0 where there is none."""
    away = np.full((values.shape[0], len(LAGS)), np.nan)
    for k, lag in enumerate(LAGS):
        if values.shape[0] > lag:
            away[lag:, k] = np.linalg.norm(values[lag:] - values[:-lag], axis=1)
    known = ~np.isnan(away)
    mean = float(away[known].mean()) if known.any() else 0.0
    return np.where(known, away / (mean + 1e-9) - 1, 0.0)
