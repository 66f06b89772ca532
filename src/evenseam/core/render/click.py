"""A click on the beats of a recording, accented on downbeats, to check them by ear."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.decode import Sound

_CLICK_S, _DECAY_S = 0.030, 0.007
_BEAT_HZ, _DOWNBEAT_HZ = 1100.0, 1650.0
_LEVEL, _ACCENT = 0.35, 0.6
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


def _click(rate: int, accent: bool) -> NDArray[np.float32]:
    t = np.arange(round(_CLICK_S * rate)) / rate
    tone = np.cos(2 * np.pi * (_DOWNBEAT_HZ if accent else _BEAT_HZ) * t) * np.exp(-t / _DECAY_S)
    fade = np.clip((_CLICK_S - t) / 0.005, 0, 1)
    return ((_ACCENT if accent else _LEVEL) * tone * fade).astype(np.float32)
