"""Tempi as Standard MIDI Files: tempo map, metre, and the hits as markers; a steady one on a picture, and the beats of a fit.

Where bar one does not start with the picture, whole bars of another tempo lead up to it, so that every bar line of the file is
where it should be.
"""

import io
from collections.abc import Sequence
from fractions import Fraction

import mido
import numpy as np
from numpy.typing import NDArray

from evenseam.core.tempo.tempo_map import TICKS_PER_QUARTER, TempoMap

BAR_ONE = "Bar 1"  # a text event, where what comes before only leads up to it
_FASTEST_S = 0.2  # a quarter note that leads up to the first beat lasts this long at least
_NO_LEAD_S = 0.0005
_PLAIN_NOTES = (1, 2, 4)  # eighths of a beat that is one note: an eighth, a quarter, a half


def write_tempo_midi(tempo_map: TempoMap, markers: Sequence[tuple[float, str]]) -> bytes:
    """The file of a map. `markers`: seconds from the picture's first frame, and names."""
    events = [(tick, mido.MetaMessage("time_signature", numerator=n, denominator=d)) for tick, n, d in tempo_map.metres]
    events += [(tick, mido.MetaMessage("set_tempo", tempo=tempo)) for tick, tempo in tempo_map.tempi]
    events += [(tempo_map.tick_at(seconds), mido.MetaMessage("marker", text=name)) for seconds, name in markers]
    if tempo_map.bar_one_tick:
        events.append((tempo_map.bar_one_tick, mido.MetaMessage("text", text=BAR_ONE)))
    return _written(events, tempo_map.per_quarter)


def write_beats_midi(
    at_s: NDArray[np.float64], beat_in_bar: NDArray[np.int16], quarters: float, markers: Sequence[tuple[float, str]]
) -> bytes:
    """Beats as they come, each with its tempo, and bars as long as they are.

    at_s: seconds, (beats,), in order; beat_in_bar: 0 for a downbeat. `quarters`: how many quarter notes a beat is written as.
    `markers`: seconds and names. Before the first beat stands one short bar. What a tempo of whole microseconds is off by is
    made up for by the next, so that no beat is off by more than one of them.
    """
    tick_at, tempi, signatures = _lead_up(float(at_s[0]))
    ticks_a_beat = round(TICKS_PER_QUARTER * quarters)
    now_s, ticks = float(at_s[0]) if at_s[0] > _NO_LEAD_S else 0.0, [tick_at]
    for until_s in at_s[1:].tolist():
        tempo = max(1, round((until_s - now_s) * 1e6 / quarters))
        if not tempi or tempi[-1][1] != tempo:
            tempi.append((ticks[-1], tempo))
        now_s += tempo * quarters / 1e6
        ticks.append(ticks[-1] + ticks_a_beat)
    signatures += _signatures(np.array(ticks), beat_in_bar, quarters)
    events = [(tick, mido.MetaMessage("time_signature", numerator=n, denominator=d)) for tick, n, d in signatures]
    events += [(tick, mido.MetaMessage("set_tempo", tempo=tempo)) for tick, tempo in tempi]
    events += [(_tick_of(seconds, tempi), mido.MetaMessage("marker", text=name)) for seconds, name in markers]
    return _written(events)


_Signature = tuple[int, int, int]


def _lead_up(lead_s: float) -> tuple[int, list[tuple[int, int]], list[_Signature]]:
    """Ticks, tempo and metre of what comes before the first beat: one bar of one note."""
    if lead_s <= _NO_LEAD_S:
        return 0, [], []
    note = 4
    while note < 64 and lead_s * note / 4 < _FASTEST_S:
        note *= 2
    ticks = TICKS_PER_QUARTER * 4 // note
    return ticks, [(0, round(lead_s * 1e6 * note / 4))], [(0, 1, note)]


def _signatures(ticks: NDArray[np.int64], beat_in_bar: NDArray[np.int16], quarters: float) -> list[_Signature]:
    """The metre of every bar that differs from the one before, by the beats it has."""
    starts = np.union1d([0], np.flatnonzero(beat_in_bar == 0))
    in_eighths = Fraction(quarters * 2).limit_denominator(4)
    found: list[_Signature] = []
    lengths = np.diff(np.append(starts, beat_in_bar.size))
    lengths[-1] = lengths.max()  # nobody hears where the last one ends
    for first, beats in zip(starts.tolist(), lengths.tolist(), strict=True):
        signature = (beats, int(8 / in_eighths)) if in_eighths in _PLAIN_NOTES else (int(beats * in_eighths), 8)
        if not found or found[-1][1:] != signature:
            found.append((int(ticks[first]), *signature))
    return found


def _tick_of(seconds: float, tempi: list[tuple[int, int]]) -> int:
    """The tick at a moment, by the tempo map."""
    now_s, (tick, tempo) = 0.0, tempi[0] if tempi else (0, 500_000)
    for next_tick, next_tempo in tempi[1:]:
        until_s = now_s + (next_tick - tick) * tempo / (1e6 * TICKS_PER_QUARTER)
        if seconds < until_s:
            break
        now_s, tick, tempo = until_s, next_tick, next_tempo
    return max(0, tick + round((seconds - now_s) * 1e6 * TICKS_PER_QUARTER / tempo))


def _written(events: list[tuple[int, mido.MetaMessage]], per_quarter: int = TICKS_PER_QUARTER) -> bytes:
    track, now = mido.MidiTrack(), 0
    for tick, message in sorted(events, key=lambda event: event[0]):
        track.append(message.copy(time=tick - now))
        now = tick
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=per_quarter, tracks=[track], charset="utf-8").save(file=out)
    return out.getvalue()
