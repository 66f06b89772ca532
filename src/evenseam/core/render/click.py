"""A click on the beats of a recording, accented on downbeats, to check them by ear; and one of a steady tempo as a file."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio import WavWriter
from evenseam.core.audio.decode import Sound

_CLICK_S, _DECAY_S = 0.030, 0.007
_BEAT_HZ, _DOWNBEAT_HZ = 1100.0, 1650.0
_LEVEL, _ACCENT = 0.35, 0.6
_BLOCK_SAMPLES = 1 << 20
_MUSIC_LEVEL = 0.7  # so that clicks stand out and the sum stays inside full scale for most music


def with_clicks(block: Sound, start_samples: int, rate: int, beats: NDArray[np.int64], beat_in_bar: NDArray[np.int64]) -> Sound:
    """A copy of `block`, float32 (channels, samples) from `start_samples` on, with a click that starts on every beat."""
    out = block * np.float32(_MUSIC_LEVEL)
    n = block.shape[1]
    sounds = {accent: _click(rate, accent) for accent in (False, True)}
    longest = sounds[True].size
    inside = np.flatnonzero((beats > start_samples - longest) & (beats < start_samples + n))
    for k in inside:
        click = sounds[bool(beat_in_bar[k] == 0)]
        at = int(beats[k]) - start_samples
        low, high = max(0, at), min(n, at + click.size)
        out[:, low:high] += click[low - at : high - at]
    return np.clip(out, -1.0, 1.0)


def write_click(path: Path, bpm: float, meter: int, starts_s: float, length_s: float, rate: int) -> None:
    """A click of a steady tempo from bar one on, mono at `rate` Hz, each to the sample; the file starts with the picture."""
    n_samples, period = round(length_s * rate), 60 / bpm
    count = max(0, int((length_s - starts_s) // period) + 1)
    beats = np.rint((starts_s + np.arange(count) * period) * rate).astype(np.int64)
    with WavWriter(path, rate, 1, "int24", n_samples) as file:
        for start in range(0, n_samples, _BLOCK_SAMPLES):
            silence = np.zeros((1, min(_BLOCK_SAMPLES, n_samples - start)), dtype=np.float32)
            file.write(with_clicks(silence, start, rate, beats, np.arange(count) % meter))


def _click(rate: int, accent: bool) -> NDArray[np.float32]:
    t = np.arange(round(_CLICK_S * rate)) / rate
    tone = np.cos(2 * np.pi * (_DOWNBEAT_HZ if accent else _BEAT_HZ) * t) * np.exp(-t / _DECAY_S)
    fade = np.clip((_CLICK_S - t) / 0.005, 0, 1)
    return ((_ACCENT if accent else _LEVEL) * tone * fade).astype(np.float32)
