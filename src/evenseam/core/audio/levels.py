"""Loudness, and where the sound of a recording starts and ends."""

import numpy as np
import pyloudnorm

from evenseam.core.audio.decode import Audio, Sound

_WINDOW_S = 0.01
_FLOOR_DB = -90.0


def loudness_lufs(audio: Audio) -> float:
    """Integrated loudness of EBU R128 (ITU-R BS.1770-4); -inf when there is less than one gating block of sound."""
    meter = pyloudnorm.Meter(audio.rate)
    if audio.n_samples < 0.4 * audio.rate + 1:
        return float("-inf")
    return float(meter.integrated_loudness(audio.samples.T.astype(np.float64)))


def level_db(mono: Sound, window_samples: int) -> np.ndarray:
    """RMS level in dB re full scale of consecutive windows; float64 (ceil(n / window),), floor -90."""
    n_windows = -(-mono.size // window_samples)
    padded = np.zeros(n_windows * window_samples, dtype=np.float32)
    padded[: mono.size] = mono
    power = np.square(padded.reshape(n_windows, window_samples)).mean(axis=1, dtype=np.float64)
    return np.maximum(10 * np.log10(power + 1e-12), _FLOOR_DB)


def sounding_span(mono: Sound, rate: int) -> tuple[int, int]:
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


def correlation(a: Sound, b: Sound) -> float:
    """Correlation of two sounds of the same shape, -1 to 1; 0 where one is silent."""
    norm = float(np.sqrt(np.square(a, dtype=np.float64).sum() * np.square(b, dtype=np.float64).sum()))
    return float(np.clip(float((a.astype(np.float64) * b).sum()) / norm, -1, 1)) if norm > 1e-9 else 0.0
