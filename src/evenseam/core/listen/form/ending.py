"""The last hit of a piece and where its ring-out has died away."""

import numpy as np
from scipy.ndimage import uniform_filter1d

from evenseam.core.audio.attacks import Attacks
from evenseam.core.audio.levels import level_db
from evenseam.core.audio.long import Line

_LATEST_SHARE = 0.25
_LOOKED_AT_S = 600.0  # what came before the last ten minutes says nothing about the ending
_FALL_DB = 55.0
_LIFT_WINDOWS, _LIFT_DB = 9, 1.5  # 10 ms windows


def find_ending(mono: Line, attacks: Attacks, music_start: int, music_end: int) -> tuple[int, int]:
    """Last hit and end of ring-out, in samples of the mono mix.

    The last hit is the last attack that is strong beside the attacks of the piece and after which nothing but decay
    comes. The ring-out ends where the level has fallen 55 dB below the loud parts for good, or with the sound.
    """
    step, rate = attacks.step, attacks.rate
    music_start = max(music_start, music_end - round(_LOOKED_AT_S * rate))
    window = max(1, round(rate / 100))
    level = level_db(mono[music_start:music_end], window)
    loud = float(np.percentile(level, 95))
    sounding = np.flatnonzero(level > loud - _FALL_DB)
    ring_out_end = min(music_end, music_start + (int(sounding[-1]) + 2) * window) if sounding.size else music_end
    rise = attacks.rise[music_start // step : ring_out_end // step]
    if rise.size < 10:
        return music_start, ring_out_end
    # An attack counts by how fast and how high it brings the level up, so that noise in a fade does not count.
    grid_level = np.interp(np.arange(rise.size) * step / window + 2, np.arange(level.size), level)
    weight = rise * np.clip((grid_level - (loud - 30)) / 30, 0, 1) * _lifts(level, grid_level.size, step / window)
    strong = 0.4 * float(np.percentile(_peaks(weight), 75))
    earliest = int(rise.size * (1 - _LATEST_SHARE))
    late = np.flatnonzero(weight[earliest:] >= max(strong, 0.15))
    if not late.size:
        return music_start + _start_of_decay(level, window, loud), ring_out_end
    last = earliest + int(late[-1])
    cluster = slice(max(0, last - round(0.03 * rate / step)), last + 1)
    return music_start + (cluster.start + int(weight[cluster].argmax())) * step, ring_out_end


def _lifts(level: np.ndarray, n: int, windows_per_step: float) -> np.ndarray:
    """Whether the level after a moment is above the level before it: a note let go is no attack; bool (n,)."""
    after = uniform_filter1d(level, _LIFT_WINDOWS, origin=-(_LIFT_WINDOWS // 2))
    before = uniform_filter1d(level, _LIFT_WINDOWS, origin=_LIFT_WINDOWS // 2)
    lift = np.maximum.reduce([np.roll(after - before, k) for k in (-1, 0, 1)])
    return np.interp(np.arange(n) * windows_per_step, np.arange(level.size), lift) > _LIFT_DB


def _peaks(weight: np.ndarray, width: int = 100) -> np.ndarray:
    """Highest value of each tenth of a second, of those that have any."""
    usable = weight[: weight.size // width * width].reshape(-1, width).max(axis=1) if weight.size >= width else weight
    heard = usable[usable > 0]
    return heard if heard.size else np.zeros(1)


def _start_of_decay(level: np.ndarray, window: int, loud: float) -> int:
    """For music without attacks at the end: where the final fall below -12 dB of the loud parts begins."""
    above = np.flatnonzero(level > loud - 12)
    return int(above[-1]) * window if above.size else 0
