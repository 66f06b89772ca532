"""Waveform peaks for drawing, in the open audiowaveform .dat form (version 2, 16 bit)."""

import struct

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound

_VERSION, _BITS_16 = 2, 0
HEADER_BYTES = 24
FINEST_SAMPLES_PER_PIXEL = 64


class PeaksMaker:
    """Lowest and highest value of every `samples_per_pixel` samples, of all channels together, block by block."""

    def __init__(self, rate: int, samples_per_pixel: int = FINEST_SAMPLES_PER_PIXEL) -> None:
        self._rate, self._per_pixel = rate, samples_per_pixel
        self._left: Sound | None = None
        self._pairs: list[NDArray[np.int16]] = []

    def push(self, block: Sound) -> None:
        """More sound, float32 (channels, samples)."""
        sound = block if self._left is None else np.concatenate([self._left, block], axis=1)
        whole = sound.shape[1] // self._per_pixel * self._per_pixel
        self._take(sound[:, :whole])
        self._left = sound[:, whole:].copy()

    def finish(self) -> bytes:
        """The .dat file."""
        if self._left is not None and self._left.shape[1]:
            self._take(np.pad(self._left, ((0, 0), (0, self._per_pixel - self._left.shape[1]))))
            self._left = None
        values = np.concatenate(self._pairs) if self._pairs else np.empty((0, 2), dtype="<i2")
        return struct.pack("<iIiiIi", _VERSION, _BITS_16, self._rate, self._per_pixel, len(values), 1) + values.tobytes()

    def _take(self, sound: Sound) -> None:
        points = sound.reshape(sound.shape[0], -1, self._per_pixel)
        pairs = np.stack([points.min(axis=(0, 2)), points.max(axis=(0, 2))], axis=1)
        self._pairs.append(np.rint(np.clip(pairs, -1, 1) * 32767).astype("<i2"))


def peaks_dat(samples: Sound, rate: int, samples_per_pixel: int = FINEST_SAMPLES_PER_PIXEL) -> bytes:
    """The .dat bytes of a recording held whole, float32 (channels, samples)."""
    maker = PeaksMaker(rate, samples_per_pixel)
    maker.push(samples)
    return maker.finish()
