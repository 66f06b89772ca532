"""Loudness, peaks, and where the sound of a recording starts and ends."""

import numpy as np
import pyloudnorm
import scipy.signal
from numpy.typing import NDArray

from evenseam.core.audio.long import Line
from evenseam.core.audio.sound import Sound

_WINDOW_S = 0.01
_FLOOR_DB = -90.0
_GATE_LUFS, _RELATIVE_GATE_LU = -70.0, -10.0
_STEPS_PER_BLOCK = 4  # gating blocks of 400 ms, one every 100 ms
_PEAK_BLOCK = 256
_PEAKS_FIRST = 64  # the highest ones show at once which of the others cannot be higher
_SAMPLES_AT_ONCE = 1 << 20
_PEAK_MARGIN = 32  # samples around a block that its oversampled values still feel
_HIDDEN_PEAK = 1.42  # between samples a peak may be this much higher than they show: 3 dB, which is already rare


class LoudnessMeter:
    """Integrated loudness of EBU R128 (ITU-R BS.1770-4) of sound that comes block by block."""

    def __init__(self, rate: int, channels: int) -> None:
        shelf = pyloudnorm.IIRfilter(4.0, 1 / np.sqrt(2), 1500.0, rate, "high_shelf")
        high_pass = pyloudnorm.IIRfilter(0.0, 0.5, 38.0, rate, "high_pass")
        self._sos = np.stack([np.concatenate([f.b, f.a]) for f in (shelf, high_pass)])
        self._state = np.zeros((2, channels, 2))
        self._step = rate // 10
        self._left = np.empty(0)
        self._power: list[NDArray[np.float64]] = []

    def push(self, block: Sound) -> None:
        """More sound, float32 (channels, samples)."""
        weighted, self._state = scipy.signal.sosfilt(self._sos, block, axis=1, zi=self._state)
        power = np.concatenate([self._left, np.square(weighted).sum(axis=0)])
        whole = power.size // self._step * self._step
        self._power.append(power[:whole].reshape(-1, self._step).mean(axis=1))
        self._left = power[whole:]

    def integrated_lufs(self) -> float:
        """Loudness of all that came; -inf when there is less than one gating block of sound above the gate."""
        steps = np.concatenate([np.empty(0), *self._power])
        if steps.size < _STEPS_PER_BLOCK:
            return float("-inf")
        blocks = np.lib.stride_tricks.sliding_window_view(steps, _STEPS_PER_BLOCK).mean(axis=1)
        loud = blocks[_lufs(blocks) > _GATE_LUFS]
        if not loud.size:
            return float("-inf")
        gate = float(_lufs(loud.mean())) + _RELATIVE_GATE_LU
        return float(_lufs(loud[_lufs(loud) > gate].mean()))


def _lufs(power: NDArray[np.float64] | np.floating) -> NDArray[np.float64]:
    return np.asarray(-0.691 + 10 * np.log10(np.maximum(power, 1e-15)))


class TruePeakMeter:
    """True peak of ITU-R BS.1770-4, Annex 2 (fourfold oversampling), of sound that comes block by block.

    Only stretches whose samples come near the highest peak so far are oversampled: the others cannot hold a higher one.
    """

    def __init__(self, rate: int, channels: int) -> None:
        self._factor = 4 if rate < 96_000 else 2 if rate < 192_000 else 1
        self._tail = np.zeros((channels, _PEAK_MARGIN), dtype=np.float32)
        self._peak = 0.0

    def push(self, block: Sound) -> None:
        """More sound, float32 (channels, samples). The last of it is measured when what follows is known."""
        self._measure(np.concatenate([self._tail, block], axis=1))

    def _measure(self, sound: Sound) -> None:
        """Measure whole blocks of `sound`, which starts a margin before what is new, and keep the rest."""
        n = (sound.shape[1] - 2 * _PEAK_MARGIN) // _PEAK_BLOCK
        self._tail = sound[:, max(0, n) * _PEAK_BLOCK :].copy()
        if n <= 0:
            return
        inner = sound[:, _PEAK_MARGIN : _PEAK_MARGIN + n * _PEAK_BLOCK].reshape(sound.shape[0], n, _PEAK_BLOCK)
        highest = np.maximum(inner.max(axis=(0, 2)), -inner.min(axis=(0, 2)))
        windows = np.lib.stride_tricks.sliding_window_view(sound, _PEAK_BLOCK + 2 * _PEAK_MARGIN, axis=1)
        windows = windows[:, : n * _PEAK_BLOCK : _PEAK_BLOCK]
        order = np.argsort(-highest, kind="stable")
        for some in (order[:_PEAKS_FIRST], order[_PEAKS_FIRST:]):
            near = some[(highest[some] * _HIDDEN_PEAK > self._peak) & (highest[some] > 0)]
            if near.size:
                self._oversample(windows[:, near])

    def _oversample(self, parts: Sound) -> None:
        finer = scipy.signal.resample_poly(parts, self._factor, 1, axis=-1) if self._factor > 1 else parts
        margin = _PEAK_MARGIN * self._factor // 2  # the edges of a part ring where it was cut
        self._peak = max(self._peak, float(np.abs(finer[..., margin:-margin]).max()))

    def dbtp(self) -> float:
        """The true peak of all that came in dBTP; -inf for silence. Silence is taken to follow."""
        self._measure(np.pad(self._tail, ((0, 0), (0, _PEAK_BLOCK + 2 * _PEAK_MARGIN))))
        return 20 * float(np.log10(self._peak)) if self._peak > 0 else float("-inf")


def loudness_lufs(samples: Sound, rate: int) -> float:
    """Integrated loudness of float32 (channels, samples); see `LoudnessMeter`."""
    meter = LoudnessMeter(rate, samples.shape[0])
    meter.push(samples)
    return meter.integrated_lufs()


def level_db(mono: Line, window_samples: int) -> np.ndarray:
    """RMS level in dB re full scale of consecutive windows; float64 (ceil(n / window),), floor -90."""
    power = mean_squares(mono, window_samples)
    return np.maximum(10 * np.log10(power + 1e-12), _FLOOR_DB)


def mean_squares(sound: Line, window_samples: int) -> NDArray[np.float64]:
    """Mean square of consecutive windows of (samples,); the last one counts as if silence followed. Needs little memory."""
    at_once = window_samples * max(1, _SAMPLES_AT_ONCE // window_samples)
    parts = []
    for start in range(0, sound.size, at_once):
        square = np.square(sound[start : start + at_once], dtype=np.float64)
        square = np.pad(square, (0, -square.size % window_samples))
        parts.append(square.reshape(-1, window_samples).mean(axis=1))
    return np.concatenate([np.empty(0), *parts])


def sounding_span(mono: Line, rate: float) -> tuple[int, int]:
    """First and one-past-last sample of the sound in a recording; (0, 0) when it is silent throughout.

    Sound is what is within 60 dB of the loud parts (the 95th percentile of level) and at least 10 dB above the floor
    that the recording shows at its own head and tail, so that hiss before the music is not taken for music.
    """
    window = max(1, round(_WINDOW_S * rate))
    level = level_db(mono, window)
    loud = float(np.percentile(level, 95))
    if loud <= _FLOOR_DB + 1:
        return (0, 0)

    def threshold(edge: np.ndarray) -> float:
        return float(np.clip(np.median(edge) + 10, loud - 60, loud - 20))

    head = np.flatnonzero(level > threshold(level[:10]))
    tail = np.flatnonzero(level > threshold(level[-10:]))
    if not head.size or not tail.size:
        return (0, 0)
    start = max(0, int(head[0]) - 1) * window
    end = min(mono.size, (int(tail[-1]) + 1) * window)
    return (start, end) if end > start else (0, 0)
