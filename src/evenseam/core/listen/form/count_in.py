"""A count-in before the music: a few clicks with silence between them, then everything comes in."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.levels import level_db
from evenseam.core.audio.long import Line

_FEWEST, _MOST = 2, 9  # clicks: two to two bars of four
_STEP_UP_DB = 12.0  # the music is so much fuller (median level) than the count before it
_COMES_IN_DB = 8.0  # the first beat of the music is nearly as full as those after it
_QUIET_BELOW_DB = 22.0  # between clicks it is so much quieter than the music
_CLICKED = 0.75  # of the beats: "one, two, one two three four" leaves out two of eight


def end_of_count_in(mono: Line, rate: float, beats: NDArray[np.float64], start: int) -> int:
    """Where the music starts after a count-in, in samples of `mono`; `start` when there is none.

    Before that place most of the time is near silence, broken by a click on most beats.
    """
    window = round(rate / 100)
    level = level_db(mono[: int(start + 30 * rate)], window)
    ahead = beats[beats >= start - rate / 10]
    for k in range(_FEWEST, _MOST + 1):
        if k + 8 > ahead.size:
            continue
        entry = int(ahead[k])
        count = level[start // window : entry // window - 1]
        music = level[entry // window : int(ahead[min(k + 8, ahead.size - 1)]) // window]
        if not count.size or not music.size:
            continue
        usual = float(np.median(music))
        comes_in = level[entry // window : int(ahead[k + 1]) // window]
        if not comes_in.size or np.median(comes_in) < usual - _COMES_IN_DB:
            continue
        clicks = [level[max(0, int(b) // window - 3) : int(b) // window + 6].max(initial=-90) for b in ahead[:k]]
        quiet = float(np.mean(count < usual - _QUIET_BELOW_DB))
        if (
            np.median(count) < usual - _STEP_UP_DB
            and quiet > 0.4
            and np.mean(np.array(clicks) > np.median(count) + 12) >= _CLICKED
        ):
            return max(start, entry - round(0.03 * rate))
    return start
