"""'Long Exposure': a slow build for strings, piano and timpani, 4/4 at 84, with a button ending."""

from evenseam.demo.scores.score import CRASH, DRUMS, Part, Score, bass, chord

_CHANGES = ("Em", "C", "G", "D", "Em", "C", "Am", "B7")
_BARS = 57
_TIMPANI = 47


def score() -> Score:
    """The piece, 57 bars, some 2:44."""
    piano, low, high, horns = Part(0, 0, 96), Part(1, 49, 90, 54), Part(2, 48, 78, 74), Part(3, 60, 84)
    drum, cymbal, choir = Part(4, _TIMPANI, 108), Part(DRUMS, 0, 80), Part(5, 52, 66)
    for bar in range(_BARS - 1):
        at, name, level = bar * 4.0, _CHANGES[bar % 8], bar // 8
        grow = 6 * level
        notes = chord(name, 64)
        for step in range(8):
            piano.play(at + step / 2, 0.6, notes[(0, 2, 1, 2)[step % 4] % len(notes)], 62 + grow - (8 if step % 2 else 0))
        piano.play(at, 3.5, bass(name, 40), 70 + grow)
        if level >= 1:
            low.chord(at, 3.95, [bass(name), bass(name, 48)], 62 + grow)
        if level >= 2:
            high.chord(at, 3.95, chord(name, 67), 56 + grow)
        if level >= 3:
            for beat in (0, 1.5, 2, 3, 3.5):
                low.play(at + beat, 0.4, bass(name, 43), 76 + grow)
        if level >= 4:
            horns.play(at, 1.9, notes[0], 80 + grow // 2)
            horns.play(at + 2, 1.9, notes[1], 80 + grow // 2)
            drum.play(at, 1, bass(name), 96 + grow // 2)
        if level >= 5:
            choir.chord(at, 3.95, chord(name, 60), 74 + grow // 2)
            for beat in (2, 3, 3.5):
                drum.play(at + beat, 0.5, bass(name), 84 + grow // 2)
        if bar % 8 == 0 and level >= 2:
            cymbal.play(at, 3, CRASH, 64 + grow)
    at = (_BARS - 1) * 4.0
    for part, pitches in (
        (piano, [28, 40, 64, 67, 71]),
        (low, [28, 40]),
        (high, [67, 71, 76]),
        (horns, [64]),
        (drum, [40]),
    ):
        part.chord(at, 0.8, pitches, 120)
    cymbal.play(at, 2, CRASH, 116)
    return Score(
        "long_exposure", "Long Exposure", "orchestral, slow build", 84, 4, _BARS,
        (piano, low, high, horns, drum, cymbal, choir), ring_s=3.5,
    )  # fmt: skip
