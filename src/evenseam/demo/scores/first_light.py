"""'First Light': steady electronic, 4/4 at 118. Opening, two ideas that return, a break, a final chord that rings."""

from evenseam.demo.scores.score import (
    CLOSED_HAT, CRASH, DRUMS, KICK, OPEN_HAT, SNARE, Part, Score, bass, chord,
)  # fmt: skip

_A = ("Am", "F", "C", "G")
_B = ("F", "G", "Em", "Am")
_PLAN = "IIIIIIII" + "A" * 16 + "B" * 16 + "A" * 8 + "KKKKKKKK" + "B" * 12 + "E"
_TUNE_A = ((0, 1.5, 76), (1.5, 0.5, 79), (2, 2, 72), (4, 1, 74), (5, 1, 76), (6, 2, 69))
_TUNE_B = ((0, 1, 81), (1, 1, 79), (2, 1.5, 76), (3.5, 0.5, 74), (4, 1, 79), (5, 1, 76), (6, 2, 71))


def score() -> Score:
    """The piece, 69 bars, some 2:20."""
    pad, arp, low = Part(0, 89, 84), Part(1, 81, 62, 40), Part(2, 38, 100)
    lead, drums, bell = Part(3, 80, 66, 84), Part(DRUMS, 0, 104), Part(4, 14, 88)
    for bar, kind in enumerate(_PLAN):
        at = bar * 4.0
        name = (_B if kind == "B" else _A)[bar % 4]
        if kind == "E":
            _ending(at, pad, low, drums, bell)
            break
        pad.chord(at, 3.95, chord(name, 57), 70)
        _arpeggio(arp, at, name, 58 if kind in "IK" else 74)
        if kind in "ABK":
            _bass_line(low, at, name, busy=kind != "K")
        if kind in "AB":
            _beat(drums, at, busy=kind == "B", fill=bar % 8 == 7)
        if kind in "AB" and bar % 2 == 0:
            for beat, length, pitch in _TUNE_B if kind == "B" else _TUNE_A:
                lead.play(at + beat, length * 0.95, pitch - (0 if bar % 4 == 0 else 2), 82)
        if bar and kind != _PLAN[bar - 1]:
            drums.play(at, 2, CRASH, 96)
    return Score(
        "first_light",
        "First Light",
        "electronic, steady",
        118,
        4,
        len(_PLAN),
        (pad, arp, low, lead, drums, bell),
        ring_s=4.5,
    )


def _arpeggio(part: Part, at: float, name: str, velocity: int) -> None:
    notes = chord(name, 69)
    for step in range(8):
        part.play(at + step / 2, 0.45, notes[(0, 1, 2, 1)[step % 4]] + (12 if step == 6 else 0), velocity - 8 * (step % 2))


def _bass_line(part: Part, at: float, name: str, busy: bool) -> None:
    pitch = bass(name)
    for beat in (0, 0.75, 1.5, 2, 2.75, 3.5) if busy else (0, 2):
        part.play(at + beat, 0.6 if busy else 1.9, pitch + (12 if beat == 3.5 else 0), 96 if beat == 0 else 84)


def _beat(part: Part, at: float, busy: bool, fill: bool) -> None:
    for beat in range(4):
        part.play(at + beat, 0.2, KICK, 110 if beat == 0 else 98)
        part.play(at + beat + 0.5, 0.2, OPEN_HAT if busy else CLOSED_HAT, 78)
        if busy:
            part.play(at + beat, 0.1, CLOSED_HAT, 60)
    for beat in (1, 3):
        part.play(at + beat, 0.2, SNARE, 96)
    if fill:
        for step in range(4):
            part.play(at + 3 + step / 4, 0.1, SNARE, 70 + 10 * step)


def _ending(at: float, pad: Part, low: Part, drums: Part, bell: Part) -> None:
    pad.chord(at, 3, chord("Am", 57), 88)
    low.play(at, 3, bass("Am"), 104)
    bell.chord(at, 4, chord("Am", 69), 84)
    drums.play(at, 3, CRASH, 108)
    drums.play(at, 0.2, KICK, 116)
