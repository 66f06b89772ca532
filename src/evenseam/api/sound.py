"""Sound that is ready to play, as it goes out."""

from typing import Annotated

from fastapi import Depends, Query, Response

from evenseam.core.audio.decode import MAX_RATE_HZ, MIN_RATE_HZ
from evenseam.core.audio.sound import Sound
from evenseam.services.playing import Stretch

DRAFT_HEADER = "Sound-Is-Draft"


def _stretch(
    start: int = Query(ge=0),
    stop: int = Query(gt=0),
    rate: int | None = Query(None, ge=MIN_RATE_HZ, le=MAX_RATE_HZ),
    from_samples: int = Query(0, ge=0),
    after_draft: bool = False,
) -> Stretch:
    return Stretch(start, stop, rate, from_samples, after_draft)


StretchDep = Annotated[Stretch, Depends(_stretch)]


def sound_response(sound: Sound, is_print: bool = True) -> Response:
    """Raw little-endian float32, one channel after the other; a draft carries a header of its own."""
    headers = {} if is_print else {DRAFT_HEADER: "yes"}
    return Response(sound.astype("<f4").tobytes(), media_type="application/octet-stream", headers=headers)
