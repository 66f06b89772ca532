"""A film's own sound as a sound file that starts with its first frame."""

from pathlib import Path

import numpy as np
import soundfile as sf

from evenseam.core.audio.decode import open_stream
from evenseam.core.picture.film import opened, picture_stream


def extract_sound(path: Path, target: Path) -> bool:
    """Write the sound of a film to `target` as FLAC, laid on its picture's first frame. Returns whether there is any.

    Raises: AudioUnreadableError, FilmUnreadableError.
    """
    with opened(path) as container:
        if not container.streams.audio:
            return False
        late_s = _start_s(container.streams.audio[0]) - _start_s(picture_stream(container))
    stream = open_stream(path)
    late = round(late_s * stream.rate)
    with sf.SoundFile(str(target), "w", stream.rate, stream.channels, "PCM_16", format="FLAC") as out:
        if late > 0:
            out.write(np.zeros((late, stream.channels), dtype=np.float32))
        early = max(0, -late)
        for block in stream.blocks:
            skipped = min(early, block.shape[1])
            early -= skipped
            out.write(np.clip(block[:, skipped:].T, -1, 1))
    return True


def _start_s(stream: object) -> float:
    start, base = getattr(stream, "start_time", None), getattr(stream, "time_base", None)
    return float(start * base) if start is not None and base is not None else 0.0
