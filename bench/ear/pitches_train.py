"""Teach which notes sound and write the weights.  Usage: python -m ear.pitches_train OUT.onnx [--pieces N] [--first SEED]

A multilayer perceptron over what is seen of one key in half a beat (core/listen/pitches.py), taught on pieces that no other
network was taught on. A key sounds in a half where a note of it is played for more than an instant of it.

Needs what ear.dataset needs. Run in bench/ with src/ on the path. Prints the area under the curve on pieces kept aside.
"""

from fractions import Fraction

import numpy as np

from ear.keys import Examples, piece_of, teach, where_notes
from ear.render import RATE_HZ
from evenseam.core.listen.describe import between_beats, half_beats
from evenseam.core.listen.pitches import N_SEEN, around
from evenseam.core.listen.spectra import HOP_SAMPLES, TONE_HOPS, spectra

INSTANT_S = 0.03
HALVES, STEP_S = 100, (0.3, 0.9)  # of one piece, and how far apart "beats" are where there are none
FIRST_SEED = 600_000


def examples_of(seed: int) -> Examples:
    """What is seen of every key in some half beats of the piece of a seed, (examples, N_SEEN), and whether it sounds."""
    piece, heard, rng = piece_of(seed)
    tones, end_s = spectra(heard.sound, Fraction(1)).tones, heard.sound.size / RATE_HZ
    beats_s = heard.beats_s if heard.beats_s.size > 4 else np.arange(0.5, end_s - 3, rng.uniform(*STEP_S))
    rows = half_beats(beats_s * RATE_HZ / (HOP_SAMPLES * TONE_HOPS), tones.shape[0])
    energy = between_beats(tones, rows).astype(np.float32)
    starts_s = rows * TONE_HOPS * HOP_SAMPLES / RATE_HZ
    ends_s = np.append(starts_s[1:], starts_s[-1] + STEP_S[0])
    at = np.flatnonzero(ends_s < end_s - 2)
    at = rng.choice(at, min(HALVES, at.size), replace=False)
    after_s, before_s = starts_s[at] + INSTANT_S, ends_s[at] - INSTANT_S
    sounds = where_notes(piece, lambda begins, ends: (begins < before_s) & (ends > after_s), at.size)
    return around(energy, at).reshape(-1, N_SEEN).astype(np.float16), sounds.ravel()


if __name__ == "__main__":
    teach(examples_of, "sounds", __doc__, FIRST_SEED)
