"""Exact conversions between seconds, picture frames, flicks and audio samples.

A flick is 1/705,600,000 s: the smallest unit in which every usual picture rate (the 1000/1001 ones too) and every
usual audio rate is a whole number. Stored lengths are flicks, so that a typed 72.5 s stays 72.5 s at 25 frames per second.
"""

from fractions import Fraction

from evenseam.core.timebase.rates import FrameRate

FLICKS_PER_S = 705_600_000


def nearest(value: Fraction) -> int:
    """Nearest integer, halves upwards (round() would send halves to the even neighbour)."""
    return (2 * value.numerator + value.denominator) // (2 * value.denominator)


def seconds_to_samples(seconds: Fraction | int | float, rate_hz: int) -> int:
    """Nearest sample to a time in seconds."""
    return nearest(Fraction(seconds) * rate_hz)


def seconds_to_flicks(seconds: Fraction | int | float) -> int:
    """Nearest flick to a time in seconds."""
    return nearest(Fraction(seconds) * FLICKS_PER_S)


def flicks_to_samples(flicks: int, rate_hz: int) -> int:
    """Nearest sample to a time in flicks; exact at every usual rate."""
    return nearest(Fraction(flicks * rate_hz, FLICKS_PER_S))


def frames_to_flicks(frames: int, rate: FrameRate) -> int:
    """Start of a picture frame in flicks; exact at every usual rate."""
    return nearest(Fraction(frames) / rate.fps * FLICKS_PER_S)
