"""'Cold Air': slow washes of sound without a beat. Places are in seconds."""

import random

from evenseam.demo.scores.score import Part, Score, chord

_CHANGES = ("Dmaj7", "Bm", "Gmaj7", "Em7", "A", "F#m", "Gmaj7", "D", "Bm", "Em7", "G", "D")


def score() -> Score:
    """The piece, some 1:50, the same notes at every run."""
    rng = random.Random(5)
    wash, glass, low, air = Part(0, 89, 92, 40), Part(1, 92, 70, 92), Part(2, 95, 84), Part(3, 97, 44, 70)
    at = 0.0
    for index, name in enumerate(_CHANGES):
        length = rng.uniform(7.5, 10.5)
        wash.chord(at, length + 2.5, chord(name, 50), 60 + 3 * min(index, 6))
        low.play(at + rng.uniform(0.0, 1.4), length + 1.0, chord(name, 38)[0], 64)
        if index > 1:
            glass.chord(at + rng.uniform(1.0, 3.0), length - 1.0, chord(name, 67)[:2], 54)
        if index % 3 == 2:
            air.play(at + rng.uniform(0.5, 2.0), 4.0, chord(name, 74)[0], 50)
        at += length
    return Score(
        "cold_air", "Cold Air", "ambience, no beat", 60, 1, 1, (wash, glass, low, air), lead_in_s=0.4, ring_s=7.0, is_free=True
    )
