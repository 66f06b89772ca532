"""'Lantern Path': an unhurried waltz for piano, harp and strings, 3/4 at 100."""

from evenseam.demo.scores.score import Part, Score, bass, chord

_A = ("D", "Bm", "G", "A", "D", "F#m", "G", "A7")
_B = ("Bm", "F#m", "G", "D", "Em", "Bm", "G", "A7")
_PLAN = "IIII" + "A" * 8 + "a" * 8 + "B" * 8 + "A" * 8 + "B" * 8 + "a" * 8 + "E"
_TUNE_A = ((0, 2, 78), (2, 1, 81), (3, 2, 83), (5, 1, 81), (6, 3, 79), (9, 2, 76), (11, 1, 73),
           (12, 2, 74), (14, 1, 78), (15, 3, 81), (18, 2, 83), (20, 1, 79), (21, 3, 76))  # fmt: skip
_TUNE_B = ((0, 3, 86), (3, 2, 85), (5, 1, 81), (6, 3, 83), (9, 3, 78), (12, 2, 79), (14, 1, 83), (15, 3, 78),
           (18, 1, 79), (19, 1, 78), (20, 1, 76), (21, 3, 73))  # fmt: skip


def score() -> Score:
    """The piece, 53 bars, some 1:37."""
    piano, harp, strings, tune = Part(0, 0, 100), Part(1, 46, 84, 44), Part(2, 48, 70), Part(3, 73, 92, 78)
    low = Part(4, 43, 96)
    for bar, kind in enumerate(_PLAN):
        at = bar * 3.0
        if kind == "E":
            piano.chord(at, 3, [38, *chord("D", 57)], 88)
            harp.chord(at, 3, chord("D", 69), 78)
            strings.chord(at, 3, chord("D", 62), 72)
            low.play(at, 3, 38, 90)
            break
        place = (bar - 4) % 8
        name = (_B if kind == "B" else _A)[place]
        low.play(at, 2.6, bass(name), 92)
        piano.play(at, 0.9, bass(name, 43), 92)
        for beat in (1, 2):
            piano.chord(at + beat, 0.8, chord(name, 60), 62)
        if kind in "aB":
            for step, pitch in enumerate(chord(name, 69)[:3] * 2):
                harp.play(at + step / 2, 0.5, pitch, 66)
        if kind in "aBA" and bar > 11:
            strings.chord(at, 2.95, chord(name, 57), 64)
        if kind in "AaB" and place == 0:
            for beat, length, pitch in _TUNE_B if kind == "B" else _TUNE_A:
                tune.play(at + beat, length * 0.95, pitch, 86)
    return Score(
        "lantern_path",
        "Lantern Path",
        "waltz, acoustic",
        100,
        3,
        len(_PLAN),
        (piano, harp, strings, tune, low),
        ring_s=4.0,
    )
