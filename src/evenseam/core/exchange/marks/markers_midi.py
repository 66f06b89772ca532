"""Hits as markers of a Standard MIDI File, whose time starts at the picture's first frame."""

import io
from fractions import Fraction

import mido

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks.read import MarksRead, between_note, hit_from_words, hit_in_words, nearest_frame
from evenseam.core.exchange.midi_file import messages_of
from evenseam.core.spot.sheet import Hit
from evenseam.core.timebase import FrameRate

_TICKS_PER_BEAT, _TEMPO_US = 9600, 500_000  # 0.05 ms a tick
_BETWEEN = " | "


def write_midi(hits: tuple[Hit, ...], rate: FrameRate) -> bytes:
    """A file with one marker for each hit: its label, then all else of it in words."""
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=_TEMPO_US, time=0)])
    now = 0
    for hit in sorted(hits, key=lambda h: h.at_frames):
        at = round(Fraction(hit.at_frames) / rate.fps * _TICKS_PER_BEAT * 1_000_000 / _TEMPO_US)
        text = f"{hit.label}{_BETWEEN}{hit_in_words(hit)}"
        track.append(mido.MetaMessage("marker", text=text, time=at - now))
        now = at
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=_TICKS_PER_BEAT, tracks=[track], charset="utf-8").save(file=out)
    return out.getvalue()


def read_midi(data: bytes, rate: FrameRate) -> MarksRead:
    """Hits from the markers and cue points of all tracks. Raises: SpotError."""
    found = _markers(*messages_of(data))
    if not found:
        raise SpotError("The MIDI file holds no markers. Export it with its markers.")
    hits, between = [], 0
    for seconds, text in found:
        at, is_on = nearest_frame(seconds, rate)
        between += not is_on
        label, mark, words = text.rpartition(_BETWEEN)
        hits.append((hit_from_words(at, label.strip(), words) if mark else None) or Hit(at, text.strip()))
    return MarksRead(hits=tuple(hits), notes=between_note(between))


def _markers(per_quarter: int, messages: list[mido.Message | mido.MetaMessage]) -> list[tuple[Fraction, str]]:
    """Exact seconds and text of every marker, following the tempo map."""
    seconds, tempo, found = Fraction(0), 500_000, []
    for message in messages:
        seconds += Fraction(message.time * tempo, 1_000_000 * per_quarter)
        if message.type == "set_tempo":
            tempo = message.tempo
        elif message.type in ("marker", "cue_marker"):
            found.append((seconds, message.text))
    return found
