"""The frames of a film on its even grid, decoded once from beginning to end."""

from collections.abc import Iterator
from pathlib import Path

import av

from evenseam.core.errors import FilmUnreadableError
from evenseam.core.picture.film import Film, opened, picture_stream


def frames_of(path: Path, film: Film) -> Iterator[tuple[int, av.VideoFrame]]:
    """Frame numbers from 0 with what shows at them, `film.length_frames` of them.

    A frame that is missing repeats the one before. Raises: FilmUnreadableError when nothing can be decoded.
    """
    number, shown, first_s = 0, None, 0.0
    with opened(path) as container:
        for frame in container.decode(picture_stream(container)):
            if frame.time is None:
                continue
            if shown is None:
                shown, first_s = frame, frame.time
            place = min(round((frame.time - first_s) * float(film.rate.fps)), film.length_frames)
            while number < place:
                yield number, shown
                number += 1
            shown = frame
        if shown is None:
            raise FilmUnreadableError("Not a single frame of the film could be decoded. Export it as H.264 in MP4.")
        while number < film.length_frames:
            yield number, shown
            number += 1
