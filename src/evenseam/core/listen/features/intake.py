"""Taking a recording in, block by block: what listening needs of it, in a form small enough for hours of sound.

Everything is heard through one mono mix at about 22 kHz; loudness and true peak are measured at the recording's own
rate on the way.
"""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import scipy.signal

from evenseam.core.audio.levels import LoudnessMeter, TruePeakMeter
from evenseam.core.audio.long import Line, LongSound
from evenseam.core.audio.sound import Sound

ANALYSIS_RATE_HZ = 22_050
_HELD_S = 20 * 60  # what is longer goes to a temporary file
_LARGEST_FACTOR = 320  # of the resampling ratio: enough to be exact at 44.1 and 48 kHz


@dataclass(frozen=True, slots=True, eq=False)
class Intake:
    """`mono`: float32 at about 22 kHz, read by slices.

    One of its samples lasts exactly `samples_per_mono` samples of the recording.
    """

    mono: Line
    samples_per_mono: Fraction
    rate: int
    n_samples: int
    loudness_lufs: float
    true_peak_dbtp: float

    @property
    def mono_rate_hz(self) -> float:
        """The exact rate of `mono`."""
        return float(self.rate / self.samples_per_mono)


class TakingIn:
    """Push blocks of float32 (channels, samples) at `rate` Hz, then `finish`."""

    def __init__(self, rate: int, channels: int) -> None:
        self._rate = rate
        self._ratio = Fraction(ANALYSIS_RATE_HZ, rate).limit_denominator(_LARGEST_FACTOR)
        self._loudness, self._peak = LoudnessMeter(rate, channels), TruePeakMeter(rate, channels)
        longer = max(self._ratio.numerator, self._ratio.denominator)
        self._taps = scipy.signal.firwin(16 * longer + 1, 0.92 / longer).astype(np.float32)
        # A whole number of resampling periods, at least as long as the filter reaches.
        periods = -(-8 * longer // (self._ratio.numerator * self._ratio.denominator))
        self._margin = self._ratio.denominator * max(1, periods)
        self._held = np.zeros(self._margin, dtype=np.float32)
        self._mono: list[Sound] = []
        self._n_mono = 0
        self._long: LongSound | None = None
        self._n_samples = 0

    def push(self, block: Sound) -> None:
        """The next stretch of the recording."""
        self._loudness.push(block)
        self._peak.push(block)
        self._n_samples += block.shape[1]
        self._held = np.concatenate([self._held, mix_to_mono(block)])
        usable = (self._held.size - 2 * self._margin) // self._ratio.denominator * self._ratio.denominator
        if usable > 0:
            self._resample(usable)

    def finish(self) -> Intake:
        """What was taken in."""
        wanted = -(-self._n_samples * self._ratio.numerator // self._ratio.denominator)
        rest = self._held.size - self._margin
        usable = -(-rest // self._ratio.denominator) * self._ratio.denominator
        self._held = np.pad(self._held, (0, usable + 2 * self._margin - self._held.size))
        self._resample(usable)
        levels = self._loudness.integrated_lufs(), self._peak.dbtp()
        return Intake(self._taken(wanted), 1 / self._ratio, self._rate, self._n_samples, *levels)

    def _resample(self, usable: int) -> None:
        """Resample `usable` samples after the margin, and keep what the next stretch needs before it."""
        up, down = self._ratio.numerator, self._ratio.denominator
        made = self._held[: usable + 2 * self._margin]
        if self._ratio != 1:
            made = scipy.signal.resample_poly(made, up, down, window=self._taps)
        skip, n = self._margin * up // down, usable * up // down
        self._mono.append(made[skip : skip + n].astype(np.float32))
        self._n_mono += n
        if self._n_mono > _HELD_S * ANALYSIS_RATE_HZ:
            self._long = self._long or LongSound()
            self._put_away(self._long)
        self._held = self._held[usable:]

    def _put_away(self, long: LongSound) -> None:
        for part in self._mono:
            long.append(part)
        self._mono = []

    def _taken(self, wanted: int) -> Line:
        """The mono mix, `wanted` samples long: the resampler rounds up."""
        if self._long is None:
            return np.concatenate(self._mono)[:wanted]
        self._put_away(self._long)
        self._long.size = min(self._long.size, wanted)
        return self._long


def take_in(samples: Sound, rate: int) -> Intake:
    """Take in a recording held whole, float32 (channels, samples)."""
    taking = TakingIn(rate, samples.shape[0])
    for start in range(0, samples.shape[1], 1 << 18):
        taking.push(samples[:, start : start + (1 << 18)])
    return taking.finish()


def mix_to_mono(samples: Sound) -> Sound:
    """Mean of the channels; summed in a fixed way, so that swapping them gives the same bits."""
    return samples[0] if samples.shape[0] == 1 else (samples[0] + samples[1]) * np.float32(0.5)
