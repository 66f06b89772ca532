"""Teach which notes sound and write the weights.  Usage: python -m ear.pitches_train OUT.onnx [--pieces N] [--minutes M]

A key sounds in half a beat where a note of it is played for more than an instant of it. Run in bench/ with src/ on the path.
"""

from fractions import Fraction

import numpy as np

from ear.keys import Examples, piece_of, teach, where_notes
from ear.render import RATE_HZ
from evenseam.core.listen.features.spectra import HOP_SAMPLES, spectra
from evenseam.core.listen.harmony.pitches import around, half_edges

INSTANT_S, STRUCK_S = 0.03, 0.04
HALVES, STEP_S, JITTER_S = 220, (0.3, 0.9), 0.008  # of one piece, how far apart "beats" are where there are none, how far off
FIRST_SEED = 700_000


def examples_of(seed: int) -> Examples:
    """Some half beats of the piece of a seed. Asked besides is what sounds in either half of them and what is struck."""
    piece, heard, rng = piece_of(seed)
    spec, end_s = spectra(heard.sound, Fraction(1)), heard.sound.size / RATE_HZ
    beats_s = heard.beats_s if heard.beats_s.size > 4 else np.arange(0.5, end_s - 3, rng.uniform(*STEP_S))
    beats_s = np.sort(beats_s + rng.normal(0, JITTER_S, beats_s.size))
    edges = half_edges(beats_s * RATE_HZ / HOP_SAMPLES)
    edges_s = edges[2:-2] * HOP_SAMPLES / RATE_HZ
    at = np.flatnonzero((edges_s[1:] < end_s - 2) & (edges_s[:-1] > 0))
    at = rng.choice(at, min(HALVES, at.size), replace=False)
    start, end = edges_s[at], edges_s[at + 1]
    middle = (start + end) / 2

    def sounds(since: np.ndarray, until: np.ndarray) -> np.ndarray:
        return where_notes(piece, lambda begins, ends: (begins < until - INSTANT_S) & (ends > since + INSTANT_S), at.size)

    struck = where_notes(piece, lambda begins, _ends: (begins > start - STRUCK_S) & (begins < end - STRUCK_S), at.size)
    true = [sounds(start, end), sounds(start, middle), sounds(middle, end), struck]
    return Examples.of(around(spec.tones, spec.bands, edges, at), true)


if __name__ == "__main__":
    teach(examples_of, __doc__, FIRST_SEED)
