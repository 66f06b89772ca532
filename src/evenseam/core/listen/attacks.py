"""From beats known to a hop to beats that lie on the attack, to the sample.

The rise of a long window sees an attack before it sounds; here the attack is where short-time energy rises fastest.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from evenseam.core.audio.decode import Sound

_STEP_S = 0.001
_SEARCH_S = 0.045
_PREFERRED_S = 0.02


def attack_rise(mono: Sound, rate: int) -> tuple[NDArray[np.float32], int]:
    """Rise of log energy per millisecond over the 4 ms after against the 8 ms before; and the step in samples."""
    step = max(1, round(_STEP_S * rate))
    n = mono.size // step
    emphasised = mono[: n * step].copy()
    emphasised[1:] -= 0.85 * mono[: n * step - 1]
    energy = np.log10(np.square(emphasised.reshape(n, step)).mean(axis=1, dtype=np.float64) + 1e-9)
    after = uniform_filter1d(energy, 4, origin=-2)
    before = uniform_filter1d(energy, 8, origin=3)
    return np.maximum(after - before, 0).astype(np.float32), step


def snap_to_attacks(beats_samples: NDArray[np.float64], mono: Sound, rate: int) -> NDArray[np.int64]:
    """Move each beat to the attack near it; beats without one keep the place their neighbours give them.

    Returns: int64 samples, in order, inside the recording.
    """
    rise, step = attack_rise(mono, rate)
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
    return np.clip(np.maximum.accumulate(np.rint(moved).astype(np.int64)), 0, mono.size - 1)


def _without_gaps(shift: NDArray[np.float64]) -> NDArray[np.float64]:
    """Beats without an attack take their shift from the beats around them; lone jumps are pulled back to the others."""
    known = np.flatnonzero(~np.isnan(shift))
    if not known.size:
        return np.zeros_like(shift)
    return np.interp(np.arange(shift.size), known, shift[known])
