"""WAV out, block by block, to the sample.

16 and 24 bit get triangular dither of one step (Lipshitz, Wannamaker and Vanderkooy 1992): without it the fade of a quiet
ring-out turns into distortion. The noise is seeded, so that the same fit always gives the same file.
"""

from pathlib import Path
from typing import Literal, Self

import numpy as np
import soundfile as sf

from evenseam.core.audio.sound import Sound

SampleFormat = Literal["int16", "int24", "float32"]
SAMPLE_FORMATS: dict[SampleFormat, str] = {"int16": "PCM_16", "int24": "PCM_24", "float32": "FLOAT"}
_STEP = {"int16": 2.0**-15, "int24": 2.0**-23}
_CEILING = {"int16": 1 - 2.0**-15, "int24": 1 - 2.0**-23}
_WAV_LIMIT_BYTES = 4_000_000_000


class WavWriter:
    """Writes (channels, samples) float blocks to a WAV file (RF64 when it would pass 4 GB)."""

    def __init__(self, path: Path, rate: int, channels: int, sample_format: SampleFormat, n_samples: int) -> None:
        bytes_wanted = n_samples * channels * {"int16": 2, "int24": 3, "float32": 4}[sample_format]
        self._format: SampleFormat = sample_format
        self._noise = np.random.default_rng(0x5EA)
        self._file = sf.SoundFile(
            str(path),
            "w",
            samplerate=rate,
            channels=channels,
            format="RF64" if bytes_wanted > _WAV_LIMIT_BYTES else "WAV",
            subtype=SAMPLE_FORMATS[sample_format],
        )

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    def write(self, block: Sound) -> None:
        """Append a block of float32 (channels, samples); values past full scale are held at full scale in 16 and 24 bit."""
        if self._format == "float32":
            self._file.write(np.ascontiguousarray(block.T))
            return
        step, ceiling = _STEP[self._format], _CEILING[self._format]
        draw = self._noise.random((2, *block.shape))
        # Digital silence stays digital silence: dither is for sound that is there.
        dithered = block + np.where(block != 0, (draw[0] - draw[1]) * step, 0.0)
        scaled = np.rint(np.clip(dithered, -1.0, ceiling) / step).astype(np.int32)
        shift = 16 if self._format == "int16" else 8
        self._file.write(np.ascontiguousarray((scaled << shift).T))


def write_wav(path: Path, samples: Sound, rate: int, sample_format: SampleFormat = "int24") -> None:
    """Write a whole (channels, samples) array as WAV."""
    with WavWriter(path, rate, samples.shape[0], sample_format, samples.shape[1]) as writer:
        writer.write(samples)
