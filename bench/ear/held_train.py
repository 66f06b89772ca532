"""Teach which notes are held and write the weights.  Usage: python -m ear.held_train OUT.onnx [--pieces N] [--minutes M]

Taught at beats, between them and at free times of pieces that neither the ear nor the count was taught on. A note is held
across a place that it began before and ends after. Run in bench/ with src/ on the path.
"""

from fractions import Fraction

import numpy as np

from ear.keys import Examples, piece_of, teach, where_notes
from ear.render import RATE_HZ
from evenseam.core.listen.features.spectra import HOP_SAMPLES, spectra
from evenseam.core.listen.harmony.ringing import around

HELD_S = 0.06  # so long a note sounds on either side of what it is held across
NEAR_S, BESIDE_S, STRUCK_S = 0.05, 0.15, 0.06  # what is asked besides: what sounds just before and after, what is struck
PLACES, JITTER_S = 220, 0.01  # of one piece, and how far off a beat it may be heard
FIRST_SEED = 700_000


def examples_of(seed: int) -> Examples:
    """Some places of the piece of a seed."""
    piece, heard, rng = piece_of(seed)
    spec = spectra(heard.sound, Fraction(1))
    at_s = places_s(heard.beats_s, heard.sound.size / RATE_HZ - 3, rng)
    true = [
        where_notes(piece, lambda begins, ends: (at_s > begins + HELD_S) & (at_s < ends - HELD_S), at_s.size),
        where_notes(piece, lambda begins, ends: (begins < at_s - NEAR_S) & (ends > at_s - BESIDE_S), at_s.size),
        where_notes(piece, lambda begins, ends: (begins < at_s + BESIDE_S) & (ends > at_s + NEAR_S), at_s.size),
        where_notes(piece, lambda begins, _ends: np.abs(at_s - begins) < STRUCK_S, at_s.size),
    ]
    return Examples.of(around(spec.tones, spec.bands, at_s * RATE_HZ / HOP_SAMPLES), true)


def places_s(beats_s: np.ndarray, end_s: float, rng: np.random.Generator) -> np.ndarray:
    """Some beats and as many quarters between them before the end, as nearly as they are heard; any times without beats."""
    if beats_s.size > 4:
        steps = np.diff(beats_s)
        at = np.concatenate([beats_s, beats_s, *(beats_s[:-1] + share * steps for share in (0.25, 0.5, 0.75))])
    else:
        at = rng.uniform(0.5, end_s, PLACES)
    at = at[(at > 0.5) & (at < end_s)]
    at = rng.choice(at, min(PLACES, at.size), replace=False)
    return at + rng.normal(0, JITTER_S, at.size)


if __name__ == "__main__":
    teach(examples_of, __doc__, FIRST_SEED)
