"""Standard MIDI Files as they come in: hostile until they are read."""

import io

import mido

from evenseam.core.errors import SpotError
from evenseam.core.exchange.size import check_size

_UNREADABLE = (OSError, EOFError, ValueError, LookupError, TypeError, AttributeError, ArithmeticError)


def messages_of(data: bytes) -> tuple[int, list[mido.Message | mido.MetaMessage]]:
    """Ticks a quarter note, and the messages of all tracks in order of time, each with the ticks since the one before.

    Raises: SpotError, for one that counts frames in the place of beats too.
    """
    check_size(data)
    try:
        file = mido.MidiFile(file=io.BytesIO(data), charset="utf-8", clip=True)
        messages = list(mido.merge_tracks(file.tracks))
    except _UNREADABLE:
        raise SpotError("This is not a MIDI file that can be read. Export it again as a Standard MIDI File.") from None
    if not 0 < file.ticks_per_beat <= 0x7FFF:
        raise SpotError("The MIDI file counts frames in the place of beats. Export it with ticks for each quarter note.")
    return int(file.ticks_per_beat), messages
