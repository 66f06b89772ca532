"""Sound too long to hold: one channel, written once in order, then read by slices."""

import tempfile
import weakref

import numpy as np

from evenseam.core.audio.sound import Sound

_BYTES = 4


class LongSound:
    """Float32 samples of one channel in a temporary file without a name; it is gone when nobody holds it any more.

    Slices are read when they are asked for and never mapped, so that what was read does not stay in memory.
    """

    def __init__(self) -> None:
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 - it lives as long as the sound does
        weakref.finalize(self, self._file.close)
        self.size = 0

    def append(self, samples: Sound) -> None:
        """More of it, (samples,)."""
        self._file.seek(self.size * _BYTES)
        self._file.write(np.ascontiguousarray(samples, dtype=np.float32).tobytes())
        self.size += samples.size

    def __getitem__(self, part: slice) -> Sound:
        start, stop, _ = part.indices(self.size)
        self._file.seek(start * _BYTES)
        return np.frombuffer(self._file.read(max(0, stop - start) * _BYTES), dtype=np.float32)


Line = Sound | LongSound  # one channel, read by slices
