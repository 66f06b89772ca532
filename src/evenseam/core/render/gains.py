"""Gains over stretches of sound."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound
from evenseam.core.plan.model import Fade


def apply_gains(sound: Sound, gains: NDArray[np.float32], at: int) -> None:
    """Multiply `sound`, in place, by gains that begin at its sample `at`; what lies outside it is left."""
    first, last = max(0, at), min(sound.shape[1], at + gains.size)
    if first < last:
        sound[:, first:last] *= gains[first - at : last - at]


def rising(fade: Fade) -> NDArray[np.float32]:
    """Gains of a fade in, (n_samples,), from 0 to just below 1."""
    return _shaped(np.arange(fade.n_samples) / max(1, fade.n_samples), fade)


def falling(fade: Fade) -> NDArray[np.float32]:
    """Gains of a fade out, (n_samples,), from 1 to 0."""
    return _shaped(np.linspace(1, 0, fade.n_samples), fade)


def _shaped(gains: NDArray[np.float64], fade: Fade) -> NDArray[np.float32]:
    if fade.shape == "cosine":
        gains = 0.5 - 0.5 * np.cos(np.pi * gains)
    return gains.astype(np.float32)


def with_silence(samples: Sound, start: int, stop: int) -> Sound:
    """[start, stop) of a recording, zeros where it has nothing; a copy."""
    out = np.zeros((samples.shape[0], stop - start), dtype=np.float32)
    inside = slice(max(0, start), max(0, min(samples.shape[1], stop)))
    if inside.stop > inside.start:
        out[:, inside.start - start : inside.stop - start] = samples[:, inside]
    return out
