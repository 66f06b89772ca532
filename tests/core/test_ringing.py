"""What rings across beats: known tones, held, ended and struck anew."""

from fractions import Fraction

import numpy as np
import pytest

from evenseam.core.chart.description import N_CELLS
from evenseam.core.listen.ringing import ringing
from evenseam.core.listen.spectra import HOP_SAMPLES, spectra

RATE = 22_050
HOPS_PER_S = RATE / HOP_SAMPLES
C3, E4, A5 = 48, 64, 81
BEATS_S = np.arange(0, 6, 0.5)


def tone(key: int, start_s: float, end_s: float, fall_s: float = 1e9) -> np.ndarray:
    """Six seconds with one note in them, with a few partials; it ends within 20 ms."""
    t = np.arange(6 * RATE) / RATE
    wave = sum(np.sin(2 * np.pi * 440 * 2 ** ((key - 69) / 12) * n * t) / n for n in (1, 2, 3))
    edge = np.clip((t - start_s) / 0.005, 0, 1) * np.clip((end_s - t) / 0.02, 0, 1)
    return np.asarray(0.2 * wave * edge * np.exp(-np.maximum(t - start_s, 0) / fall_s), dtype=np.float32)


def heard(sound: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return ringing(spectra(sound, Fraction(1)).tones, BEATS_S * HOPS_PER_S, HOPS_PER_S)


def cell(key: int) -> int:
    return 12 * int(np.searchsorted((48, 65), key, side="right")) + key % 12


def test_a_held_note_rings_where_it_is_held_in_its_pitch_class_and_register() -> None:
    rings, tails_s = heard(tone(C3, 1.0, 4.0))
    across = rings[:, 0, cell(C3)]
    assert rings.shape == (12, 2, N_CELLS)
    assert across[3:8].min() > 0.5  # at 1.5 to 3.5 s
    assert across[[0, 1, 2, 8, 9, 10, 11]].max() == 0  # struck at 1 s, ended at 4 s
    assert rings[2:7, 1, cell(C3)].min() > 0.5  # and on the half beats
    for beat in (3, 5, 7):
        assert tails_s[beat, 0] == pytest.approx(4.0 - BEATS_S[beat], abs=0.15)
    assert tails_s[9:].max() == 0


def test_what_ends_before_a_beat_and_is_struck_on_it_does_not_ring_across_it() -> None:
    strokes = sum(tone(E4, at, at + 0.6) for at in (1.0, 2.0, 3.0, 4.0))
    rings, _ = heard(np.asarray(tone(C3, 0.5, 5.5) + strokes, dtype=np.float32))
    assert rings[[4, 6, 8], 0, cell(E4)].max() < 0.25 < 0.5 < rings[[4, 6, 8], 1, cell(E4)].min()
    assert rings[3:9, 0, cell(C3)].min() > 0.5


def test_a_louder_held_chord_rings_more_than_a_tail_that_dies_away() -> None:
    chord = heard(np.asarray(tone(C3, 0.5, 5.5) + tone(E4, 0.5, 5.5) + tone(A5, 0.5, 5.5), dtype=np.float32))
    tail = heard(tone(A5, 1.0, 5.5, fall_s=0.6))
    assert chord[0][4, 0].sum() > 2 * tail[0][4, 0].sum() > 0
    assert 0.2 < tail[1][4, 0] < 1.2 < chord[1][4, 0]


def test_nothing_rings_in_silence_or_without_beats() -> None:
    rings, tails_s = heard(np.zeros(6 * RATE, dtype=np.float32))
    assert not rings.any()
    assert not tails_s.any()
    none = ringing(np.zeros((10, 60), np.float32), np.empty(0), HOPS_PER_S)
    assert none[0].shape == (0, 2, N_CELLS)
