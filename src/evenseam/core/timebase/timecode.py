"""Times as people type and read them.

Timecode counting follows SMPTE ST 12-1: drop-frame leaves out two frame numbers (four at 59.94) at the start of each
minute that is not a multiple of ten.
"""

import re
from fractions import Fraction

from evenseam.core.errors import TimeTextError
from evenseam.core.timebase.rates import FrameRate
from evenseam.core.timebase.samples import nearest

_HINT = "Write seconds (72 or 72.5s), minutes (1:12), or timecode (00:01:12:00)."
# Every number has an end: what comes in may be hostile, and nothing on a picture is longer than some days.
_SECONDS = re.compile(r"(\d{1,9}(?:\.\d{0,12})?|\.\d{1,12})\s*(?:s|sec|seconds)?", re.ASCII)
_FRAMES = re.compile(r"(\d{1,9})\s*(?:f|fr|frames)", re.ASCII)
_CLOCK = re.compile(r"(?:(\d{1,4}):)?(\d{1,6}):(\d{1,2}(?:\.\d{0,12})?)\s*s?", re.ASCII)
_TIMECODE = re.compile(r"(\d{1,4}):(\d{1,2}):(\d{1,2})([:;])(\d{1,3})", re.ASCII)
_FEET = re.compile(r"(\d{1,7})\+(\d{1,2})", re.ASCII)
_CLOCK_DIGITS = re.compile(r"\d{3,6}", re.ASCII)
_SIGNED = re.compile(r"([+-])\s*(.+)", re.ASCII | re.DOTALL)
_FRAMES_PER_FOOT = 16  # 35 mm film with four perforations a frame
_LONGEST_TEXT = 32


def parse_time(text: str, rate: FrameRate | None = None) -> Fraction:
    """Read a length or position in any sensible shorthand, as exact seconds.

    Parameters: text: seconds `72`, `72.5s`; minutes `1:12`, `1:12.500`; hours `1:02:03`; frames `48f`; timecode
    `00:01:12:00` (`;` before the frames for drop-frame); feet and frames of 35 mm film `112+08`. rate: needed for
    everything that counts frames.
    Raises: TimeTextError, saying what can be written.
    """
    word = text.strip().lower()
    if len(word) > _LONGEST_TEXT:
        raise TimeTextError(f"That is too long to be a time. {_HINT}", text=word[:_LONGEST_TEXT])
    if match := _SECONDS.fullmatch(word):
        return Fraction(match[1].rstrip("."))
    if match := _CLOCK.fullmatch(word):
        return _clock_seconds(text, match)
    if match := _FRAMES.fullmatch(word):
        return Fraction(int(match[1])) / _needed(rate, text).fps
    if match := _FEET.fullmatch(word):
        return Fraction(_feet_frames(text, match)) / _needed(rate, text).fps
    if _TIMECODE.fullmatch(word):
        exact = _needed(rate, text)
        return Fraction(parse_timecode_frames(word, exact)) / exact.fps
    raise TimeTextError(f"'{text.strip()}' is not a time. {_HINT}", text=text)


def parse_typed(text: str, rate: FrameRate | None = None) -> Fraction:
    """As `parse_time`, for what people type into a field: three or more bare digits are a clock without its colons.

    `112` is 1:12 and `10230` is 1:02:30; digits that no clock shows (`190`) stay seconds. Raises: TimeTextError.
    """
    word = text.strip()
    if _CLOCK_DIGITS.fullmatch(word) and int(word[-2:]) < 60 and (len(word) < 5 or int(word[-4:-2]) < 60):
        parts = [word[:-4], word[-4:-2], word[-2:]] if len(word) > 4 else [word[:-2], word[-2:]]
        return parse_time(":".join(parts), rate)
    return parse_time(text, rate)


def parse_position(text: str, rate: FrameRate, here_frames: int = 0, start_frames: int = 0) -> int:
    """The frame of a picture that a person means, counted from the picture's first.

    Parameters: text: as `parse_typed`; with a sign it is so much later or earlier than `here_frames` (`+10f`, `-1:00`).
    start_frames: the timecode of the picture's first frame, which a typed timecode counts from.
    Times that fall between two frames give the nearer one; whether the picture has the frame is the caller's question.
    Raises: TimeTextError.
    """
    word = text.strip()
    if match := _SIGNED.fullmatch(word):
        away = _nearest_frame(parse_typed(match[2], rate), rate)
        return here_frames + (away if match[1] == "+" else -away)
    if _TIMECODE.fullmatch(word):
        return parse_timecode_frames(word, rate) - start_frames
    return _nearest_frame(parse_typed(word, rate), rate)


def is_relative(text: str | None) -> bool:
    """Whether a typed position is counted from where something is: it has a sign."""
    return text is not None and _SIGNED.fullmatch(text.strip()) is not None


def _nearest_frame(seconds: Fraction, rate: FrameRate) -> int:
    return nearest(seconds * rate.fps)


def _feet_frames(text: str, match: re.Match[str]) -> int:
    feet, frames = int(match[1]), int(match[2])
    if frames >= _FRAMES_PER_FOOT:
        raise TimeTextError(
            f"'{text.strip()}' has {frames} frames, but a foot of 35 mm film has {_FRAMES_PER_FOOT}.", text=text
        )
    return feet * _FRAMES_PER_FOOT + frames


def _needed(rate: FrameRate | None, text: str) -> FrameRate:
    if rate is None:
        raise TimeTextError(f"'{text.strip()}' counts frames, so a picture rate is needed with it (--fps).", text=text)
    return rate


def _clock_seconds(text: str, match: re.Match[str]) -> Fraction:
    hours, minutes, seconds = int(match[1] or 0), int(match[2]), Fraction(match[3].rstrip("."))
    if seconds >= 60 or (match[1] is not None and minutes >= 60):
        raise TimeTextError(f"'{text.strip()}' has 60 or more where minutes or seconds stop at 59. {_HINT}", text=text)
    return Fraction(hours * 3600 + minutes * 60) + seconds


def _dropped(minutes: int, rate: FrameRate) -> int:
    """Frame numbers left out before the given count of whole minutes."""
    per_minute = rate.nominal_fps // 15
    return per_minute * (minutes - minutes // 10)


def parse_timecode_frames(text: str, rate: FrameRate) -> int:
    """Frame count of a timecode such as 01:00:10:05. Raises: TimeTextError for one that the rate does not have."""
    match = _TIMECODE.fullmatch(text.strip())
    if match is None:
        raise TimeTextError(f"'{text.strip()[:40]}' is not a timecode. Write hh:mm:ss:ff.", text=text[:40])
    hours, minutes, seconds, frames = int(match[1]), int(match[2]), int(match[3]), int(match[5])
    fps = rate.nominal_fps
    if minutes > 59 or seconds > 59 or frames >= fps:
        raise TimeTextError(f"'{text.strip()}' does not exist at {fps} frames per second.", text=text)
    if match[4] == ";" and not rate.drop_frame:
        raise TimeTextError(f"'{text.strip()}' is drop-frame (;) but the picture is not. Write it with ':'.", text=text)
    if rate.drop_frame and seconds == 0 and minutes % 10 and frames < fps // 15:
        raise TimeTextError(f"'{text.strip()}' is one of the numbers that drop-frame timecode leaves out.", text=text)
    total = ((hours * 60 + minutes) * 60 + seconds) * fps + frames
    return total - _dropped(hours * 60 + minutes, rate) if rate.drop_frame else total


def format_timecode(frames: int, rate: FrameRate) -> str:
    """hh:mm:ss:ff of a frame count (hh:mm:ss;ff when drop-frame); hours do not wrap at 24."""
    if frames < 0:
        return "-" + format_timecode(-frames, rate)
    fps, mark = rate.nominal_fps, ":"
    if rate.drop_frame:
        mark = ";"
        drop = fps // 15
        tens, rest = divmod(frames, 600 * fps - 9 * drop)
        frames += 9 * drop * tens + drop * max(0, (rest - drop) // (60 * fps - drop))
    seconds, ff = divmod(frames, fps)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}{mark}{ff:02d}"


def format_feet(frames: int) -> str:
    """Feet and frames of 35 mm film, four perforations a frame: '112+08'."""
    feet, rest = divmod(abs(frames), _FRAMES_PER_FOOT)
    return f"{'-' if frames < 0 else ''}{feet}+{rest:02d}"


def format_clock(seconds: Fraction | float) -> str:
    """m:ss.mmm, or h:mm:ss.mmm from an hour up, to the nearest millisecond."""
    total_ms = round(Fraction(seconds) * 1000)
    sign, total_ms = ("-" if total_ms < 0 else ""), abs(total_ms)
    minutes, ms = divmod(total_ms, 60_000)
    head = f"{minutes // 60}:{minutes % 60:02d}" if minutes >= 60 else f"{minutes}"
    return f"{sign}{head}:{ms // 1000:02d}.{ms % 1000:03d}"
