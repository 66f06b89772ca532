"""Times: what people type, timecode for every rate, exact conversions."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from evenseam.core.errors import TimeTextError
from evenseam.core.timebase import (
    FLICKS_PER_S,
    FrameRate,
    flicks_to_samples,
    format_clock,
    format_feet,
    format_timecode,
    frames_to_flicks,
    parse_position,
    parse_time,
    parse_timecode_frames,
    seconds_to_samples,
)

RATES = [
    FrameRate.parse(r) for r in ("23.976", "24", "25", "29.97", "29.97df", "30", "47.952", "48", "50", "59.94", "59.94df", "60")
]
rates = st.sampled_from(RATES)


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("72", Fraction(72)),
        ("72.5s", Fraction(145, 2)),
        ("1:12", Fraction(72)),
        ("1:12.500", Fraction(145, 2)),
        ("01:02:03", Fraction(3723)),
        ("00:01:12:00", Fraction(72)),
        (" 0:48 ", Fraction(48)),
        ("50f", Fraction(2)),
        ("3+02", Fraction(2)),
    ],
)
def test_reads_any_sensible_shorthand(text: str, seconds: Fraction) -> None:
    assert parse_time(text, FrameRate(25)) == seconds


@pytest.mark.parametrize(
    "text", ["", "abc", "1:60", "1:2:3:4:5", "00:00:00:25", "-3", "1e9", "9" * 50, "00:00:00;10", "١٢", "3+16"]
)
def test_says_what_can_be_written_instead(text: str) -> None:
    with pytest.raises(TimeTextError) as refused:
        parse_time(text, FrameRate(25))
    assert refused.value.detail.endswith(".")


def test_frames_need_a_rate() -> None:
    with pytest.raises(TimeTextError, match="picture rate"):
        parse_time("00:01:12:00")


@given(rates, st.integers(0, 24 * 3600 * 60))
def test_timecode_round_trips(rate: FrameRate, frames: int) -> None:
    assert parse_timecode_frames(format_timecode(frames, rate), rate) == frames


@given(rates, st.integers(0, 10**7), st.integers(0, 10**6))
def test_positions_are_typed_from_the_pictures_start_or_from_here(rate: FrameRate, at: int, start: int) -> None:
    assert parse_position(format_timecode(at + start, rate), rate, start_frames=start) == at
    assert parse_position(f"+{at}f", rate, here_frames=start) == start + at
    assert parse_position(f"-{at}f", rate, here_frames=start) == start - at
    assert parse_position(format_feet(at), rate) == at
    assert parse_position(f"{float(at / rate.fps):.6f}s", rate) == at


@pytest.mark.parametrize(
    ("text", "frame"), [("1:12", 1800), ("112", 1800), ("72s", 1800), ("+10f", 110), ("-0:02", 50), ("01:00:10:05", 255)]
)
def test_shorthand_for_positions(text: str, frame: int) -> None:
    assert parse_position(text, FrameRate(25), here_frames=100, start_frames=90_000) == frame


def test_drop_frame_leaves_out_two_numbers_each_minute_but_the_tenth() -> None:
    rate = FrameRate.parse("29.97df")
    shown = {format_timecode(n, rate) for n in range(20 * 1800)}
    for minute in range(20):
        assert (f"00:{minute:02d}:00;00" in shown) == (minute % 10 == 0)
    with pytest.raises(TimeTextError, match="leaves out"):
        parse_timecode_frames("00:01:00;01", rate)


@given(rates, st.integers(0, 10**7), st.sampled_from([44_100, 48_000, 96_000]))
def test_flicks_hold_every_frame_exactly(rate: FrameRate, frames: int, hz: int) -> None:
    flicks = frames_to_flicks(frames, rate)
    assert Fraction(flicks, FLICKS_PER_S) == Fraction(frames) / rate.fps
    assert flicks_to_samples(flicks, hz) == seconds_to_samples(Fraction(frames) / rate.fps, hz)


@given(st.integers(0, 10**10), st.sampled_from([8000, 44_100, 48_000, 192_000]))
def test_samples_round_trip_through_seconds(samples: int, hz: int) -> None:
    assert seconds_to_samples(Fraction(samples, hz), hz) == samples


def test_clock() -> None:
    assert format_clock(72.5) == "1:12.500"
    assert format_clock(Fraction(3723)) == "1:02:03.000"


@pytest.mark.parametrize("text", ["0", "x", "25df", "1000", "30000/0"])
def test_refuses_rates_that_do_not_exist(text: str) -> None:
    with pytest.raises(TimeTextError):
        FrameRate.parse(text)
