"""Pulses: chains of attacks at an even distance, in every range of tempo; which of them are the beats is decided later."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, uniform_filter1d

from evenseam.core.listen._kernels import best_beats
from evenseam.core.listen.spectra import Spectra

# Wide ranges find the strongest pulse there is; narrow ones find the others, for the metre to choose from.
_RANGES_BPM = (
    (48.0, 105.0), (68.0, 148.0), (98.0, 216.0),
    (50.0, 80.0), (66.0, 105.0), (86.0, 136.0), (112.0, 178.0), (146.0, 216.0),
)  # fmt: skip
_STIFFNESS = 900.0
_LOW_BANDS = 8
_FEWEST = 8


@dataclass(frozen=True, slots=True, eq=False)
class Pulse:
    """`hops`: float64 positions in hops; `strength`: how strong the attacks are that it goes through, in deviations."""

    hops: NDArray[np.float64]
    strength: float


def attack_strength(spec: Spectra) -> NDArray[np.float32]:
    """How much each hop sounds like an attack: rises of all bands, the low ones counted twice; locally even, mean 0."""
    rise = spec.flux.mean(axis=1) + spec.flux[:, :_LOW_BANDS].mean(axis=1)
    rise = gaussian_filter1d(rise, 1.0)
    hops_per_s = 100
    local = uniform_filter1d(rise, 4 * hops_per_s) + 0.1 * rise.mean() + 1e-6
    even = np.sqrt(rise / local)
    even -= uniform_filter1d(even, 4 * hops_per_s)
    return (even / (even.std() + 1e-6)).astype(np.float32)


def find_pulses(strength: NDArray[np.float32], hops_per_s: float) -> list[Pulse]:
    """The best pulse in each range of tempo, equal ones once; empty for recordings too short to have one."""
    near = maximum_filter1d(strength, 3)
    found: list[Pulse] = []
    for low_bpm, high_bpm in _RANGES_BPM:
        shortest, longest = int(60 * hops_per_s / high_bpm), int(np.ceil(60 * hops_per_s / low_bpm))
        if strength.size <= longest + 1:
            continue
        hops, _ = best_beats(strength, shortest, longest, _STIFFNESS)
        if hops.size >= _FEWEST and not any(np.array_equal(hops, p.hops) for p in found):
            found.append(Pulse(hops.astype(np.float64), float(near[hops].mean())))
    return found


def beat_confidence(strength: NDArray[np.float32], hops: NDArray[np.float64]) -> float:
    """Share of beats on a clear attack, times how even they are; 0 to 1."""
    if hops.size < _FEWEST:
        return 0.0
    whole = np.clip(np.rint(hops).astype(int), 0, strength.size - 1)
    on = float(np.mean(maximum_filter1d(strength, 5)[whole] > 1.0))
    intervals = np.diff(hops)
    return on * float(np.exp(-4 * np.mean(np.abs(np.diff(intervals)) / intervals[1:])))


def even_grid(n_hops: int, hops_per_s: float) -> NDArray[np.float64]:
    """A grid at 120 for recordings too short to have a beat of their own."""
    return np.arange(0, max(1, n_hops - 1), hops_per_s / 2, dtype=np.float64)
