"""Plain resampling along a time map: for changes of speed so small that the pitch may go along unheard.

Every output sample is a band-limited value of the source at its exact place (Smith and Gossett 1984, with a Kaiser
window), so any stretch can be made at any time, by itself, and there is nothing to join.
"""

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound
from evenseam.core.render._kernels_sound import interpolate
from evenseam.core.timebase.time_map import TimeMap

_HALF_TAPS, _PARTS, _BETA = 32, 512, 9.0
_BLOCK = 1 << 16


def varispeed(read: Callable[[int, int], Sound], time_map: TimeMap, start: int, stop: int) -> Sound:
    """Output [start, stop) of a map over `read(start, stop)`; float32 (channels, stop - start)."""
    parts = [_block(read, time_map, at, min(at + _BLOCK, stop)) for at in range(start, stop, _BLOCK)]
    return np.concatenate(parts, axis=1)


def _block(read: Callable[[int, int], Sound], time_map: TimeMap, start: int, stop: int) -> Sound:
    at = time_map.source_at(np.arange(start, stop, dtype=np.int64))
    first = int(np.floor(at[0])) - _HALF_TAPS
    sound = np.ascontiguousarray(read(first, int(np.floor(at[-1])) + _HALF_TAPS + 2))
    out = np.empty((sound.shape[0], stop - start), dtype=np.float32)
    interpolate(sound, first, at, kernel(), out)
    return out


@cache
def kernel() -> NDArray[np.float32]:
    """A windowed sinc at 512 parts of a sample and at the next whole one, (513, taps).

    The pass band is left whole, since nothing is brought down.
    """
    part = np.arange(_PARTS + 1)[:, None] / _PARTS
    t = np.arange(2 * _HALF_TAPS) - _HALF_TAPS + 1 - part
    inside = np.clip(1 - np.square(t / _HALF_TAPS), 0, 1)
    return (np.sinc(t) * np.i0(_BETA * np.sqrt(inside)) / np.i0(_BETA) * (np.abs(t) < _HALF_TAPS)).astype(np.float32)
