"""'Tide Clock': a jig-like air for guitar, fiddle and flute, 6/8 at 104 dotted quarters."""

from evenseam.demo.scores.score import DRUMS, RIM, SHAKER, Part, Score, bass, chord

_A = ("G", "Em", "C", "D", "G", "Em", "C", "D")
_B = ("Em", "C", "G", "D", "Em", "C", "D", "D")
_PLAN = "IIII" + "A" * 16 + "B" * 16 + "A" * 8 + "B" * 16 + "A" * 16 + "E"
# In eighths, over two bars.
_TUNE_A = ((0, 2, 79), (2, 1, 81), (3, 2, 83), (5, 1, 79), (6, 3, 76), (9, 1, 74), (10, 1, 76), (11, 1, 78))
_TUNE_B = ((0, 1, 83), (1, 1, 81), (2, 1, 79), (3, 3, 76), (6, 1, 79), (7, 1, 81), (8, 1, 83), (9, 2, 86), (11, 1, 83))


def score() -> Score:
    """The piece, 77 bars, some 1:30."""
    guitar, low, fiddle = Part(0, 25, 100, 46), Part(1, 32, 104), Part(2, 40, 84, 82)
    flute, drums = Part(3, 73, 88, 58), Part(DRUMS, 0, 84)
    for bar, kind in enumerate(_PLAN):
        at = bar * 2.0
        if kind == "E":
            for part, pitches in ((guitar, [43, *chord("G", 55)]), (low, [31]), (fiddle, [79, 83]), (flute, [86])):
                part.chord(at, 2.0, pitches, 96)
            break
        name = (_B if kind == "B" else _A)[(bar - 4) % 8]
        notes = chord(name, 55)
        guitar.play(at, 0.6, bass(name, 40), 98)
        guitar.play(at + 1, 0.6, bass(name, 40) + 7, 84)
        for eighth in (1, 2, 4, 5):
            guitar.play(at + eighth / 3, 0.3, notes[eighth % 3], 66 if eighth in (1, 4) else 74)
        if kind != "I":
            low.play(at, 0.9, bass(name, 31), 100)
            low.play(at + 1, 0.6, bass(name, 31), 82)
            drums.play(at, 0.2, 36, 84)
            drums.play(at + 1, 0.2, RIM, 78)
            for eighth in range(6):
                drums.play(at + eighth / 3, 0.1, SHAKER, 78 if eighth % 3 == 0 else 54)
        tune = fiddle if kind == "A" else flute
        if kind in "AB" and bar % 2 == 0:
            for start, length, pitch in _TUNE_B if kind == "B" else _TUNE_A:
                tune.play(at + start / 3, length / 3 * 0.95, pitch, 92 if start % 6 == 0 else 82)
    return Score(
        "tide_clock", "Tide Clock", "folk, 6/8", 104, 2, len(_PLAN), (guitar, low, fiddle, flute, drums),
        ring_s=3.5, is_compound=True,
    )  # fmt: skip
