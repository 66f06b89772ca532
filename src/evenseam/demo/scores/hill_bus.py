"""'Hill Bus': a short swung trio with brass stabs, 4/4 at 138; shorter than the film, so it has to be made longer."""

from evenseam.demo.scores.score import CRASH, DRUMS, KICK, RIDE, SNARE, Part, Score, bass, chord

_CHANGES = ("F6", "D7", "Gm7", "C7", "F6", "F7", "Bb6", "C7")
_BRIDGE = ("Bb6", "Bb6", "F6", "D7", "G7", "G7", "C7", "C7")
_BARS = 25
_RIFF = ((0, 0.6, 72), (1.66, 0.3, 74), (2, 0.6, 77), (3.66, 0.9, 74), (5, 0.6, 72), (6.66, 0.8, 69))


def score() -> Score:
    """The piece, 25 bars, some 0:43."""
    walk, piano, horn, drums = Part(0, 32, 110), Part(1, 0, 88, 50), Part(2, 56, 80, 78), Part(DRUMS, 0, 92)
    for bar in range(_BARS - 1):
        at = bar * 4.0
        changes = _BRIDGE if 8 <= bar < 16 else _CHANGES
        name, then = changes[bar % 8], changes[(bar + 1) % 8]
        for beat, pitch in enumerate(_walk(name, then)):
            walk.play(at + beat, 0.9, pitch, 96 if beat == 0 else 86)
        for offset in (0.0, 1.66) if bar % 2 == 0 else (0.66, 2.66):
            piano.chord(at + offset, 0.4, chord(name, 58), 76 if offset == 0 else 68)
        _swing(drums, at, fill=bar % 8 == 7)
        if bar % 2 == 0 and (bar < 8 or bar >= 16):
            for offset, length, pitch in _RIFF:
                horn.play(at + offset, length, pitch, 92)
        if 8 <= bar < 16 and bar % 2 == 0:
            horn.chord(at, 0.5, chord(name, 65), 90)
            horn.chord(at + 5.66, 0.4, chord(then, 65), 84)
    at = (_BARS - 1) * 4.0
    for part, pitches in ((walk, [29]), (piano, chord("F6", 58)), (horn, chord("F6", 65))):
        part.chord(at, 1.2, pitches, 108)
    drums.play(at, 2, CRASH, 104)
    drums.play(at, 0.3, KICK, 112)
    return Score("hill_bus", "Hill Bus", "swing, small band", 138, 4, _BARS, (walk, piano, horn, drums), ring_s=2.5)


def _walk(name: str, then: str) -> list[int]:
    start, goal = bass(name, 33), bass(then, 33)
    third = start + (3 if "m" in name else 4)
    return [start, third, start + 7, goal + (1 if goal <= start + 7 else -1)]


def _swing(part: Part, at: float, fill: bool) -> None:
    for beat in range(4):
        part.play(at + beat, 0.3, RIDE, 84 if beat % 2 == 0 else 94)
        if beat % 2:
            part.play(at + beat + 0.66, 0.2, RIDE, 70)
            part.play(at + beat, 0.1, 44, 84)
    part.play(at, 0.2, KICK, 84)
    if fill:
        for step, offset in enumerate((2, 2.66, 3, 3.66)):
            part.play(at + offset, 0.2, SNARE, 76 + 8 * step)
