"""One pass over a film: its shot changes, small pictures for the strip, a likeness of each frame, and a copy to play."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from evenseam.core.picture.copy import PlayableCopy
from evenseam.core.picture.cuts import find_cuts
from evenseam.core.picture.film import Film
from evenseam.core.picture.frames import frames_of

LIKENESS_SHAPE = (9, 16)
_LOOK_WIDTH_PX, _LOOK_HEIGHT_PX = 32, 18
_THUMB_HEIGHT_PX, _WIDEST_THUMB_PX = 72, 176
_MOST_THUMBS, _THUMBS_PER_ROW = 480, 24
_TELL_EVERY_FRAMES = 50

Bytes = NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class Thumbs:
    """Small pictures in rows on one sheet: every `every_frames`-th frame, `per_row` in a row."""

    every_frames: int
    per_row: int
    count: int
    width_px: int
    height_px: int
    jpeg: bytes


@dataclass(frozen=True, slots=True, eq=False)
class Scan:
    """What was seen. `likeness`: uint8 (frames, 9, 16), the brightness of every frame in a few squares."""

    cuts: tuple[int, ...]
    likeness: Bytes
    thumbs: Thumbs


def scan(path: Path, film: Film, copy_to: Path | None, on_progress: Callable[[float], None]) -> Scan:
    """Decode a film once, and write a copy that browsers play frame by frame to `copy_to` if there is one.

    Raises: FilmUnreadableError.
    """
    n = film.length_frames
    likeness = np.empty((n, *LIKENESS_SHAPE), dtype=np.uint8)
    change = np.zeros(n, dtype=np.float32)
    thumbs = _ThumbSheet(film)
    before: NDArray[np.int16] | None = None
    copy = PlayableCopy(copy_to, film) if copy_to is not None else None
    try:
        for number, frame in frames_of(path, film):
            look = frame.reformat(width=_LOOK_WIDTH_PX, height=_LOOK_HEIGHT_PX, format="rgb24", interpolation="AREA")
            now = look.to_ndarray().astype(np.int16)
            if before is not None:
                change[number] = np.abs(now - before).mean()
            before = now
            likeness[number] = now.reshape(9, 2, 16, 2, 3).mean(axis=(1, 3, 4))
            thumbs.see(number, frame)
            if copy is not None:
                copy.add(number, frame)
            if number % _TELL_EVERY_FRAMES == 0:
                on_progress(number / n)
        if copy is not None:
            copy.finish()
    finally:
        if copy is not None:
            copy.close()
    return Scan(find_cuts(change), likeness, thumbs.finish())


class _ThumbSheet:
    def __init__(self, film: Film) -> None:
        self._every = max(1, -(-film.length_frames // _MOST_THUMBS))
        self._every = max(self._every, film.rate.nominal_fps // 5)
        count = -(-film.length_frames // self._every)
        self._width = min(_WIDEST_THUMB_PX, max(16, round(_THUMB_HEIGHT_PX * film.width_px / film.height_px / 2) * 2))
        rows = -(-count // _THUMBS_PER_ROW)
        self._sheet = np.zeros((rows * _THUMB_HEIGHT_PX, _THUMBS_PER_ROW * self._width, 3), dtype=np.uint8)
        self._count = count

    def see(self, number: int, frame: av.VideoFrame) -> None:
        index, rest = divmod(number, self._every)
        if rest:
            return
        small = frame.reformat(width=self._width, height=_THUMB_HEIGHT_PX, format="rgb24", interpolation="AREA").to_ndarray()
        row, column = divmod(index, _THUMBS_PER_ROW)
        top, left = row * _THUMB_HEIGHT_PX, column * self._width
        self._sheet[top : top + _THUMB_HEIGHT_PX, left : left + self._width] = small

    def finish(self) -> Thumbs:
        return Thumbs(self._every, _THUMBS_PER_ROW, self._count, self._width, _THUMB_HEIGHT_PX, jpeg_of(self._sheet))


def jpeg_of(image: Bytes) -> bytes:
    """A picture, uint8 (height, width, 3), as JPEG."""
    codec = av.CodecContext.create("mjpeg", "w")
    codec.width, codec.height = image.shape[1], image.shape[0]
    codec.pix_fmt, codec.time_base = "yuvj420p", Fraction(1, 25)
    codec.options = {"qmin": "3", "qmax": "5"}
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(image), format="rgb24").reformat(format="yuvj420p")
    frame.pts = 0
    return b"".join(bytes(p) for p in (*codec.encode(frame), *codec.encode(None)))
