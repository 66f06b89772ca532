"""Numbers without end: each is answered at once, with a reason."""

from collections.abc import Callable

import pytest

from evenseam.core.errors import EvenSeamError, SpotError
from evenseam.core.exchange.marks import read_marks
from evenseam.core.spot import Hit, Line
from evenseam.core.timebase import FrameRate, parse_position, parse_time, parse_timecode_frames, parse_typed

RATE = FrameRate(25)
LONG = "9" * 5000
WITHOUT_END = ["1e100000000", f"1/{LONG}", LONG, f"{LONG}/1", "-5", "1e3", "inf", "nan", "1_000"]


@pytest.mark.parametrize("word", WITHOUT_END)
@pytest.mark.parametrize(
    "read",
    [
        FrameRate.parse,
        lambda word: parse_time(f"{word}f", RATE),
        lambda word: parse_time(f"{word}:10", RATE),
        lambda word: parse_time(f"{word}+10", RATE),
        lambda word: parse_typed(f"{word}:00:00:00", RATE),
        lambda word: parse_position(f"+{word}x", RATE),
        lambda word: parse_timecode_frames(f"{word}:00:00:00", RATE),
        lambda word: read_marks(".csv", f"frame\n{word}.".encode(), RATE),
        lambda word: read_marks(".csv", f"seconds\n{word}x".encode(), RATE),
        lambda word: read_marks(".csv", f"frame,rate\n5,{word}".encode(), RATE),
        lambda word: read_marks(".vtt", f"WEBVTT\n\n{word}:00:00.000 --> {word}:00:01.000\nHello".encode(), RATE),
        lambda word: read_marks(".edl", f"001 AX V C {word}:00:00:00 {word}:00:00:01 00:00:00:00 00:00:00:01".encode(), RATE),
    ],
)
def test_a_number_without_end_is_refused(read: Callable[[str], object], word: str) -> None:
    with pytest.raises(EvenSeamError):
        read(word)


@pytest.mark.parametrize("number", ["1e300", "NaN", "Infinity", "-1e12"])
def test_a_timeline_with_such_a_time_is_refused(number: str) -> None:
    time = f'{{"OTIO_SCHEMA": "RationalTime.1", "rate": 25.0, "value": {number}}}'
    one = '{"OTIO_SCHEMA": "RationalTime.1", "rate": 25.0, "value": 1.0}'
    span = f'{{"OTIO_SCHEMA": "TimeRange.1", "start_time": {time}, "duration": {one}}}'
    marker = f'{{"OTIO_SCHEMA": "Marker.2", "name": "m", "marked_range": {span}, "metadata": {{}}}}'
    stack = f'{{"OTIO_SCHEMA": "Stack.1", "name": "s", "children": [], "markers": [{marker}], "effects": [], "metadata": {{}}}}'
    timeline = f'{{"OTIO_SCHEMA": "Timeline.1", "name": "t", "tracks": {stack}, "metadata": {{}}}}'
    with pytest.raises(SpotError):
        read_marks(".otio", timeline.encode(), RATE)


def test_marks_lie_on_pictures() -> None:
    with pytest.raises(SpotError, match="further away"):
        Hit(10**9)
    with pytest.raises(SpotError, match="further away"):
        Line(0, 10**9)
