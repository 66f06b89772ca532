"""The bars of a steady tempo as a table: where each begins on the picture."""

import csv
import io
from itertools import count, takewhile

from evenseam.core.timebase import FrameRate, format_timecode


def write_bars(bpm: float, meter: int, starts_s: float, rate: FrameRate, start_frames: int, length_frames: int) -> bytes:
    """Bar, timecode of the frame it begins in, frames from the picture's first and seconds of each, to the picture's end.

    `starts_s`: of bar one, from the picture's first frame; `start_frames`: the timecode of that frame.
    """
    out = io.StringIO(newline="")
    table = csv.writer(out)
    table.writerow(["Bar", "Timecode", "Frames", "Seconds"])
    begins = ((bar + 1, starts_s + bar * meter * 60 / bpm) for bar in count())
    for bar, seconds in takewhile(lambda row: row[1] * rate.fps < length_frames, begins):
        frames = float(seconds * rate.fps)
        table.writerow([bar, format_timecode(start_frames + int(frames + 1e-6), rate), f"{frames:.3f}", f"{seconds:.6f}"])
    return out.getvalue().encode()
