"""Sound that is ready to play, as it goes out."""

from fastapi import Response

from evenseam.core.audio import Sound

DRAFT_HEADER = "Sound-Is-Draft"


def sound_response(sound: Sound, is_print: bool = True) -> Response:
    """Raw little-endian float32, one channel after the other; a draft carries a header of its own."""
    headers = {} if is_print else {DRAFT_HEADER: "yes"}
    return Response(sound.astype("<f4").tobytes(), media_type="application/octet-stream", headers=headers)
