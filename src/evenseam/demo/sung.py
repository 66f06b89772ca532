"""A sung-like line for the demo music: no words, but vowels, consonants and breath, as a singer's guide track has."""

import numpy as np
from numpy.typing import NDArray

# First three formants of five vowels, in Hz (after Peterson and Barney 1952).
_VOWELS_HZ = ((660, 1720, 2410), (530, 1840, 2480), (730, 1090, 2440), (570, 840, 2410), (440, 1020, 2240))
_HIGHEST_HZ = 9000.0
_VIBRATO_HZ, _VIBRATO_DEPTH = 5.3, 0.011


def sing(notes: list[tuple[float, float, float]], n_samples: int, rate_hz: int, seed: int = 1) -> NDArray[np.float32]:
    """A line of `notes` (on_s, off_s, frequency in Hz) as float32 (n_samples,), peak about 1: the same at every run."""
    rng = np.random.default_rng(seed)
    out = np.zeros(n_samples, dtype=np.float32)
    for on_s, off_s, pitch_hz in notes:
        start, n = round(on_s * rate_hz), round((off_s - on_s) * rate_hz)
        n = min(n, n_samples - start)
        if n > rate_hz // 50:
            out[start : start + n] += _syllable(n, pitch_hz, rate_hz, rng)
    return out / (np.abs(out).max() + np.float32(1e-9))


def _syllable(n: int, pitch_hz: float, rate_hz: int, rng: np.random.Generator) -> NDArray[np.float32]:
    """One note: harmonics under the resonances of a vowel, with vibrato that sets in late, after a short consonant."""
    t = np.arange(n) / rate_hz
    vibrato = _VIBRATO_DEPTH * pitch_hz / _VIBRATO_HZ * np.minimum(1, t / 0.35)
    phase = 2 * np.pi * pitch_hz * t - vibrato * np.cos(2 * np.pi * _VIBRATO_HZ * t)
    formants_hz = _VOWELS_HZ[rng.integers(len(_VOWELS_HZ))]
    tone = np.zeros(n)
    for harmonic in range(1, int(min(_HIGHEST_HZ, 0.45 * rate_hz) / pitch_hz) + 1):
        at_hz = harmonic * pitch_hz
        peaks = [np.exp(-0.5 * ((at_hz - f) / (90 + 0.06 * f)) ** 2) / (1 + k) for k, f in enumerate(formants_hz)]
        tone += (sum(peaks) + 0.02) / harmonic**0.4 * np.sin(harmonic * phase)
    tone *= np.minimum(1, t / 0.04) * np.minimum(1, (t[-1] - t) / 0.05)
    consonant = rng.normal(0, 0.35, n) * np.exp(-t / 0.022) * (rng.random() < 0.7)
    return (tone + consonant).astype(np.float32)
