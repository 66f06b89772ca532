"""A sweep: music played faster or slower along a time map, its pitch kept, without a join anywhere.

A phase vocoder that works towards fixed output places: for every output frame the source is looked at under the frame and
one hop earlier, so the advance of each phase is measured and never guessed (Puckette 1995). Around each spectral peak all
bins, of all channels, are turned by one angle (Laroche and Dolson 1999), which keeps the shape of partials and the
stereo image. Around attacks the music runs at its own speed, and what is struck there begins in its own phases while
partials that ring on keep theirs (after Röbel 2003): attacks stay sharp and lie where the map puts them.
"""

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound
from evenseam.core.render._kernels_sound import turn_frames
from evenseam.core.render.struck import Places, Source
from evenseam.core.timebase.time_map import TimeMap

SWEEP_VERSION = 1  # of how it sounds: part of the key of everything that is kept
_WINDOW_S = 0.085
_OVERLAP = 4
_FRAMES_AT_ONCE = 48


class Sweep:
    """The output of a time map over a source, whole from `margin` samples before its first knot to as many after its last.

    Sound is made in order, from wherever `begin` starts; the same start gives the same samples.
    """

    def __init__(self, source: Source, time_map: TimeMap, margin: int = 0) -> None:
        self.channels, self.rate = source.channels, source.rate
        self.starts_at = time_map.knots[0].out_samples - margin
        self.ends_at = time_map.knots[-1].out_samples + margin
        self.window_samples = 1 << round(np.log2(_WINDOW_S * source.rate))
        self._read = source.read
        self._places = Places(source, time_map, self.window_samples)

    def begin(self, out: int | None = None) -> "Playing":
        """Start to play so that output is whole from `out` on (from the start by default); phases begin as in the source."""
        return Playing(self, self.starts_at if out is None else out)

    def frames(self, first: int, count: int) -> tuple[NDArray[np.complex64], NDArray[np.complex64], NDArray[np.bool_]]:
        """Spectra of the source under frames, and one hop before them, (frames, channels, bins); whether one is struck."""
        n, hop = self.window_samples, self.window_samples // _OVERLAP
        places, is_struck = self._places.under(np.arange(first, first + count, dtype=np.int64) * hop)
        low = int(places[0]) - hop - n // 2
        sound = self._read(low, int(places[-1]) + n // 2)
        windows = np.lib.stride_tricks.sliding_window_view(sound, n, axis=1).transpose(1, 0, 2)
        starts = places - n // 2 - low
        now, before = (_spectra(windows[at]) for at in (starts, starts - hop))
        return now, before, is_struck


class Playing:
    """A sweep under way. What it makes comes in order, some tenths of a second at a time."""

    def __init__(self, sweep: Sweep, out: int) -> None:
        n = sweep.window_samples
        self._sweep, self._hop = sweep, n // _OVERLAP
        self._window = _window(n) / np.float32(np.square(_window(n)[:: self._hop]).sum())
        self._next = (out - n // 2) // self._hop
        self._last: NDArray[np.complex64] | None = None
        self._sounding = np.zeros((sweep.channels, n), dtype=np.float32)

    @property
    def at(self) -> int:
        """The first output sample that is not made yet."""
        return self._next * self._hop - self._sweep.window_samples // 2

    def make(self) -> Sound:
        """What comes next, from `at` on; float32 (channels, samples)."""
        n, count = self._sweep.window_samples, _FRAMES_AT_ONCE
        now, before, is_struck = self._sweep.frames(self._next, count)
        if self._last is None:
            self._last = before[0].copy()
        turn_frames(now, before, self._last, is_struck)
        made = scipy.fft.irfft(now, n, axis=2) * self._window
        line = np.zeros((self._sweep.channels, count * self._hop + n), dtype=np.float32)
        line[:, :n] = self._sounding
        for f in range(count):
            line[:, f * self._hop : f * self._hop + n] += made[f]
        self._sounding = line[:, count * self._hop :].copy()
        self._next += count
        return line[:, : count * self._hop]


def _spectra(frames: Sound) -> NDArray[np.complex64]:
    return np.asarray(scipy.fft.rfft(frames * _window(frames.shape[-1]), axis=-1), dtype=np.complex64)


def _window(n: int) -> NDArray[np.float32]:
    return np.hanning(n + 1)[:-1].astype(np.float32)
