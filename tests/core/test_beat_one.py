"""What speaks for beat one, and the key: each against music that was made for it."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.beats.accents import BAR_SIGNS, SIGNS, bar_signs, beat_signs
from evenseam.core.listen.features.spectra import LOWEST_TONE, TONE_HOPS, Spectra
from evenseam.core.listen.harmony.key import find_key

HOPS_PER_BEAT = 48
NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


def riff(meter: int, chords: list[int], phase: int, loud_beat: int) -> Spectra:
    """A figure of one bar, the same on every chord: root on beat one, its neighbours on the last beat to lead back to it.

    The music starts `phase` beats into a bar; `loud_beat` of every bar is struck harder than all others.
    """
    n = len(chords) * meter - phase
    tones = np.full((n * HOPS_PER_BEAT // TONE_HOPS, N_TONES), 0.05, dtype=np.float32)
    bands = np.full((n * HOPS_PER_BEAT, 48), 0.2, dtype=np.float32)
    per_beat = HOPS_PER_BEAT // TONE_HOPS
    for beat in range(n):
        bar, place = divmod(beat + phase, meter)
        step = 0 if place == 0 else (7, 12, 4, 9, 2)[place % 5] if place < meter - 1 else -2
        tones[beat * per_beat : (beat + 1) * per_beat, 12 + chords[bar] + step] = 3.0
        bands[beat * HOPS_PER_BEAT : beat * HOPS_PER_BEAT + 6] += 2.0 if place == loud_beat else 0.6
    return Spectra(bands, np.zeros((bands.shape[0], 12), np.float32), bands.mean(axis=1), tones, Fraction(220))


@given(
    st.sampled_from([3, 4, 5, 6]),
    st.lists(st.sampled_from([0, 5, 7]), min_size=6, max_size=10),
    st.integers(0, 5),
    st.integers(0, 5),
)
@settings(deadline=None, max_examples=40)
def test_likeness_to_a_bar_ago_turns_at_bar_lines_wherever_the_music_starts_and_the_drums_are_loud(
    meter: int, changes: list[int], phase: int, loud_beat: int
) -> None:
    chords = [c for change in changes for c in [change] * 4]
    if len(set(chords)) == 1:
        return  # nothing changes, nothing can turn
    phase, loud_beat = phase % meter, loud_beat % meter
    spec = riff(meter, chords, phase, loud_beat)
    beats = np.arange(len(chords) * meter - phase, dtype=float) * HOPS_PER_BEAT
    signs = bar_signs(spec, beats, meter)
    assert signs.shape == (beats.size, len(BAR_SIGNS))
    low = signs[meter:, BAR_SIGNS.index("low 1")]  # the first bar has no bar before it
    by_place = [low[np.arange(meter, beats.size) % meter == p].mean() for p in range(meter)]
    assert (int(np.argmax(by_place)) + phase) % meter == 0


def test_signs_are_standardised_and_finite_for_the_shortest_music() -> None:
    spec = riff(4, [0, 5], 0, 0)
    for n in (1, 2, 3, 8):
        beats = np.arange(n, dtype=float) * HOPS_PER_BEAT
        for signs in (bar_signs(spec, beats, 4), beat_signs(spec, np.full(n, 0.3, np.float32), beats)):
            assert signs.shape[0] == n
            assert np.isfinite(signs).all()
            assert np.abs(signs).max() <= 3
    assert beat_signs(spec, np.full(8, 0.3, np.float32), np.arange(8.0) * HOPS_PER_BEAT).shape[1] == len(SIGNS)


SCALES = {"major": (0, 2, 4, 5, 7, 9, 11), "minor": (0, 2, 3, 5, 7, 8, 10)}


@given(st.integers(0, 11), st.sampled_from(sorted(SCALES)), st.integers(0, 2**32 - 1))
@settings(deadline=None)
def test_the_key_of_a_scale_played_with_its_triad_most_often(tonic: int, mode: str, seed: int) -> None:
    rng = np.random.default_rng(seed)
    times = [100 if step in (0, SCALES[mode][2], 7) else 30 for step in SCALES[mode]]
    steps = rng.permutation(np.repeat(SCALES[mode], times))
    tones = rng.uniform(0, 0.3, (steps.size, N_TONES)).astype(np.float32)
    for row, step in zip(tones, steps, strict=True):
        row[(tonic + step - LOWEST_TONE) % 12 + 12 * rng.integers(0, 4)] += 4
    assert find_key(tones) == f"{NAMES[tonic]} {mode}"


@pytest.mark.parametrize("tones", [np.zeros((50, N_TONES), np.float32), np.ones((50, N_TONES), np.float32)])
def test_no_key_where_nothing_stands_out(tones: np.ndarray) -> None:
    assert find_key(tones) == "none"
