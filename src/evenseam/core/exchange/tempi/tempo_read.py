"""A tempo map read back from a Standard MIDI File."""

from dataclasses import replace

from evenseam.core.errors import SpotError
from evenseam.core.exchange.midi_file import messages_of
from evenseam.core.exchange.tempi.tempo_midi import BAR_ONE
from evenseam.core.tempo.tempo_map import USUAL_METER, USUAL_TEMPO_US, TempoMap

_MOST_LEAD_BARS = 10_000


def read_tempo_midi(data: bytes) -> TempoMap:
    """The tempi and metres of all its tracks; its time starts with the picture, and its bars are counted from the first.

    One that was written here says where its bar one is. Raises: SpotError.
    """
    per_quarter, messages = messages_of(data)
    # Of several at one tick the last is meant.
    tempi, metres, now, bar_one = {0: USUAL_TEMPO_US}, {0: USUAL_METER}, 0, 0
    for message in messages:
        now += int(message.time)
        if message.type == "set_tempo":
            tempi[now] = int(message.tempo)
        elif message.type == "time_signature":
            metres[now] = (int(message.numerator), int(message.denominator))
        elif message.type == "text" and message.text == BAR_ONE:
            bar_one = now
    if not any(message.type in ("set_tempo", "time_signature") for message in messages):
        raise SpotError("The MIDI file holds no tempo and no metre. Export it with its tempo map.")
    found = TempoMap(per_quarter, tuple(tempi.items()), tuple((tick, *metre) for tick, metre in metres.items()))
    return replace(found, bar_one_tick=bar_one) if bar_one in found.bar_lines(_MOST_LEAD_BARS) else found
