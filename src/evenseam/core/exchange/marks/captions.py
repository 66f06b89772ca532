"""Dialogue lines as captions: WebVTT (W3C) and SRT."""

import io
import re
from fractions import Fraction
from typing import Literal

import webvtt

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks.read import MarksRead, between_note, nearest_frame
from evenseam.core.exchange.size import check_size
from evenseam.core.spot.sheet import Line
from evenseam.core.timebase import FrameRate

Form = Literal["vtt", "srt"]
_TIME = re.compile(r"(?:(\d{1,4}):)?(\d{1,2}):(\d{1,2})[.,](\d{3})", re.ASCII)
_TAG = re.compile(r"<[^>]{0,200}>")


def read_captions(text: str, rate: FrameRate) -> MarksRead:
    """Lines from WebVTT or SRT; their times count from the picture's first frame. Raises: SpotError."""
    check_size(text)
    clean = text.removeprefix("\ufeff").replace("\r\n", "\n")
    form = "vtt" if clean.lstrip().startswith("WEBVTT") else "srt"
    try:
        captions = list(webvtt.from_buffer(io.StringIO(clean), format=form))
    except (webvtt.errors.MalformedFileError, webvtt.errors.MalformedCaptionError, ValueError, AttributeError, IndexError):
        raise SpotError("The captions cannot be read. Save them as WebVTT or SRT and try again.") from None
    if not captions:
        raise SpotError("No captions were found in the file. Save it as WebVTT or SRT and try again.")
    lines, dropped, between = [], 0, 0
    for caption in captions:
        (start, on_start), (end, on_end) = (nearest_frame(_seconds(t), rate) for t in (caption.start, caption.end))
        between += not (on_start and on_end)
        if end <= start:
            dropped += 1
            continue
        lines.append(Line(start, end, _TAG.sub("", caption.text).strip()))
    notes = (f"{dropped} captions are shorter than a frame and were left out.",) if dropped else ()
    return MarksRead(lines=tuple(sorted(lines)), notes=notes + between_note(between))


def _seconds(text: str) -> Fraction:
    match = _TIME.fullmatch(text.strip())
    if match is None:
        raise SpotError(f"'{text[:40]}' is not a time of captions. Save them as WebVTT or SRT and try again.")
    hours, minutes, seconds, ms = (int(part or 0) for part in match.groups())
    return Fraction((hours * 60 + minutes) * 60 + seconds) + Fraction(ms, 1000)


def write_captions(lines: tuple[Line, ...], rate: FrameRate, form: Form) -> str:
    """Lines as WebVTT or SRT, to the nearest millisecond."""
    blocks = []
    for number, line in enumerate(sorted(lines), 1):
        times = " --> ".join(_clock(Fraction(f) / rate.fps, form) for f in (line.start_frames, line.end_frames))
        # A blank line ends a caption, so a text cannot hold one.
        words = "\n".join(part for part in line.text.replace("-->", "→").splitlines() if part.strip()) or "…"
        blocks.append(f"{number}\n{times}\n{words}\n" if form == "srt" else f"{times}\n{words}\n")
    return "\n".join(["WEBVTT\n", *blocks] if form == "vtt" else blocks)


def _clock(seconds: Fraction, form: Form) -> str:
    ms = round(seconds * 1000)
    mark = "," if form == "srt" else "."
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}{mark}{ms % 1000:03d}"
