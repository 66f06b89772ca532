"""Any audio file to float samples, refusing what is not audio with a reason.

libsndfile reads the common formats exactly; PyAV (FFmpeg) reads the rest. Both get a path that is not trusted: header
claims are never believed for allocation, files are read block by block and measured as they come.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import av.error
import numpy as np
import soundfile as sf

from evenseam.core.audio.sound import Sound, check_is_file
from evenseam.core.errors import AudioUnreadableError

MIN_RATE_HZ, MAX_RATE_HZ = 8_000, 192_000
MAX_DURATION_S = 3 * 3600
MAX_CHANNELS = 8
_BLOCK = 1 << 18
_LFE_POSITION = 3  # front left, front right, centre, low frequency, then the surrounds
_MINUS_3_DB = 2**-0.5


@dataclass(frozen=True, slots=True, eq=False)
class Audio:
    """Decoded sound: `samples` float32 (channels, samples), one or two channels, at `rate` Hz."""

    samples: Sound
    rate: int

    @property
    def n_samples(self) -> int:
        """Length in samples of one channel."""
        return int(self.samples.shape[1])


@dataclass(frozen=True, slots=True, eq=False)
class Stream:
    """A recording as it is read: `blocks` of float32 (channels, some samples), one or two `channels`, at `rate` Hz.

    Reading the blocks raises AudioUnreadableError where the file turns out to be broken.
    """

    rate: int
    channels: int
    blocks: Iterator[Sound]


def decode(path: Path) -> Audio:
    """Read a whole audio file.

    Returns: mono or stereo float32; more channels are mixed to stereo with the coefficients of ITU-R BS.775.
    Raises: AudioUnreadableError with the reason.
    """
    stream = open_stream(path)
    return Audio(np.concatenate(list(stream.blocks), axis=1), stream.rate)


def open_stream(path: Path) -> Stream:
    """Start to read an audio file, block by block, for recordings too long to hold whole.

    Raises: AudioUnreadableError with the reason.
    """
    check_is_file(path)
    try:
        file = sf.SoundFile(str(path))
    except sf.SoundFileError:
        return _open_ffmpeg(path)
    try:
        _check_form(file.samplerate, file.channels)
    except AudioUnreadableError:
        file.close()
        raise
    return Stream(file.samplerate, min(file.channels, 2), _checked(_read_libsndfile(file), file.samplerate))


def _read_libsndfile(file: sf.SoundFile) -> Iterator[Sound]:
    with file:
        while True:
            try:
                block = file.read(_BLOCK, dtype="float32", always_2d=True)
            except sf.SoundFileError as error:
                raise AudioUnreadableError(
                    "The file is damaged: it stops being readable part of the way. Export it again."
                ) from error
            if not len(block):
                return
            yield np.ascontiguousarray(block.T)


def _open_ffmpeg(path: Path) -> Stream:
    try:
        container = av.open(str(path))
    except (av.error.FFmpegError, ValueError, UnicodeError) as error:
        raise _not_audio() from error
    try:
        if not container.streams.audio:
            raise AudioUnreadableError("The file holds no sound. Choose an audio file, or a film with sound.")
        context = container.streams.audio[0].codec_context
        rate, channels = int(context.sample_rate or 0), int(context.channels or 0)
        _check_form(rate, channels)
    except BaseException:
        container.close()
        raise
    return Stream(rate, min(channels, 2), _checked(_read_ffmpeg(container, rate), rate))


def _read_ffmpeg(container: av.container.InputContainer, rate: int) -> Iterator[Sound]:
    with container:
        resampler = av.AudioResampler(format="fltp", rate=rate)
        try:
            for frame in container.decode(container.streams.audio[0]):
                for part in resampler.resample(frame):
                    yield part.to_ndarray().astype(np.float32, copy=False)
        except (av.error.FFmpegError, ValueError) as error:
            raise _not_audio() from error


def _not_audio() -> AudioUnreadableError:
    return AudioUnreadableError(
        "The file is not audio that can be read, or it is damaged. Play it elsewhere to check it, then export it as WAV."
    )


def _checked(blocks: Iterator[Sound], rate: int) -> Iterator[Sound]:
    """The blocks mixed to one or two channels, measured and checked as they come."""
    n_samples = 0
    for block in blocks:
        n_samples += block.shape[1]
        if n_samples > MAX_DURATION_S * rate:
            raise AudioUnreadableError("The file is longer than 3 hours. Cut it into parts and add those.")
        if not np.isfinite(block).all():
            raise AudioUnreadableError("The file holds values that are not numbers (NaN or infinity). Export it again.")
        yield _to_stereo(block)
    if n_samples == 0:
        raise AudioUnreadableError("The file holds no sound: its length is zero. Export it again.")
    if n_samples < rate // 10:
        raise AudioUnreadableError("The file is shorter than a tenth of a second. Choose a longer one.")


def _check_form(rate: int, channels: int) -> None:
    if not MIN_RATE_HZ <= rate <= MAX_RATE_HZ:
        raise AudioUnreadableError(
            f"The sample rate is {rate} Hz; 8,000 to 192,000 Hz can be read. Convert it to 48,000 Hz.", rate_hz=rate
        )
    if not 1 <= channels <= MAX_CHANNELS:
        raise AudioUnreadableError(
            f"The file has {channels} channels; 1 to {MAX_CHANNELS} can be read. Mix it to stereo.", channels=channels
        )


def _to_stereo(block: Sound) -> Sound:
    """ITU-R BS.775: centre and surrounds at -3 dB into both sides, the low-frequency channel left out.

    All of it is brought down by what the coefficients add up to, so that the mix of full channels cannot clip.
    """
    channels = block.shape[0]
    if channels <= 2:
        return np.ascontiguousarray(block)
    weights = np.zeros((2, channels), dtype=np.float32)
    weights[0, 0] = weights[1, 1] = 1
    first_surround = 2 if channels == 4 else 3  # four channels are quadraphonic: they have no centre
    weights[:, 2:first_surround] = _MINUS_3_DB
    surrounds = [c for c in range(first_surround, channels) if not (c == _LFE_POSITION and channels >= 6)]
    for place, channel in enumerate(surrounds):
        weights[place % 2, channel] = _MINUS_3_DB
    return np.ascontiguousarray((weights / weights.sum(axis=1).max()) @ block)
