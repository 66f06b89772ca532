"""From beats known to a hop to beats that lie on the attack, to the sample.

The rise of a long window sees an attack before it sounds; here the attack is where short-time energy rises fastest.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from evenseam.core.audio.levels import mean_squares
from evenseam.core.audio.long import Line

_STEP_S = 0.001
_SEARCH_S = 0.045
_PREFERRED_S = 0.02
_EMPHASIS = 0.85  # of the highs, where attacks show first


@dataclass(frozen=True, slots=True, eq=False)
class Attacks:
    """`rise`: float32, one value every `step` samples of the mono mix at `rate` Hz, how fast the energy rises there."""

    rise: NDArray[np.float32]
    step: int
    rate: float


def find_attacks(mono: Line, rate: float) -> Attacks:
    """Rise of log energy per millisecond over the 4 ms after against the 8 ms before."""
    step = max(1, round(_STEP_S * rate))
    at_once = step * (1 << 16)
    parts = []
    for start in range(0, mono.size // step * step, at_once):
        sound = mono[start : min(start + at_once, mono.size // step * step)].copy()
        before = np.concatenate([mono[start - 1 : start] if start else np.zeros(1, np.float32), sound[:-1]])
        sharp = (sound - np.float32(_EMPHASIS) * before).astype(np.float32, copy=False)
        parts.append(mean_squares(sharp, step))
    energy = np.log10(np.concatenate([np.empty(0), *parts]) + 1e-9).astype(np.float32)
    after = uniform_filter1d(energy, 4, origin=-2)
    before = uniform_filter1d(energy, 8, origin=3)
    return Attacks(np.maximum(after - before, 0).astype(np.float32), step, rate)


def snap_to_attacks(beats_samples: NDArray[np.float64], attacks: Attacks) -> NDArray[np.float64]:
    """Move each beat to the attack near it; beats without one keep the place their neighbours give them.

    Positions are in samples of the mono mix. Returns: float64 samples, in order, inside the recording.
    """
    rise, step, rate = attacks.rise, attacks.step, attacks.rate
    reach = max(1, round(_SEARCH_S * rate / step))
    offsets = np.arange(-reach, reach + 1)
    prefer = np.exp(-0.5 * (offsets * step / rate / _PREFERRED_S) ** 2)
    centres = np.rint(beats_samples / step).astype(int)
    padded = np.pad(rise, reach + 1)
    windows = padded[np.clip(centres, 0, rise.size - 1)[:, None] + reach + 1 + offsets] * prefer
    best = windows.argmax(axis=1)
    value = windows.max(axis=1)
    clear = value > max(0.25, 0.5 * float(np.median(value)))
    shift = np.where(clear, offsets[best] * step, np.nan).astype(np.float64)
    moved = beats_samples + _without_gaps(shift)
    # Two beats can never be drawn past each other: the search reaches less than half the shortest beat.
    return np.clip(np.maximum.accumulate(moved), 0, rise.size * step)


def _without_gaps(shift: NDArray[np.float64]) -> NDArray[np.float64]:
    """Beats without an attack take their shift from the beats around them; lone jumps are pulled back to the others."""
    known = np.flatnonzero(~np.isnan(shift))
    if not known.size:
        return np.zeros_like(shift)
    return np.interp(np.arange(shift.size), known, shift[known])
