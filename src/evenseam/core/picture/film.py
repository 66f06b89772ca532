"""What a film file is: rate, length, timecode, and whether browsers can play it. The file is not trusted.

PyAV (FFmpeg) reads the containers. What their headers claim is only used to look at once; rate and length come from the
packets themselves.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import av
import av.error
import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import FilmUnreadableError, TimeTextError
from evenseam.core.timebase import FrameRate, parse_timecode_frames

MAX_DURATION_S = 4 * 3600
MAX_SIDE_PX = 8192
_PLAYABLE = {"h264": {"yuv420p", "yuvj420p"}, "vp8": {"yuv420p"}, "vp9": {"yuv420p"}, "av1": {"yuv420p"}}
_PLAYABLE_FORMS = {"mov", "mp4", "matroska", "webm"}
_WIDEST_KEY_GAP_S = 2.0  # wider, and stepping back and scrubbing wait for the decoder
_ON_GRID_FRAMES = 0.35


@dataclass(frozen=True, slots=True)
class Film:
    """A film as it is used: `length_frames` at an exact `rate`, `start_frames` the timecode of its first frame.

    `is_variable`: its frames do not lie on an even grid, so it is conformed to one. `needs_copy`: browsers cannot play it
    as it is, or not from frame to frame.
    """

    rate: FrameRate
    length_frames: int
    start_frames: int
    width_px: int
    height_px: int
    codec: str
    has_sound: bool
    is_playable: bool
    is_variable: bool = False
    needs_copy: bool = False
    notes: tuple[str, ...] = ()


@contextmanager
def opened(path: Path) -> Iterator[av.container.InputContainer]:
    """An opened film; everything that goes wrong while it is read becomes one error. Raises: FilmUnreadableError."""
    try:
        with av.open(str(path)) as container:
            yield container
    except (av.error.FFmpegError, ValueError, UnicodeError, OverflowError) as error:
        raise FilmUnreadableError(
            "The film cannot be read, or it is damaged. Play it elsewhere to check it, then export it as MP4 or MOV."
        ) from error


def probe(path: Path) -> Film:
    """Look at a film's headers. Rate and length are what they claim; see `measure`. Raises: FilmUnreadableError."""
    with opened(path) as container:
        stream = picture_stream(container)
        context = stream.codec_context
        fps = stream.average_rate or stream.guessed_rate or stream.base_rate
        if not fps or not 1 <= fps <= 240:
            raise FilmUnreadableError("The film has no picture rate between 1 and 240 frames a second. Export it again.")
        if not (0 < context.width <= MAX_SIDE_PX and 0 < context.height <= MAX_SIDE_PX):
            raise FilmUnreadableError(
                f"The picture is {context.width} by {context.height}; at most {MAX_SIDE_PX} are read. Export it smaller."
            )
        rate, start, notes = _timecode(container, stream, FrameRate.near(Fraction(fps)))
        length = stream.frames or round(_duration_s(container, stream) * rate.fps)
        _check_length(Fraction(length) / rate.fps)
        codec = str(context.name)
        forms = set(container.format.name.split(","))
        is_playable = context.pix_fmt in _PLAYABLE.get(codec, ()) and bool(forms & _PLAYABLE_FORMS)
        return Film(
            rate, max(1, length), start, context.width, context.height, codec, bool(container.streams.audio), is_playable,
            needs_copy=not is_playable, notes=notes,
        )  # fmt: skip


def measure(path: Path) -> Film:
    """Read all of a film's packets: the exact length, whether the frames are even, and how far key frames are apart.

    Raises: FilmUnreadableError.
    """
    film = probe(path)
    times, keys = _packet_times(path)
    if not times.size:
        raise FilmUnreadableError("The film holds no picture: not a single frame was found. Export it again.")
    start = times[0]
    times = times - start
    even, length = _fits_grid(times, film.rate)
    if not even:
        film = replace(film, rate=_usual_rate(times, film.rate))
        even, length = _fits_grid(times, film.rate)
    _check_length(Fraction(length) / film.rate.fps)
    gaps = np.diff(np.append(keys - start, times[-1]))
    is_smooth = bool(gaps.size) and float(gaps.max()) <= _WIDEST_KEY_GAP_S
    notes = list(film.notes)
    if not even:
        notes.append(
            f"The film's frames are not evenly spaced. It was conformed to {float(film.rate.fps):g} frames a second: "
            "check its sync, or export it at a constant rate."
        )
    copy = not (film.is_playable and even and is_smooth and abs(start) < 1e-3)
    return replace(film, length_frames=length, is_variable=not even, needs_copy=copy, notes=tuple(notes))


def picture_stream(container: av.container.InputContainer) -> av.VideoStream:
    """The stream of moving pictures, with all cores to decode it. Raises: FilmUnreadableError when there is none."""
    moving = [s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic]
    if not moving:
        raise FilmUnreadableError("The file holds no moving picture. Choose a film, or add it to the tracks instead.")
    moving[0].thread_type = "AUTO"
    return moving[0]


def _packet_times(path: Path) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """When each frame shows, in order, and those of key frames, in seconds."""
    times, keys = [], []
    with opened(path) as container:
        stream = picture_stream(container)
        base = float(stream.time_base or 0)
        for packet in container.demux(stream):
            if packet.pts is None or packet.size == 0:
                continue
            times.append(packet.pts * base)
            if packet.is_keyframe:
                keys.append(packet.pts * base)
            if len(times) > MAX_DURATION_S * 240:
                raise FilmUnreadableError("The film has more frames than can be read. Cut it into reels.")
    return np.sort(np.array(times)), np.sort(np.array(keys))


def _fits_grid(times: NDArray[np.float64], rate: FrameRate) -> tuple[bool, int]:
    """Whether frame n shows at n / rate for every n, and how many frames the even film has."""
    places = times * float(rate.fps)
    even = bool((np.abs(places - np.arange(times.size)) < _ON_GRID_FRAMES).all())
    return even, times.size if even else max(1, round(places[-1]) + 1)


def _usual_rate(times: NDArray[np.float64], claimed: FrameRate) -> FrameRate:
    """The rate at which most of the frames follow each other, which is what an uneven film was meant to have."""
    steps = np.diff(times)
    if not (steps > 0).any():
        return claimed
    usual = FrameRate.near(Fraction(1 / float(np.median(steps[steps > 0]))).limit_denominator(100_000))
    return usual if usual.fps != claimed.fps and 1 <= usual.fps <= 240 else claimed


def _duration_s(container: av.container.InputContainer, stream: av.VideoStream) -> Fraction:
    if stream.duration is not None and stream.time_base is not None:
        return Fraction(stream.duration) * stream.time_base
    return Fraction(container.duration or 0, av.time_base)


def _check_length(length_s: Fraction) -> None:
    if length_s > MAX_DURATION_S:
        raise FilmUnreadableError(f"The film is longer than {MAX_DURATION_S // 3600} hours. Cut it into reels and add those.")


def _timecode(
    container: av.container.InputContainer, stream: av.VideoStream, rate: FrameRate
) -> tuple[FrameRate, int, tuple[str, ...]]:
    """How the film counts, and its start; a timecode that the rate does not have is told and not used."""
    places = (stream.metadata, container.metadata, *(s.metadata for s in container.streams))
    text = next((m["timecode"] for m in places if m.get("timecode")), None)
    if text is None:
        return rate, 0, ()
    try:
        counted = replace(rate, drop_frame=";" in text)
        return counted, parse_timecode_frames(text, counted), ()
    except TimeTextError as error:
        return rate, 0, (f"The film's own start timecode was not used. {error.detail}",)
