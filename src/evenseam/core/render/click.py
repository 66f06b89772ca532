"""Clicks on beats, accented on downbeats: to check beats by ear, and to play to."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound

_CLICK_S, _DECAY_S = 0.030, 0.007
BETWEEN, BEAT, DOWNBEAT = 0, 1, 2  # kinds of clicks
_SOUNDS = ((0.16, 820.0), (0.35, 1100.0), (0.6, 1650.0))  # of each kind its level and its pitch in Hz
MUSIC_DB = -3.0  # of what is heard beside clicks, so that they stand out and the sum stays inside full scale for most music


class Clicks:
    """A click on every beat of a recording, at any rate: a sound of its own, beside the music.

    beats: int64 (n,), samples at the recording's rate. beat_in_bar: int (n,), 0 on downbeats.
    """

    channels = 1

    def __init__(self, rate: int, beats: NDArray[np.int64], beat_in_bar: NDArray[np.int64], recording_rate: int) -> None:
        self.rate = rate
        self._at = np.rint(beats * (rate / recording_rate)).astype(np.int64)
        self._kinds = np.where(beat_in_bar == 0, DOWNBEAT, BEAT)

    def block(self, start: int, stop: int) -> Sound:
        """[start, stop), float32 (1, stop - start)."""
        out = np.zeros((1, stop - start), dtype=np.float32)
        add_clicks(out, start, self.rate, self._at, self._kinds)
        return out


def add_clicks(block: Sound, start_samples: int, rate: int, at: NDArray[np.int64], kinds: NDArray[np.int64]) -> None:
    """Add clicks of their kinds that start at samples of a sound to a block of it, in place."""
    sounds, n = [_click(rate, kind) for kind in range(len(_SOUNDS))], block.shape[1]
    for k in np.flatnonzero((at > start_samples - sounds[0].size) & (at < start_samples + n)):
        click, first = sounds[kinds[k]], int(at[k]) - start_samples
        low, high = max(0, first), min(n, first + click.size)
        block[:, low:high] += click[low - first : high - first]
    np.clip(block, -1.0, 1.0, out=block)


def _click(rate: int, kind: int) -> NDArray[np.float32]:
    level, pitch_hz = _SOUNDS[kind]
    t = np.arange(round(_CLICK_S * rate)) / rate
    tone = np.cos(2 * np.pi * pitch_hz * t) * np.exp(-t / _DECAY_S)
    fade = np.clip((_CLICK_S - t) / 0.005, 0, 1)
    return (level * tone * fade).astype(np.float32)
