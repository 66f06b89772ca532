"""What tells a bar from one and a half: repetition, and reading the pulse."""

import numpy as np
import pytest

from evenseam.core.listen.attacks import snap_to_attacks
from evenseam.core.listen.beats import attack_strength, beat_confidence, find_pulses
from evenseam.core.listen.listen import mix_to_mono
from evenseam.core.listen.repetition import lag_profiles
from evenseam.core.listen.sections import find_loops, find_sections, likeness
from evenseam.core.listen.spectra import ANALYSIS_RATE_HZ, spectra
from tests.conftest import drum_loop


@pytest.mark.parametrize(("meter", "other"), [(3, 4), (4, 5), (3, 5)])
def test_a_bar_repeats_more_than_a_bar_of_another_metre(meter: int, other: int) -> None:
    audio = drum_loop(40.0, bpm=120, meter=meter)
    spec = spectra(mix_to_mono(audio.samples), audio.rate)
    beat_hops = 0.5 * audio.rate / float(spec.samples_per_hop)
    profiles = lag_profiles(spec)
    assert profiles.bar_strength(beat_hops * meter)[1] > profiles.bar_strength(beat_hops * other)[1]
    assert profiles.bar_strength(1e6) == (0.0, 0.0)


def test_pulses_of_every_range_are_found_once() -> None:
    audio = drum_loop(30.0, bpm=100)
    spec = spectra(mix_to_mono(audio.samples), audio.rate)
    strength = attack_strength(spec)
    hops_per_s = audio.rate / float(spec.samples_per_hop)
    pulses = find_pulses(strength, hops_per_s)
    tempos = [60 * hops_per_s / np.median(np.diff(p.hops)) for p in pulses]
    assert any(t == pytest.approx(100, rel=0.02) for t in tempos)
    assert len({p.hops.tobytes() for p in pulses}) == len(pulses)
    assert beat_confidence(strength, pulses[0].hops) > 0.5
    assert beat_confidence(strength, pulses[0].hops[:3]) == 0.0


def test_analysis_hops_keep_time_at_every_rate() -> None:
    for rate in (8_000, 22_050, 44_100, 48_000, 96_000, 192_000):
        sound = np.zeros(rate * 3, dtype=np.float32)
        sound[2 * rate : 2 * rate + rate // 100] = 0.5
        spec = spectra(sound, rate)
        hop = int(spec.flux.sum(axis=1).argmax())
        assert hop * float(spec.samples_per_hop) / rate == pytest.approx(2.0, abs=0.03)
        assert rate / float(spec.samples_per_hop) == pytest.approx(ANALYSIS_RATE_HZ / 220, rel=0.01)


def test_beats_move_on_to_the_attack_to_the_millisecond() -> None:
    rate = 44_100
    sound = np.random.default_rng(0).normal(0, 1e-4, 10 * rate).astype(np.float32)
    true = np.arange(1, 9) * rate
    for at in true:
        sound[at : at + 4000] += (np.exp(-np.arange(4000) / 800) * np.sin(np.arange(4000) * 0.2) * 0.5).astype(np.float32)
    found = snap_to_attacks(true + np.array([600, -500, 300, -600, 0, 700, -400, 100], dtype=float), sound, rate)
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
