"""A tempo map read back from a Standard MIDI File: its tempi and metres, and the beats that they make on a picture."""

import io
from dataclasses import dataclass
from itertools import pairwise

import mido
import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import SpotError
from evenseam.core.exchange.read import check_size
from evenseam.core.tempo.beats import MapBeats

_USUAL_US, _USUAL_METER = 500_000, (4, 4)  # of a file that says nothing else: 120 bpm in four
_MOST_BEATS = 500_000
_MOST_NUMERATOR, _MOST_DENOMINATOR = 64, 64
_UNREADABLE = (OSError, EOFError, ValueError, KeyError, IndexError, LookupError, TypeError, AttributeError, OverflowError)

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class _Metre:
    """From a tick on: how many ticks a bar and a beat are long. A beat is felt: three eighths in 6/8, 9/8 and 12/8."""

    tick: int
    beat_ticks: float
    beats: int


def read_tempo_midi(data: bytes, until_s: float) -> MapBeats:
    """The beats of the map from the file's start, where the picture starts, up to a moment and the beat after it.

    A metre that begins inside a bar cuts that bar short. Raises: SpotError.
    """
    check_size(data)
    try:
        file = mido.MidiFile(file=io.BytesIO(data), charset="utf-8", clip=True)
        messages = list(mido.merge_tracks(file.tracks))
    except _UNREADABLE:
        raise SpotError("This is not a MIDI file that can be read. Export it again as a Standard MIDI File.") from None
    per_quarter = int(file.ticks_per_beat)
    if not 0 < per_quarter < 0x8000:
        raise SpotError("The MIDI file counts frames in the place of beats. Export it with ticks for each quarter note.")
    tempi, metres, found = [(0, _USUAL_US)], [_metre(0, *_USUAL_METER, per_quarter)], False
    now = 0
    for message in messages:
        now += int(message.time)
        if message.type == "set_tempo":
            tempi.append((now, int(message.tempo)))
        elif message.type == "time_signature":
            metres.append(_metre(now, message.numerator, message.denominator, per_quarter))
        found = found or message.type in ("set_tempo", "time_signature")
    if not found:
        raise SpotError("The MIDI file holds no tempo and no metre. Export it with its tempo map.")
    ticks, seconds, a_tick_s = _clock(tempi, per_quarter)
    return _beats(_last_of_each(metres), ticks, seconds, a_tick_s, until_s)


def _metre(tick: int, numerator: int, denominator: int, per_quarter: int) -> _Metre:
    if not (1 <= numerator <= _MOST_NUMERATOR and 1 <= denominator <= _MOST_DENOMINATOR):
        raise SpotError(f"The MIDI file has a metre of {numerator}/{denominator}, which is none. Export it again.")
    note = per_quarter * 4 / denominator
    if denominator == 8 and numerator % 3 == 0:
        return _Metre(tick, 3 * note, numerator // 3)
    return _Metre(tick, note, numerator)


def _last_of_each(metres: list[_Metre]) -> list[_Metre]:
    """Of several at one tick the last, as they are meant."""
    return list({metre.tick: metre for metre in metres}.values())


def _clock(tempi: list[tuple[int, int]], per_quarter: int) -> tuple[Floats, Floats, Floats]:
    """Ticks at which the tempo changes, when those are, and how long a tick lasts from each on."""
    last = dict(tempi)
    if min(last.values()) <= 0:
        raise SpotError("The MIDI file has a tempo without end. Export it again.")
    ticks = np.array(list(last), dtype=np.float64)
    a_tick_s = np.array(list(last.values())) / (1e6 * per_quarter)
    return ticks, np.concatenate([[0.0], np.cumsum(np.diff(ticks) * a_tick_s[:-1])]), a_tick_s


def _beats(metres: list[_Metre], ticks: Floats, seconds: Floats, a_tick_s: Floats, until_s: float) -> MapBeats:
    last_tempo = int(np.searchsorted(seconds, until_s, side="right")) - 1
    until = ticks[last_tempo] + (until_s - seconds[last_tempo]) / a_tick_s[last_tempo]
    at, in_bar, unit = [], [], []
    total = 0.0
    for metre, after in pairwise([*metres, None]):
        assert metre is not None
        end = until + metre.beat_ticks if after is None else min(float(after.tick), until + metre.beat_ticks)
        count = max(0, int(np.ceil((end - metre.tick) / metre.beat_ticks - 1e-9)))
        total += count
        if total > _MOST_BEATS:
            raise SpotError("The MIDI file has more beats than any picture. Check its tempi.")
        numbers = np.arange(count)
        at.append(metre.tick + numbers * metre.beat_ticks)
        in_bar.append(numbers % metre.beats)
        unit.append(np.full(count, metre.beat_ticks))
    beats = np.concatenate(at)
    tempo = np.searchsorted(ticks, beats, side="right") - 1
    at_s = seconds[tempo] + (beats - ticks[tempo]) * a_tick_s[tempo]
    return MapBeats(at_s, np.concatenate(in_bar).astype(np.int16), 60 / (np.concatenate(unit) * a_tick_s[tempo]))
