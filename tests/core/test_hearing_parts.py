"""The parts of listening, each against what is known."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pyloudnorm
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.audio.attacks import find_attacks, snap_to_attacks
from evenseam.core.audio.levels import LoudnessMeter, TruePeakMeter, loudness_lufs
from evenseam.core.audio.long import LongSound
from evenseam.core.audio.peaks import PeaksMaker, peaks_dat
from evenseam.core.chart import Section, roles_of
from evenseam.core.listen import chart_of
from evenseam.core.listen.features import intake as intake_module
from evenseam.core.listen.features.intake import ANALYSIS_RATE_HZ, TakingIn, take_in
from evenseam.core.listen.features.spectra import spectra
from evenseam.core.listen.form import sections
from evenseam.core.listen.form.sections import find_loops, find_sections, likeness
from tests.conftest import drum_loop, heard
from tests.synth import play

_PER_BEAT = ("rings", "pitches", "beat_in_bar", "features", "beat_sure", "voice", "lead")


def test_analysis_hops_keep_time_at_every_rate() -> None:
    for rate in (8_000, 22_050, 44_100, 48_000, 96_000, 192_000):
        sound = np.zeros(rate * 3, dtype=np.float32)
        sound[2 * rate : 2 * rate + rate // 100] = 0.5
        intake = take_in(sound[None], rate)
        spec = spectra(intake.mono, intake.samples_per_mono)
        hop = int(spec.rise.argmax())
        assert hop * float(spec.samples_per_hop) / rate == pytest.approx(2.0, abs=0.03)
        assert rate / float(spec.samples_per_hop) == pytest.approx(ANALYSIS_RATE_HZ / 220, rel=0.01)


def test_beats_move_on_to_the_attack_to_the_millisecond() -> None:
    rate = 44_100
    sound = np.random.default_rng(0).normal(0, 1e-4, 10 * rate).astype(np.float32)
    true = np.arange(1, 9) * rate
    for at in true:
        sound[at : at + 4000] += (np.exp(-np.arange(4000) / 800) * np.sin(np.arange(4000) * 0.2) * 0.5).astype(np.float32)
    found = snap_to_attacks(true + np.array([600, -500, 300, -600, 0, 700, -400, 100], dtype=float), find_attacks(sound, rate))
    assert np.abs(found - true).max() < 0.004 * rate


def test_sections_and_loops_follow_the_likeness_of_bars() -> None:
    rng = np.random.default_rng(4)
    a, b = rng.normal(0, 1, (8, 40)), rng.normal(3, 1, (8, 40))
    bars = np.concatenate([a, b, a, a]).astype(np.float32) + rng.normal(0, 0.02, (32, 40)).astype(np.float32)
    alike = likeness(bars)
    starts = np.arange(32) * 1000
    sections = find_sections(alike, starts, 32_000)
    assert [s.label for s in sections][:3] == ["A", "B", "A"]
    assert sections[1].start_samples == 8_000
    loops = find_loops(alike, starts, 32_000)
    assert {loop.bars for loop in loops} <= {2, 4, 8, 16}
    assert any(loop.bars == 8 for loop in loops)
    assert all(loop.end_samples - loop.start_samples == 1000 * loop.bars for loop in loops)
    assert find_sections(likeness(np.empty((0, 4), np.float32)), np.empty(0, np.int64), 0) == ()


@settings(max_examples=15, deadline=None)
@given(
    st.lists(st.integers(1, 40_000), min_size=1, max_size=6), st.sampled_from([8_000, 22_050, 44_100, 48_000, 96_000, 192_000])
)
def test_a_recording_is_taken_in_the_same_however_it_is_cut(sizes: list[int], rate: int) -> None:
    rng = np.random.default_rng(sum(sizes))
    # As far from white as recordings are: the highest peaks of white noise can hide between low samples.
    sound = scipy.signal.lfilter([0.25, 0.5, 0.25], [1], rng.normal(0, 0.1, (2, sum(sizes)))).astype(np.float32)
    whole, taking, peaks = take_in(sound, rate), TakingIn(rate, 2), PeaksMaker(rate)
    at = 0
    for size in sizes:
        taking.push(sound[:, at : at + size])
        peaks.push(sound[:, at : at + size])
        at += size
    parts = taking.finish()
    np.testing.assert_allclose(parts.mono, whole.mono, atol=1e-6)
    assert parts.n_samples == whole.n_samples == sum(sizes)
    assert parts.loudness_lufs == pytest.approx(whole.loudness_lufs, abs=0.01)
    assert parts.true_peak_dbtp == pytest.approx(whole.true_peak_dbtp, abs=0.3)
    assert peaks.finish() == peaks_dat(sound, rate)
    reference = scipy.signal.resample_poly(sound.mean(axis=0), 1, 1)
    assert abs(parts.mono.size * float(parts.samples_per_mono) - reference.size) <= float(parts.samples_per_mono) + 1


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_loudness_is_that_of_the_standard(rate: int) -> None:
    sound = play(bars=8, rate=rate).audio.samples
    sound = np.concatenate([sound * 0.02, sound], axis=1)  # a quiet part, for the relative gate
    by_package = pyloudnorm.Meter(rate).integrated_loudness(sound.T.astype(np.float64))
    assert loudness_lufs(sound, rate) == pytest.approx(by_package, abs=0.05)
    t = np.arange(5 * rate) / rate
    tone = (10 ** (-20 / 20) * np.sin(2 * np.pi * 997 * t)).astype(np.float32)
    assert loudness_lufs(np.stack([tone, tone]), rate) == pytest.approx(-20.0, abs=0.1)
    assert LoudnessMeter(rate, 1).integrated_lufs() == float("-inf")


def test_a_true_peak_between_samples_is_found() -> None:
    n = np.arange(48_000)
    fade = np.clip(np.minimum(n, n[::-1]) / 4000, 0, 1)
    tone = (0.5 * fade * np.sin(2 * np.pi * n / 4 + np.pi / 4)).astype(np.float32)[None]  # its samples only show 0.354
    meter = TruePeakMeter(48_000, 1)
    for part in np.array_split(tone, 7, axis=1):
        meter.push(part)
    assert 20 * np.log10(np.abs(tone).max()) == pytest.approx(-9.03, abs=0.01)
    assert meter.dbtp() == pytest.approx(-6.02, abs=0.1)
    assert TruePeakMeter(48_000, 1).dbtp() == float("-inf")


@given(st.permutations("AABBCA"), st.sampled_from([8, 12, 16]), st.integers(0, 10**6))
@settings(max_examples=30, deadline=None)
def test_sections_that_come_again_have_the_letter_that_they_had(form: list[str], bars_each: int, seed: int) -> None:
    """Every letter has a sound and a chain of bars of its own, each time a little other."""
    rng = np.random.default_rng(seed)
    chains = {letter: rng.normal(0, 1, 40) + rng.normal(0, 0.7, (bars_each, 40)) for letter in "ABC"}
    bars = np.concatenate([chains[letter] + rng.normal(0, 0.1, (bars_each, 40)) for letter in form]).astype(np.float32)
    found = find_sections(likeness(bars), np.arange(len(bars)) * 1000, len(bars) * 1000)
    assert found[0].start_samples == 0
    assert found[-1].end_samples == len(bars) * 1000
    assert all(a.end_samples == b.start_samples for a, b in pairwise(found))
    assert len({s.label for s in found}) <= 4
    letters = ["".join(s.label for s in found if s.start_samples <= 1000 * k < s.end_samples) for k in range(len(bars))]
    truth = [letter for letter in form for _ in range(bars_each)]
    pairs = [(truth[i] == truth[j], letters[i] == letters[j]) for i in range(len(bars)) for j in range(i)]
    assert sum(a == b for a, b in pairs) / len(pairs) > 0.75


def test_there_are_no_more_sections_than_one_can_hold_in_the_head() -> None:
    rng = np.random.default_rng(1)
    bars = np.repeat(rng.normal(0, 1, (60, 40)), 5, axis=0).astype(np.float32)  # something new every five bars
    assert len(find_sections(likeness(bars), np.arange(300) * 1000, 300_000)) <= 12


def test_intro_break_build_and_ending_are_told_by_place_and_fullness() -> None:
    plain = heard("first_light").chart
    beats = np.arange(0, 24_000, 100)
    per_beat = {f: np.zeros((240, *getattr(plain, f).shape[1:]), getattr(plain, f).dtype) for f in _PER_BEAT}
    full = np.repeat([0.2, 0.6, 0.2, 0.6, 0.5, 0.9, 0.1], [40, 40, 40, 40, 40, 36, 4]).astype(np.float32)
    full[160:200] = np.linspace(0.3, 0.8, 40)
    edges = [0, 4000, 8000, 12_000, 16_000, 20_000, 23_600, 24_000]
    parts = tuple(Section(a, b, letter) for a, b, letter in zip(edges, edges[1:], "ABCBDBE", strict=False))
    piece = replace(plain, **{**per_beat, "beats": beats, "intensity": full}, sections=parts)
    assert roles_of(piece) == ("intro", "", "break", "", "build", "", "ending")
    assert roles_of(replace(piece, sections=parts[:2])) == ("", "")
    even = replace(piece, intensity=np.full(240, 0.5, dtype=np.float32), sections=(*parts[:6], Section(23_600, 24_000, "B")))
    assert roles_of(even)[:-1] == ("",) * 6


def test_a_long_recording_is_heard_from_a_file_as_from_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    audio = drum_loop(31.7)
    held = take_in(audio.samples, audio.rate)
    monkeypatch.setattr(intake_module, "_HELD_S", 3)
    from_file = take_in(audio.samples, audio.rate)
    assert isinstance(held.mono, np.ndarray)
    assert isinstance(from_file.mono, LongSound)
    assert from_file.mono.size == held.mono.size
    assert np.array_equal(from_file.mono[:], held.mono)
    assert np.array_equal(from_file.mono[70_000:70_100], held.mono[70_000:70_100])
    assert from_file.mono[held.mono.size + 5 : held.mono.size + 9].size == 0
    assert chart_of(from_file).to_bytes() == chart_of(held).to_bytes()


def test_pieces_of_hours_have_the_same_parts_as_if_they_were_short(monkeypatch: pytest.MonkeyPatch) -> None:
    bars = np.random.default_rng(4).normal(size=(6, 30)).astype(np.float32)
    piece = bars[np.repeat([0, 1, 0, 2, 0, 1], 8)]
    piece = piece + np.random.default_rng(5).normal(0, 0.05, piece.shape).astype(np.float32)
    at = np.arange(len(piece), dtype=np.int64) * 1000
    whole = likeness(piece)
    monkeypatch.setattr(sections, "_BARS_AT_ONCE", 8)
    in_parts = likeness(piece)
    assert in_parts.dtype == np.float16
    assert np.abs(in_parts - whole).max() < 0.1, "the median is taken from some of the bars"
    for alike in (whole, in_parts):
        found = find_sections(alike, at, 48_000)
        assert [(s.start_samples, s.label) for s in found] == [(8000 * k, letter) for k, letter in enumerate("ABACAB")]
