"""'Up the Hill Parade': brass and side drum, 4/4 at 116, with a pick-up before the first bar."""

from evenseam.demo.scores.score import CRASH, DRUMS, KICK, SNARE, Part, Score, bass, chord

_A = ("Bb", "Bb", "Eb", "Bb", "F7", "F7", "Bb", "Bb")
_B = ("Eb", "Eb", "Bb", "Bb", "C7", "C7", "F7", "F7")
# A letter for every half bar.
_PLAN = "A" * 16 + "B" * 16 + "A" * 16 + "B" * 16 + "A" * 8 + "E"
_TUNE_A = ((0, 1, 70), (1, 1, 74), (2, 1.5, 77), (3.5, 0.5, 75), (4, 1, 74), (5, 0.5, 72), (5.5, 0.5, 74), (6, 2, 70))
_TUNE_B = ((0, 0.75, 79), (0.75, 0.25, 77), (1, 1, 75), (2, 2, 79), (4, 0.75, 77), (4.75, 0.25, 75), (5, 1, 74), (6, 2, 77))


def score() -> Score:
    """The piece, 37 bars after a pick-up of one beat, some 1:15."""
    tuba, horns, cornets, drums = Part(0, 58, 112), Part(1, 60, 88, 44), Part(2, 56, 96, 78), Part(DRUMS, 0, 96)
    cornets.play(-1, 0.5, 65, 92)
    cornets.play(-0.5, 0.5, 65, 96)
    for half, kind in enumerate(_PLAN):
        at = half * 2.0
        if kind == "E":
            for part, pitches in ((tuba, [34]), (horns, chord("Bb", 58)), (cornets, [70, 74, 77])):
                part.chord(at, 1.2, pitches, 112)
            drums.play(at, 1.0, CRASH, 104)
            drums.play(at, 0.3, KICK, 114)
            break
        name = (_B if kind == "B" else _A)[half % 8]
        tuba.play(at, 0.8, bass(name, 34), 110)
        tuba.play(at + 1, 0.6, bass(name, 34) + 7 - (12 if bass(name, 34) > 40 else 0), 90)
        for beat in (0.5, 1.5):
            horns.chord(at + beat, 0.3, chord(name, 58), 80)
        drums.play(at, 0.2, KICK, 112 if half % 2 == 0 else 96)
        for beat in (0.5, 1, 1.25, 1.5):
            drums.play(at + beat, 0.1, SNARE, 84 if beat in (0.5, 1.5) else 66)
        if half % 8 == 0:
            drums.play(at, 1.0, CRASH, 92)
        if half % 4 == 0:
            for start, length, pitch in _TUNE_B if kind == "B" else _TUNE_A:
                cornets.play(at + start, length * 0.9, pitch, 98)
    return Score(
        "hill_parade", "Up the Hill Parade", "brass, march", 116, 4, len(_PLAN) // 2 + 1, (tuba, horns, cornets, drums),
        lead_in_s=0.65, ring_s=2.5,
    )  # fmt: skip
