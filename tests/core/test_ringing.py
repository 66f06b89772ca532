"""What rings across beats and which notes sound between them: known tones, held, ended and struck anew."""

from fractions import Fraction

import numpy as np
import pytest

from evenseam.core.chart.description import N_CELLS
from evenseam.core.listen.features.spectra import HOP_SAMPLES, spectra
from evenseam.core.listen.harmony.pitches import pitches
from evenseam.core.listen.harmony.ringing import ringing

RATE = 22_050
C3, E4, G4, A5 = 48, 64, 67, 81
BEATS_S = np.arange(0, 6, 0.5)
BEAT_HOPS = BEATS_S * RATE / HOP_SAMPLES


def tone(key: int, start_s: float, end_s: float, fall_s: float = 1e9) -> np.ndarray:
    """Six seconds with one note in them, with a few partials; it ends within 20 ms."""
    t = np.arange(6 * RATE) / RATE
    wave = sum(np.sin(2 * np.pi * 440 * 2 ** ((key - 69) / 12) * n * t) / n for n in (1, 2, 3))
    edge = np.clip((t - start_s) / 0.005, 0, 1) * np.clip((end_s - t) / 0.02, 0, 1)
    return np.asarray(0.2 * wave * edge * np.exp(-np.maximum(t - start_s, 0) / fall_s), dtype=np.float32)


def heard(sound: np.ndarray) -> np.ndarray:
    spec = spectra(sound, Fraction(1))
    return ringing(spec.tones, spec.bands, BEAT_HOPS)


def cell(key: int) -> int:
    return 12 * int(np.searchsorted((48, 65), key, side="right")) + key % 12


def test_a_held_note_rings_where_it_is_held_in_its_pitch_class_and_register() -> None:
    rings = heard(tone(C3, 1.0, 4.0))
    across = rings[:, cell(C3)]
    assert rings.shape == (12, N_CELLS)
    assert across[3:8].min() > 0.5  # at 1.5 to 3.5 s
    assert across[[0, 1, 2, 8, 9, 10, 11]].max() == 0  # struck at 1 s, ended at 4 s


@pytest.mark.parametrize(("lasts_s", "least"), [(0.6, 0.05), (0.8, 0.5)])  # soon after a beat it is not sure to go on
def test_what_ends_before_a_beat_and_is_struck_on_it_does_not_ring_across_it(lasts_s: float, least: float) -> None:
    strokes = sum(tone(E4, at, at + lasts_s) for at in (1.0, 2.0, 3.0, 4.0))
    rings = heard(np.asarray(tone(C3, 0.5, 5.5) + strokes, dtype=np.float32))
    across, beside = rings[[3, 5, 7], cell(E4)], rings[[4, 6, 8], cell(E4)]
    assert beside.max() < 0.03 < least < across.min()
    assert rings[3:9, cell(C3)].min() > 0.5


def test_a_louder_held_chord_rings_more_than_a_tail_that_dies_away() -> None:
    chord = heard(np.asarray(tone(C3, 0.5, 5.5) + tone(E4, 0.5, 5.5) + tone(A5, 0.5, 5.5), dtype=np.float32))
    tail = heard(tone(A5, 1.0, 5.5, fall_s=0.6))
    assert chord[4].sum() > 2 * tail[4].sum() > 0


def test_a_note_sounds_as_long_as_it_is_played_and_more_surely_than_a_partial() -> None:
    def sounds(*tones: np.ndarray) -> np.ndarray:
        spec = spectra(np.sum(tones, axis=0, dtype=np.float32), Fraction(1))
        return pitches(spec.tones, spec.bands, BEAT_HOPS)

    chord = tone(C3, 0.5, 5.5), tone(E4, 1.5, 3.0)  # with partials at G and at B
    found, with_g = sounds(*chord), sounds(*chord, tone(G4, 1.5, 3.0))
    assert found.shape == (12, 12)
    assert found[1:11, C3 % 12].min() > 0.8
    assert found[3:6, E4 % 12].min() > 0.8 > 0.3 > found[[1, 2, 7, 8, 9], E4 % 12].max()
    assert np.delete(found[1:11], [0, 4, 7, 11], axis=1).mean() < 0.15
    assert with_g[3:6, G4 % 12].min() > found[3:6, G4 % 12].max()


def test_nothing_rings_or_sounds_in_silence_or_without_beats() -> None:
    silent = spectra(np.zeros(6 * RATE, dtype=np.float32), Fraction(1))
    assert not ringing(silent.tones, silent.bands, BEAT_HOPS).any()
    assert pitches(silent.tones, silent.bands, BEAT_HOPS).max() < 0.05
    assert ringing(silent.tones, silent.bands, np.empty(0)).shape == (0, N_CELLS)
    assert pitches(silent.tones, silent.bands, np.empty(0)).shape == (0, 12)
