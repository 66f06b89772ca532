"""Bars as a table: where each begins on the picture."""

import csv
import io
from collections.abc import Iterable, Sequence
from itertools import count, takewhile
from math import isfinite

from evenseam.core.timebase import FrameRate, format_timecode

_PLACE = ("Bar", "Timecode", "Frames", "Seconds")


def write_bars(bpm: float, meter: int, starts_s: float, rate: FrameRate, start_frames: int, length_frames: int) -> bytes:
    """Of a steady tempo, to the picture's end: bar, timecode of the frame it begins in, frames and seconds from the first.

    `starts_s`: of bar one, from the picture's first frame; `start_frames`: the timecode of that frame.
    """
    begins = (starts_s + bar * meter * 60 / bpm for bar in count())
    inside = takewhile(lambda seconds: seconds * rate.fps < length_frames, begins)
    return _table(((seconds, ()) for seconds in inside), rate, start_frames, ())


def write_fit_bars(
    at_s: Sequence[float], bpm: Sequence[float], track_s: Sequence[float], rate: FrameRate, start_frames: int
) -> bytes:
    """Of a fit, the same of each bar and its tempo, and where it lies in the track; seconds and frames are from its start.

    `start_frames`: the timecode where the fit starts.
    """
    rows = (
        (seconds, (f"{tempo:.3f}" if isfinite(tempo) else "", f"{track:.6f}"))
        for seconds, tempo, track in zip(at_s, bpm, track_s, strict=True)
    )
    return _table(rows, rate, start_frames, ("Tempo", "Track seconds"))


def write_map_bars(at_s: Sequence[float], bpm: Sequence[float], rate: FrameRate, start_frames: int) -> bytes:
    """Of a tempo map on a picture, the same of each bar and its tempo; `start_frames`: the timecode of the first frame."""
    rows = ((seconds, (f"{tempo:.3f}",)) for seconds, tempo in zip(at_s, bpm, strict=True))
    return _table(rows, rate, start_frames, ("Tempo",))


def _table(bars: Iterable[tuple[float, tuple[str, ...]]], rate: FrameRate, start_frames: int, more: tuple[str, ...]) -> bytes:
    out = io.StringIO(newline="")
    table = csv.writer(out)
    table.writerow([*_PLACE, *more])
    for bar, (seconds, rest) in enumerate(bars, 1):
        frames = float(seconds * rate.fps)
        timecode = format_timecode(start_frames + int(frames + 1e-6), rate)
        table.writerow([bar, timecode, f"{frames:.3f}", f"{seconds:.6f}", *rest])
    return out.getvalue().encode()
