"""A steady tempo as a Standard MIDI File: tempo map, metre, and the hits as markers; its time starts with the picture.

Where bar one does not start with the picture, whole bars of another tempo lead up to it, so that every bar line of the file is
where it should be.
"""

import io

import mido

_TICKS_PER_BEAT = 9600
_MOST_BPM = 300.0  # of the bars that lead up


def write_tempo_midi(bpm: float, meter: int, starts_s: float, markers: tuple[tuple[float, str], ...]) -> bytes:
    """The file. `starts_s`: of bar one, from the picture's first frame; `markers`: seconds and names."""
    period = 60 / bpm
    lead_bars = max(1, round(starts_s / (meter * period))) if starts_s > 1e-6 else 0
    while lead_bars > 1 and lead_bars * meter * 60 / starts_s > _MOST_BPM:
        lead_bars -= 1
    lead_ticks = lead_bars * meter * _TICKS_PER_BEAT
    events = [(0, mido.MetaMessage("time_signature", numerator=meter, denominator=4))]
    if lead_bars:
        events.append((0, mido.MetaMessage("set_tempo", tempo=round(1e6 * starts_s / (lead_bars * meter)))))
    events.append((lead_ticks, mido.MetaMessage("set_tempo", tempo=round(1e6 * period))))
    for seconds, name in markers:
        before = seconds < starts_s
        tick = seconds / starts_s * lead_ticks if before else lead_ticks + (seconds - starts_s) / period * _TICKS_PER_BEAT
        events.append((round(tick), mido.MetaMessage("marker", text=name)))
    track, now = mido.MidiTrack(), 0
    for tick, message in sorted(events, key=lambda event: event[0]):
        track.append(message.copy(time=tick - now))
        now = tick
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=_TICKS_PER_BEAT, tracks=[track], charset="utf-8").save(file=out)
    return out.getvalue()
