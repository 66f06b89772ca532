"""A copy of a film that browsers play and step through frame by frame: VP9 in MP4, on an even grid, many key frames."""

from fractions import Fraction
from pathlib import Path

import av

from evenseam.core.picture.film import Film

_MOST_WIDTH_PX = 960
_KEY_EVERY_S = 0.5


class PlayableCopy:
    """Written frame by frame. Silent: a film's sound is played as a track, on the clock of the music."""

    def __init__(self, target: Path, film: Film) -> None:
        width = min(film.width_px, _MOST_WIDTH_PX) // 2 * 2
        height = max(2, round(film.height_px * width / film.width_px / 2) * 2)
        self._container = av.open(str(target), "w", format="mp4", options={"movflags": "+faststart"})
        stream = self._container.add_stream("libvpx-vp9", rate=film.rate.fps)
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.codec_context.time_base = 1 / film.rate.fps
        stream.codec_context.gop_size = max(1, round(_KEY_EVERY_S * film.rate.fps))
        stream.options = {
            "deadline": "realtime", "cpu-used": "8", "row-mt": "1", "crf": "32", "b": "2500k", "lag-in-frames": "0",
        }  # fmt: skip
        self._stream, self._size = stream, (width, height)
        self._base = Fraction(1) / film.rate.fps

    def add(self, number: int, frame: av.VideoFrame) -> None:
        """The next frame; numbers rise by one."""
        small = frame.reformat(width=self._size[0], height=self._size[1], format="yuv420p")
        small.pts, small.time_base = number, self._base
        small.pict_type = av.video.frame.PictureType.NONE
        self._container.mux(self._stream.encode(small))

    def finish(self) -> None:
        """Write what the encoder still holds."""
        self._container.mux(self._stream.encode(None))

    def close(self) -> None:
        """Close the file, whole or not."""
        self._container.close()
