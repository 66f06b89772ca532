"""'Copper Wire': an easy bossa for nylon guitar, vibraphone and flute, 4/4 at 126."""

from evenseam.demo.scores.score import CLOSED_HAT, DRUMS, KICK, RIM, Part, Score, bass, chord

_A = ("Dmaj7", "Dmaj7", "Em7", "A7", "Dmaj7", "Bm", "Em7", "A7")
_B = ("Gmaj7", "Gm", "F#m", "B7", "Em7", "A7", "Dmaj7", "A7")
_PLAN = "IIII" + "A" * 16 + "B" * 8 + "A" * 8 + "B" * 8 + "A" * 8 + "E"
_TUNE_A = ((0, 1.5, 78), (1.5, 0.5, 76), (2, 2, 73), (4.5, 0.5, 74), (5, 1, 76), (6, 1.8, 69))
_TUNE_B = ((0, 1, 83), (1, 1, 81), (2, 1.5, 78), (3.5, 0.5, 79), (4, 2, 78), (6, 1.5, 74))


def score() -> Score:
    """The piece, 53 bars, some 1:45."""
    guitar, low, vibes, flute, drums = (
        Part(0, 24, 96, 46),
        Part(1, 32, 108),
        Part(2, 11, 90, 82),
        Part(3, 73, 88),
        Part(DRUMS, 0, 84),
    )
    for bar, kind in enumerate(_PLAN):
        at = bar * 4.0
        if kind == "E":
            for part, pitches in ((guitar, chord("Dmaj7", 57)), (low, [38]), (vibes, chord("D", 69))):
                part.chord(at, 3.5, pitches, 92)
            drums.play(at, 0.2, KICK, 96)
            break
        name = (_B if kind == "B" else _A)[(bar - 4) % 8]
        for beat in (0, 1.5, 3) if bar % 2 == 0 else (0.5, 2, 3):
            guitar.chord(at + beat, 0.8, chord(name, 55), 82 if beat == 0 else 70)
        low.play(at, 1.4, bass(name, 36), 106)
        low.play(at + 1.5, 0.5, bass(name, 36), 76)
        low.play(at + 2, 1.4, bass(name, 36) + 7 - (12 if bass(name, 36) > 42 else 0), 90)
        if kind != "I":
            for step in range(8):
                drums.play(at + step / 2, 0.1, CLOSED_HAT, 70 if step % 2 == 0 else 54)
            for beat in (0, 2):
                drums.play(at + beat, 0.2, KICK, 92 if beat == 0 else 78)
            for beat in (0, 1.5, 3) if bar % 2 == 0 else (1, 2.5):
                drums.play(at + beat, 0.1, RIM, 76)
        tune = vibes if kind == "A" else flute
        if kind in "AB" and bar % 2 == 0:
            for start, length, pitch in _TUNE_B if kind == "B" else _TUNE_A:
                tune.play(at + start, length * 0.95, pitch, 88)
    return Score(
        "copper_wire", "Copper Wire", "bossa, light", 126, 4, len(_PLAN), (guitar, low, vibes, flute, drums), ring_s=3.5
    )
