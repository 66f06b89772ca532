"""Small films with known shots, drawn and encoded by the tests themselves."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

SIZE = (160, 90)
SOUND_HZ = 48_000


@dataclass(frozen=True)
class Shape:
    """How a film is to be made."""

    rate: Fraction = Fraction(25)
    codec: str = "libx264"
    pixels: str = "yuv420p"
    timecode: str = ""
    key_every: int = 12
    sound_codec: str = ""
    sound_late_s: float = 0.0


def look(take: int, source: int) -> NDArray[np.uint8]:
    """What frame `source` of a take shows, uint8 (90, 160, 3): every take of its own, all of them moving a little."""
    rng = np.random.default_rng(take)
    coarse = rng.integers(20, 235, (9, 16, 3)).astype(np.uint8)
    image = np.kron(coarse, np.ones((10, 10, 1), dtype=np.uint8))
    x = (source * 2) % (SIZE[0] - 20)
    image[30:50, x : x + 20] = 255 - image[30:50, x : x + 20]
    return image


def make_film(
    path: Path, cut: Sequence[tuple[int, int, int]], shape: Shape = Shape(), times: Sequence[int] | None = None
) -> None:
    """Write a film of (take, first source frame, frames). `times`: when each frame shows, in frames, for uneven films."""
    frames = [look(take, source + k) for take, source, n in cut for k in range(n)]
    with av.open(str(path), "w") as out:
        picture = out.add_stream(shape.codec, rate=shape.rate)
        picture.width, picture.height, picture.pix_fmt = *SIZE, shape.pixels
        picture.codec_context.time_base, picture.codec_context.gop_size = 1 / shape.rate, shape.key_every
        if shape.timecode:
            picture.metadata["timecode"] = shape.timecode
        voice = out.add_stream(shape.sound_codec, rate=SOUND_HZ, layout="mono") if shape.sound_codec else None
        for number, image in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(image, format="rgb24").reformat(format=shape.pixels)
            frame.pts, frame.time_base = number if times is None else times[number], 1 / shape.rate
            out.mux(picture.encode(frame))
        out.mux(picture.encode(None))
        if voice is not None:
            n = round(len(frames) / shape.rate * SOUND_HZ) - round(shape.sound_late_s * SOUND_HZ)
            sound = np.zeros(n, dtype=np.float32)
            sound[: SOUND_HZ // 10] = 0.5 * np.sin(2 * np.pi * 440 * np.arange(SOUND_HZ // 10) / SOUND_HZ)
            whole = av.AudioFrame.from_ndarray(sound[None, :], format="fltp", layout="mono")
            whole.sample_rate, whole.time_base = SOUND_HZ, Fraction(1, SOUND_HZ)
            whole.pts = round(shape.sound_late_s * SOUND_HZ)
            for block in (*av.AudioResampler("s16", "mono", SOUND_HZ, frame_size=1024).resample(whole), None):
                out.mux(voice.encode(block))
