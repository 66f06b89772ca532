"""Any audio file to float samples, refusing what is not audio with a reason.

libsndfile reads the common formats exactly; PyAV (FFmpeg) reads the rest. Both get a path that is not trusted: header
claims are never believed for allocation, files are read block by block and measured as they come.
"""

from dataclasses import dataclass
from pathlib import Path

import av
import av.error
import numpy as np
import soundfile as sf
from numpy.typing import NDArray

from evenseam.core.errors import AudioUnreadableError

Sound = NDArray[np.float32]

MIN_RATE_HZ, MAX_RATE_HZ = 8_000, 192_000
MAX_DURATION_S = 3 * 3600
MAX_CHANNELS = 8
_BLOCK = 1 << 18
_LFE_POSITION = 3  # front left, front right, centre, low frequency, then the surrounds
_MINUS_3_DB = np.float32(2**-0.5)


@dataclass(frozen=True, slots=True, eq=False)
class Audio:
    """Decoded sound: `samples` float32 (channels, samples), one or two channels, at `rate` Hz."""

    samples: Sound
    rate: int

    @property
    def n_samples(self) -> int:
        """Length in samples of one channel."""
        return int(self.samples.shape[1])


def decode(path: Path) -> Audio:
    """Read a whole audio file.

    Returns: mono or stereo float32; more channels are mixed to stereo with the coefficients of ITU-R BS.775.
    Raises: AudioUnreadableError with the reason.
    """
    if not path.is_file():
        raise AudioUnreadableError(f"{path.name} is not there. Check its name and folder.")
    if path.stat().st_size == 0:
        raise AudioUnreadableError("The file is empty. Export it again and add the new file.")
    try:
        samples, rate = _read_libsndfile(path)
    except sf.SoundFileError:
        samples, rate = _read_ffmpeg(path)
    return Audio(_checked(samples, rate), rate)


def _read_libsndfile(path: Path) -> tuple[Sound, int]:
    with sf.SoundFile(str(path)) as file:
        _check_form(file.samplerate, file.channels)
        blocks, n_samples = [], 0
        while True:
            block = file.read(_BLOCK, dtype="float32", always_2d=True)
            if not len(block):
                break
            n_samples += len(block)
            _check_duration(n_samples, file.samplerate)
            blocks.append(np.ascontiguousarray(block.T))
        return _joined(blocks), int(file.samplerate)


def _read_ffmpeg(path: Path) -> tuple[Sound, int]:
    try:
        with av.open(str(path)) as container:
            if not container.streams.audio:
                raise AudioUnreadableError("The file holds no sound. Choose an audio file, or a film with sound.")
            stream = container.streams.audio[0]
            rate = int(stream.codec_context.sample_rate or 0)
            _check_form(rate, int(stream.codec_context.channels or 0))
            resampler = av.AudioResampler(format="fltp", rate=rate)
            blocks, n_samples = [], 0
            for frame in container.decode(stream):
                for part in resampler.resample(frame):
                    block = part.to_ndarray().astype(np.float32, copy=False)
                    n_samples += block.shape[1]
                    _check_duration(n_samples, rate)
                    blocks.append(block)
            return _joined(blocks), rate
    except (av.error.FFmpegError, ValueError, UnicodeError) as error:
        raise AudioUnreadableError(
            "The file is not audio that can be read, or it is damaged. Play it elsewhere to check it, then export it as WAV."
        ) from error


def _joined(blocks: list[Sound]) -> Sound:
    if not blocks:
        raise AudioUnreadableError("The file holds no sound: its length is zero. Export it again.")
    return np.concatenate(blocks, axis=1)


def _check_form(rate: int, channels: int) -> None:
    if not MIN_RATE_HZ <= rate <= MAX_RATE_HZ:
        raise AudioUnreadableError(
            f"The sample rate is {rate} Hz; 8,000 to 192,000 Hz can be read. Convert it to 48,000 Hz.", rate_hz=rate
        )
    if not 1 <= channels <= MAX_CHANNELS:
        raise AudioUnreadableError(
            f"The file has {channels} channels; 1 to {MAX_CHANNELS} can be read. Mix it to stereo.", channels=channels
        )


def _check_duration(n_samples: int, rate: int) -> None:
    if n_samples > MAX_DURATION_S * rate:
        raise AudioUnreadableError("The file is longer than 3 hours. Cut it into parts and add those.")


def _checked(samples: Sound, rate: int) -> Sound:
    if not np.isfinite(samples).all():
        raise AudioUnreadableError("The file holds values that are not numbers (NaN or infinity). Export it again.")
    if samples.shape[1] < rate // 10:
        raise AudioUnreadableError("The file is shorter than a tenth of a second. Choose a longer one.")
    return _to_stereo(samples)


def _to_stereo(samples: Sound) -> Sound:
    """ITU-R BS.775: centre and surrounds at -3 dB into both sides, the low-frequency channel left out."""
    if samples.shape[0] <= 2:
        return np.ascontiguousarray(samples)
    channels = samples.shape[0]
    left, right = samples[0].copy(), samples[1].copy()
    centre = samples[2] * _MINUS_3_DB
    left += centre
    right += centre
    surrounds = [c for c in range(3, channels) if not (c == _LFE_POSITION and channels >= 6)]
    for place, channel in enumerate(surrounds):
        (left if place % 2 == 0 else right)[:] += samples[channel] * _MINUS_3_DB
    mixed = np.stack([left, right])
    peak = float(np.abs(mixed).max())
    if peak > 1:
        mixed /= np.float32(peak)
    return mixed
