"""Frames, rates, timecode, samples: integers and Fractions only."""

from evenseam.core.timebase.rates import FrameRate
from evenseam.core.timebase.samples import (
    FLICKS_PER_S,
    flicks_to_samples,
    frames_to_flicks,
    nearest,
    seconds_to_flicks,
    seconds_to_samples,
)
from evenseam.core.timebase.time_map import Knot, TimeMap
from evenseam.core.timebase.timecode import (
    format_clock,
    format_feet,
    format_timecode,
    is_relative,
    parse_position,
    parse_time,
    parse_timecode_frames,
    parse_typed,
)

__all__ = [
    "FLICKS_PER_S",
    "FrameRate",
    "Knot",
    "TimeMap",
    "flicks_to_samples",
    "format_clock",
    "format_feet",
    "format_timecode",
    "frames_to_flicks",
    "is_relative",
    "nearest",
    "parse_position",
    "parse_time",
    "parse_timecode_frames",
    "parse_typed",
    "seconds_to_flicks",
    "seconds_to_samples",
]
