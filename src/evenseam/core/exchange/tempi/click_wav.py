"""Clicks as WAV files: on the beats of a steady tempo, of a tempo map, of a fit."""

from dataclasses import dataclass
from math import ceil
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.encode import WavWriter
from evenseam.core.render.click import BEAT, BETWEEN, DOWNBEAT, add_clicks

_BLOCK_SAMPLES = 1 << 20


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
    kinds = kinds if style.is_accented else np.minimum(kinds, BEAT)
    samples = np.rint(at + early_s * rate).astype(np.int64)
    _write(path, samples[inside], kinds[inside], n_samples + early_s * rate, rate)
    return early_s


_Beats = tuple[NDArray[np.float64], NDArray[np.int64]]


def _counted_in(beats: NDArray[np.int64] | NDArray[np.float64], beat_in_bar: NDArray[np.int16], bars: int) -> _Beats:
    """Beats and their kinds, after some bars as long as the first one at the tempo it begins with."""
    at, kinds = beats.astype(np.float64), np.where(beat_in_bar == 0, DOWNBEAT, BEAT)
    if not bars or at.size < 2:
        return at, kinds
    others = np.flatnonzero(beat_in_bar[1:] == 0)
    meter = int(others[0]) + 1 if others.size else at.size
    before = np.arange(-bars * meter, 0)
    return (
        np.append(at[0] + before * (at[1] - at[0]), at),
        np.append(np.where(before % meter == 0, DOWNBEAT, BEAT), kinds),
    )


def _in_parts(at: NDArray[np.float64], kinds: NDArray[np.int64], parts: int) -> _Beats:
    """The same with what lies between: each beat but the last in equal parts."""
    if parts == 1 or at.size < 2:
        return at, kinds
    places = np.arange((at.size - 1) * parts + 1) / parts
    between = np.full(places.size, BETWEEN)
    between[::parts] = kinds
    return np.interp(places, np.arange(at.size), at), between


def _write(path: Path, at: NDArray[np.int64], kinds: NDArray[np.int64], n_samples: int, rate: int) -> None:
    with WavWriter(path, rate, 1, "int24", n_samples) as file:
        for start in range(0, n_samples, _BLOCK_SAMPLES):
            block = np.zeros((1, min(_BLOCK_SAMPLES, n_samples - start)), dtype=np.float32)
            add_clicks(block, start, rate, at, kinds)
            file.write(block)
