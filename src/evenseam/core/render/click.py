"""A click on the beats of a recording, accented on downbeats, to check them by ear; and one of a steady tempo as a file."""

from dataclasses import dataclass
from math import ceil
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio import WavWriter
from evenseam.core.audio.decode import Sound

_CLICK_S, _DECAY_S = 0.030, 0.007
_BETWEEN, _BEAT, _DOWNBEAT = 0, 1, 2
_SOUNDS = ((0.16, 820.0), (0.35, 1100.0), (0.6, 1650.0))  # of each kind its level and its pitch in Hz
_BLOCK_SAMPLES = 1 << 20
_MUSIC_LEVEL = 0.7  # so that clicks stand out and the sum stays inside full scale for most music


def with_clicks(block: Sound, start_samples: int, rate: int, beats: NDArray[np.int64], beat_in_bar: NDArray[np.int64]) -> Sound:
    """A copy of `block`, float32 (channels, samples) from `start_samples` on, with a click that starts on every beat."""
    out = block * np.float32(_MUSIC_LEVEL)
    _add(out, start_samples, rate, beats, np.where(beat_in_bar == 0, _DOWNBEAT, _BEAT))
    return out


@dataclass(frozen=True, slots=True)
class ClickStyle:
    """What of a tempo is clicked: bars before bar one, downbeats apart from the others or not, and parts of every beat."""

    count_in_bars: int = 0
    is_accented: bool = True
    parts: int = 1


def write_click(
    path: Path, bpm: float, meter: int, starts_s: float, length_s: float, rate: int, style: ClickStyle | None = None
) -> int:
    """A click of a steady tempo from bar one on, as `write_counted` writes it; `length_s` of the picture."""
    numbers = np.arange(max(0, int((length_s - starts_s) * bpm // 60) + 1) + 1)
    beats = (starts_s + numbers * 60 / bpm) * rate
    return write_counted(path, beats, (numbers % meter).astype(np.int16), round(length_s * rate), rate, style)


def write_counted(
    path: Path,
    beats: NDArray[np.int64] | NDArray[np.float64],
    beat_in_bar: NDArray[np.int16],
    n_samples: int,
    rate: int,
    style: ClickStyle | None = None,
) -> int:
    """A click on beats as they come, mono at `rate` Hz, each to the sample; the file starts with the picture.

    beats: samples of the picture, which has `n_samples`; what comes before the first of them is counted in at its tempo. A
    count-in that has no room there begins before the picture: then the file starts whole seconds earlier.
    Returns: how many.
    """
    style = style or ClickStyle()
    at, kinds = _counted_in(beats, beat_in_bar, style.count_in_bars)
    at, kinds = _in_parts(at, kinds, style.parts)
    early_s = max(0, ceil(-float(at[0]) / rate - 1e-9)) if style.count_in_bars and at.size else 0
    inside = at < n_samples
    kinds = kinds if style.is_accented else np.minimum(kinds, _BEAT)
    samples = np.rint(at + early_s * rate).astype(np.int64)
    _write(path, samples[inside], kinds[inside], n_samples + early_s * rate, rate)
    return early_s


_Beats = tuple[NDArray[np.float64], NDArray[np.int64]]


def _counted_in(beats: NDArray[np.int64] | NDArray[np.float64], beat_in_bar: NDArray[np.int16], bars: int) -> _Beats:
    """Beats and their kinds, after some bars as long as the first one at the tempo it begins with."""
    at, kinds = beats.astype(np.float64), np.where(beat_in_bar == 0, _DOWNBEAT, _BEAT)
    if not bars or at.size < 2:
        return at, kinds
    others = np.flatnonzero(beat_in_bar[1:] == 0)
    meter = int(others[0]) + 1 if others.size else at.size
    before = np.arange(-bars * meter, 0)
    return (
        np.append(at[0] + before * (at[1] - at[0]), at),
        np.append(np.where(before % meter == 0, _DOWNBEAT, _BEAT), kinds),
    )


def _in_parts(at: NDArray[np.float64], kinds: NDArray[np.int64], parts: int) -> _Beats:
    """The same with what lies between: each beat but the last in equal parts."""
    if parts == 1 or at.size < 2:
        return at, kinds
    places = np.arange((at.size - 1) * parts + 1) / parts
    between = np.full(places.size, _BETWEEN)
    between[::parts] = kinds
    return np.interp(places, np.arange(at.size), at), between


def _write(path: Path, at: NDArray[np.int64], kinds: NDArray[np.int64], n_samples: int, rate: int) -> None:
    with WavWriter(path, rate, 1, "int24", n_samples) as file:
        for start in range(0, n_samples, _BLOCK_SAMPLES):
            block = np.zeros((1, min(_BLOCK_SAMPLES, n_samples - start)), dtype=np.float32)
            _add(block, start, rate, at, kinds)
            file.write(block)


def _add(block: Sound, start_samples: int, rate: int, at: NDArray[np.int64], kinds: NDArray[np.int64]) -> None:
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
