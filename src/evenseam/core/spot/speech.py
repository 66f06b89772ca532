"""Where somebody speaks in a sound: spans of voiced sound well above what is heard between them."""

from collections.abc import Callable
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from scipy.signal import get_window, resample_poly

from evenseam.core.audio.sound import Sound
from evenseam.core.spot.sheet import Line
from evenseam.core.timebase import FrameRate

_RATE_HZ = 8_000
_WINDOW, _HOP = 256, 80  # 32 ms every 10 ms
_HOPS_PER_S = _RATE_HZ // _HOP
_LOWEST_HZ, _HIGHEST_HZ = 120, 3_400
_PITCH_HZ = (70, 380)
_ABOVE_FLOOR_DB, _BELOW_VOICE_DB, _LEAST_DB = 9.0, 28.0, -62.0
_PRE_EMPHASIS = 0.96
_NEAR_VOICE_S = 0.2  # as far from a vowel as a consonant is
_VOICED_FROM = 0.45
_JOIN_S, _LEAST_S, _LEAST_VOICED_S = 0.45, 0.25, 0.12
_BEFORE_S, _AFTER_S = 0.06, 0.10
_BLOCK_S = 60


def find_lines(
    samples: Sound,
    rate_hz: int,
    rate: FrameRate,
    length_frames: int,
    at_frames: int = 0,
    on_progress: Callable[[float], None] | None = None,
) -> tuple[Line, ...]:
    """Dialogue lines in a recording, in frames of a picture on which it starts at `at_frames`; their text is empty.

    Parameters: samples: float32 (channels, samples) or a memory map of that shape; read in blocks of a minute.
    on_progress: told the share that was heard, after every block.
    Notes: a stretch counts where the band of speech stands out from what is heard between, at or near a voiced frame: one
    that repeats itself at a pitch of a voice (autocorrelation, after Rabiner 1977). Music with a lead is taken for speech.
    """
    level, voiced = _heard(samples, rate_hz, on_progress)
    if not level.size:
        return ()
    if not voiced.any():
        return ()
    usual_db = float(np.percentile(level[voiced], 75))
    least_db = max(float(np.percentile(level, 10)) + _ABOVE_FLOOR_DB, usual_db - _BELOW_VOICE_DB, _LEAST_DB)
    is_loud = level > least_db
    near = np.convolve(voiced & is_loud, np.ones(2 * round(_NEAR_VOICE_S * _HOPS_PER_S) + 1), "same") > 0
    spans = [s for s in _joined(_runs(is_loud & near)) if _is_speech(s, voiced)]
    lines = []
    for first, last in spans:
        start = max(0, at_frames + int(Fraction(first, _HOPS_PER_S) * rate.fps - Fraction(_BEFORE_S) * rate.fps))
        end = min(length_frames, at_frames - int(-(Fraction(last, _HOPS_PER_S) + Fraction(_AFTER_S)) * rate.fps // 1))
        if end > start:
            lines.append(Line(start, end))
    return tuple(lines)


def _heard(
    samples: Sound, rate_hz: int, on_progress: Callable[[float], None] | None
) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Level of the band of speech in dB, and whether a voice is in it, every 10 ms."""
    step = _BLOCK_S * rate_hz
    levels, voiced = [], []
    for start in range(0, samples.shape[1], step):
        block = np.asarray(samples[:, start : start + step + rate_hz // 10], dtype=np.float64).mean(axis=0)
        low = resample_poly(block, _RATE_HZ, rate_hz) if rate_hz != _RATE_HZ else block
        low = np.append(0.0, low[1:] - _PRE_EMPHASIS * low[:-1])  # wind and rumble fall with the frequency, voices do not
        n = min((len(low) - _WINDOW) // _HOP + 1, _BLOCK_S * _HOPS_PER_S)
        if n <= 0:
            continue
        frames = np.lib.stride_tricks.sliding_window_view(low, _WINDOW)[: n * _HOP : _HOP]
        power = np.abs(np.fft.rfft(frames * get_window("hann", _WINDOW), 2 * _WINDOW)) ** 2
        hz = np.fft.rfftfreq(2 * _WINDOW, 1 / _RATE_HZ)
        band = (hz >= _LOWEST_HZ) & (hz <= _HIGHEST_HZ)
        levels.append(10 * np.log10(power[:, band].sum(axis=1) / _WINDOW**2 + 1e-12))
        voiced.append(_voiced(power))
        if on_progress is not None:
            on_progress(min(1.0, (start + step) / samples.shape[1]))
    if not levels:
        return np.empty(0), np.empty(0, dtype=bool)
    return np.concatenate(levels), np.concatenate(voiced)


def _voiced(power: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether each frame repeats itself at a pitch that a voice has."""
    likeness = np.fft.irfft(power, axis=1)
    window = np.fft.irfft(np.abs(np.fft.rfft(get_window("hann", _WINDOW), 2 * _WINDOW)) ** 2)
    likeness = likeness / (likeness[:, :1] + 1e-12) / np.maximum(window / window[0], 0.05)
    shortest, longest = _RATE_HZ // _PITCH_HZ[1], min(_RATE_HZ // _PITCH_HZ[0], _WINDOW * 2 // 3)
    found: NDArray[np.bool_] = likeness[:, shortest:longest].max(axis=1) >= _VOICED_FROM
    return found


def _runs(is_on: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], is_on.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def _joined(runs: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Runs with the short pauses between them bridged."""
    out: list[tuple[int, int]] = []
    for first, last in runs:
        if out and first - out[-1][1] <= _JOIN_S * _HOPS_PER_S:
            out[-1] = out[-1][0], last
        else:
            out.append((first, last))
    return out


def _is_speech(span: tuple[int, int], voiced: NDArray[np.bool_]) -> bool:
    first, last = span
    return last - first >= _LEAST_S * _HOPS_PER_S and int(voiced[first:last].sum()) >= _LEAST_VOICED_S * _HOPS_PER_S
