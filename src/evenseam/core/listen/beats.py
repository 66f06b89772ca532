"""Beats: a chain of attacks at an even distance, its octave decided by what lies on and between the beats."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, uniform_filter1d

from evenseam.core.listen._kernels import best_beats
from evenseam.core.listen.spectra import Spectra

_SLOWEST_BPM, _FASTEST_BPM = 48.0, 216.0
# Each search spans a little more than an octave, so that every tempo is well inside one of them.
_RANGES_BPM = ((48.0, 105.0), (68.0, 148.0), (98.0, 216.0))
_USUAL_BPM, _USUAL_OCTAVES = 112.0, 0.75
_STIFFNESS = 900.0
_LOW_BANDS = 8


@dataclass(frozen=True, slots=True, eq=False)
class BeatTrack:
    """`hops`: float64 positions of the beats in hops; `confidence` 0 to 1; `strength` (hops,) as used."""

    hops: NDArray[np.float64]
    confidence: float
    strength: NDArray[np.float32]


def beat_strength(spec: Spectra) -> NDArray[np.float32]:
    """How much each hop sounds like an attack: rises of all bands, the low ones counted twice; locally even, mean 0."""
    rise = spec.flux.mean(axis=1) + spec.flux[:, :_LOW_BANDS].mean(axis=1)
    rise = gaussian_filter1d(rise, 1.0)
    hops_per_s = 100
    local = uniform_filter1d(rise, 4 * hops_per_s) + 0.1 * rise.mean() + 1e-6
    even = np.sqrt(rise / local)
    even -= uniform_filter1d(even, 4 * hops_per_s)
    return (even / (even.std() + 1e-6)).astype(np.float32)


def track_beats(spec: Spectra, hops_per_s: float) -> BeatTrack:
    """Find the beats of a recording of any length above a second or two."""
    strength = beat_strength(spec)
    found = [_within(strength, hops_per_s, low, high) for low, high in _RANGES_BPM]
    scored = [(s, h) for s, h in found if h.size >= 4]
    if not scored:
        return BeatTrack(_even_grid(strength.size, hops_per_s), 0.0, strength)
    _, hops = max(scored, key=lambda pair: pair[0])
    return BeatTrack(hops, _confidence(strength, hops), strength)


def _within(
    strength: NDArray[np.float32], hops_per_s: float, low_bpm: float, high_bpm: float
) -> tuple[float, NDArray[np.float64]]:
    shortest, longest = int(60 * hops_per_s / high_bpm), int(np.ceil(60 * hops_per_s / low_bpm))
    if strength.size <= longest + 1:
        return -np.inf, np.empty(0)
    hops, _ = best_beats(strength, shortest, longest, _STIFFNESS)
    return _musical_score(strength, hops, hops_per_s), hops.astype(np.float64)


def _musical_score(strength: NDArray[np.float32], hops: NDArray[np.int64], hops_per_s: float) -> float:
    """What speaks for this octave: strong beats, weaker half-way points, and a tempo people tap."""
    if hops.size < 4:
        return -np.inf
    near = maximum_filter1d(strength, 5)
    on = near[hops]
    between = near[(hops[1:] + hops[:-1]) // 2]
    alternation = abs(float(np.mean(on[0::2]) - np.mean(on[1::2])))
    octaves = np.log2(60 * hops_per_s / np.median(np.diff(hops)) / _USUAL_BPM)
    return float(np.mean(on) - 0.35 * np.mean(between) - 0.35 * alternation - 0.5 * (octaves / _USUAL_OCTAVES) ** 2)


def _confidence(strength: NDArray[np.float32], hops: NDArray[np.float64]) -> float:
    """Share of beats on a clear attack, times how even they are."""
    whole = hops.astype(int)
    on = float(np.mean(maximum_filter1d(strength, 5)[whole] > 1.0))
    intervals = np.diff(hops)
    evenness = float(np.exp(-4 * np.mean(np.abs(np.diff(intervals)) / intervals[1:]))) if intervals.size > 1 else 0.0
    return on * evenness


def _even_grid(n_hops: int, hops_per_s: float) -> NDArray[np.float64]:
    """A grid at 120 for recordings too short to have a beat of their own."""
    return np.arange(0, max(1, n_hops - 1), hops_per_s / 2, dtype=np.float64)
