"""Waveform peaks for drawing, in the open audiowaveform .dat form (version 2, 16 bit)."""

import struct

import numpy as np

from evenseam.core.audio.decode import Sound

_VERSION, _BITS_16 = 2, 0
HEADER_BYTES = 24
FINEST_SAMPLES_PER_PIXEL = 64


def peaks_dat(samples: Sound, rate: int, samples_per_pixel: int = FINEST_SAMPLES_PER_PIXEL) -> bytes:
    """Lowest and highest value of every `samples_per_pixel` samples, of all channels together, as .dat bytes."""
    n_points = -(-samples.shape[1] // samples_per_pixel)
    low = np.full(n_points * samples_per_pixel, 0, dtype=np.float32)
    high = low.copy()
    low[: samples.shape[1]] = samples.min(axis=0)
    high[: samples.shape[1]] = samples.max(axis=0)
    pairs = np.stack(
        [low.reshape(n_points, samples_per_pixel).min(axis=1), high.reshape(n_points, samples_per_pixel).max(axis=1)],
        axis=1,
    )
    values = np.rint(np.clip(pairs, -1, 1) * 32767).astype("<i2")
    return struct.pack("<iIiiIi", _VERSION, _BITS_16, rate, samples_per_pixel, n_points, 1) + values.tobytes()
