"""Teach which notes are held and write the weights.  Usage: python -m ear.held_train OUT.onnx [--pieces N] [--first SEED]

A multilayer perceptron over what is seen of one key around one place (core/listen/ringing.py), taught at beats, between them
and at free times of pieces that neither the ear nor the count was taught on. A note is held across a place that it began well
before and ends well after.

Needs what ear.dataset needs. Run in bench/ with src/ on the path. Prints the area under the curve on pieces kept aside.
"""

from fractions import Fraction

import numpy as np

from ear.keys import Examples, piece_of, teach, where_notes
from ear.piece import Piece
from ear.render import RATE_HZ
from evenseam.core.listen.ringing import N_SEEN, around
from evenseam.core.listen.spectra import HOP_SAMPLES, TONE_HOPS, spectra

HELD_BEFORE_S, HELD_AFTER_S = 0.07, 0.06  # so long a note sounds on either side of what it is held across
PLACES, JITTER_S = 100, 0.01  # of one piece, and how far off a beat it may be heard
FIRST_SEED = 400_000


def examples_of(seed: int) -> Examples:
    """What is seen of every key at some places of the piece of a seed, (examples, N_SEEN), and whether it is held."""
    piece, heard, rng = piece_of(seed)
    tones = spectra(heard.sound, Fraction(1)).tones
    at_s = places_s(heard.beats_s, heard.sound.size / RATE_HZ - 3, rng)
    rows = np.rint(at_s * RATE_HZ / (TONE_HOPS * HOP_SAMPLES)).astype(np.int64)
    return around(tones, rows).reshape(-1, N_SEEN).astype(np.float16), held_at(piece, at_s).ravel()


def places_s(beats_s: np.ndarray, end_s: float, rng: np.random.Generator) -> np.ndarray:
    """Some of the beats, half beats and quarter beats before the end, as nearly as they are heard; any times without beats."""
    if beats_s.size > 1:
        steps = np.diff(beats_s)
        at = np.concatenate([beats_s, beats_s[:-1] + steps / 2, beats_s[:-1] + steps / 4])
    else:
        at = rng.uniform(0.5, end_s, 3 * PLACES)
    at = at[(at > 0.5) & (at < end_s)]
    return rng.choice(at, min(PLACES, at.size), replace=False) + rng.normal(0, JITTER_S, min(PLACES, at.size))


def held_at(piece: Piece, at_s: np.ndarray) -> np.ndarray:
    """Whether a note of each key is held across each place, bool (places, 60)."""
    return where_notes(piece, lambda begins, ends: (at_s > begins + HELD_BEFORE_S) & (at_s < ends - HELD_AFTER_S), at_s.size)


if __name__ == "__main__":
    teach(examples_of, "held", __doc__, FIRST_SEED)
