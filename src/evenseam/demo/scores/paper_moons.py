"""'Paper Moons': a piano alone in free time: phrases that breathe, no beat. Places are in seconds."""

import random

from evenseam.demo.scores.score import Part, Score, chord

_CHANGES = ("Dm7", "G7", "Cmaj7", "Am", "F", "Em", "Dm7", "E7", "Am", "F", "Dm", "G7", "C", "Am", "Dm7", "C")


def score() -> Score:
    """The piece, some 1:25, the same notes at every run."""
    rng = random.Random(11)
    piano, at = Part(0, 0, 110), 0.0
    for index, name in enumerate(_CHANGES):
        notes = chord(name, 55)
        piano.play(at, 4.5, notes[0] - 24, 62 + rng.randrange(10))
        for pitch in notes:
            at += rng.uniform(0.09, 0.55)
            piano.play(at, rng.uniform(2.0, 4.0), pitch, 54 + rng.randrange(16))
        for _ in range(rng.randrange(2, 6)):
            at += rng.choice((0.28, 0.41, 0.63, 0.97)) * rng.uniform(0.85, 1.25)
            piano.play(at, rng.uniform(0.8, 2.5), rng.choice(notes) + 12 * rng.randrange(1, 3), 50 + rng.randrange(26))
        at += rng.uniform(1.6, 2.9) + (1.2 if index % 4 == 3 else 0.0)
    for pitch in (36, 48, 55, 64, 67):
        piano.play(at, 5.0, pitch, 56)
    return Score("paper_moons", "Paper Moons", "piano, free time", 60, 1, 1, (piano,), lead_in_s=0.3, ring_s=4.0, is_free=True)
