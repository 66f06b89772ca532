"""Listening, against scores whose beats are known."""

from itertools import pairwise

import numpy as np
import pytest

from evenseam.core.audio import Audio
from evenseam.core.errors import ListenError
from evenseam.core.listen import Chart, listen
from tests.conftest import HeardTrack, drum_loop, heard


def share_found(truth_s: list[float], found_s: np.ndarray, within_s: float) -> float:
    return float(np.mean([np.abs(found_s - t).min() <= within_s for t in truth_s]))


@pytest.mark.parametrize("slug", ["first_light", "lantern_path"])
def test_hears_every_bar_of_demo_tracks(slug: str) -> None:
    t = heard(slug)
    inner = t.score.downbeats_s()[1:-1]
    downbeats = t.chart.downbeats / t.chart.rate
    assert share_found(inner, downbeats, 0.04) >= 0.98
    assert t.chart.meter[0] == t.score.beats_per_bar
    assert t.chart.tempo_bpm == pytest.approx(t.score.tempo_bpm, rel=0.01)


def test_hears_the_pulse_of_every_demo_track_if_not_its_octave(track: HeardTrack) -> None:
    ratio = track.chart.tempo_bpm / track.score.tempo_bpm
    assert min(abs(ratio - octave) for octave in (0.5, 1, 2)) < 0.02
    on_half_beats = np.interp(
        np.arange(0, len(track.score.beats_s()) - 1, 0.5), np.arange(len(track.score.beats_s())), track.score.beats_s()
    )
    inner = track.chart.beats[4:-8] / track.chart.rate
    assert np.mean([np.abs(on_half_beats - b).min() < 0.05 for b in inner]) > 0.95


def test_finds_last_hit_and_ring_out(track: HeardTrack) -> None:
    chart = track.chart
    assert chart.last_hit_samples / chart.rate == pytest.approx(track.score.last_hit_s(), abs=0.08)
    assert chart.last_hit_samples < chart.ring_out_end_samples <= chart.n_samples
    assert chart.music_start_samples / chart.rate == pytest.approx(track.score.lead_in_s, abs=0.03)


@pytest.mark.parametrize("meter", [3, 4])
@pytest.mark.parametrize("rate", [8_000, 44_100, 96_000])
def test_hears_a_plain_loop_at_every_rate(meter: int, rate: int) -> None:
    chart = listen(drum_loop(30.0, rate, 110.0, meter, lead_s=0.7))
    truth = [0.7 + bar * meter * 60 / 110 for bar in range(1, 12)]
    assert share_found(truth, chart.downbeats / rate, 0.03) == 1.0


def test_the_same_sound_gives_the_same_chart_whichever_channel_comes_first() -> None:
    audio = drum_loop(12.0)
    one, two = listen(audio), listen(Audio(audio.samples[::-1].copy(), audio.rate))
    assert np.array_equal(one.beats, two.beats)
    assert np.array_equal(one.features, two.features)


def test_a_chart_comes_back_from_its_stored_form(track: HeardTrack) -> None:
    back = Chart.from_bytes(track.chart.to_bytes())
    assert np.array_equal(back.beats, track.chart.beats)
    assert back.sections == track.chart.sections
    np.testing.assert_allclose(back.features, track.chart.features, rtol=2e-3, atol=2e-3)
    assert back.to_json(1.0) == track.chart.to_json(1.0)


def test_sections_follow_each_other_to_the_end(track: HeardTrack) -> None:
    sections = track.chart.sections
    assert sections[0].label == "A"
    assert all(a.end_samples == b.start_samples for a, b in pairwise(sections))
    assert sections[-1].end_samples == track.chart.ring_out_end_samples


@pytest.mark.parametrize("seconds", [1.0, 1.5, 3.0])
def test_very_short_sounds_are_charted_without_a_fault(seconds: float) -> None:
    chart = listen(Audio(np.random.default_rng(2).normal(0, 0.1, (1, round(seconds * 22_050))).astype(np.float32), 22_050))
    assert 0 <= chart.last_hit_samples <= chart.n_samples


@pytest.mark.parametrize(("n_samples", "words"), [(10_000, "shorter than a second"), (100_000, "silent")])
def test_says_why_a_sound_cannot_be_used(n_samples: int, words: str) -> None:
    with pytest.raises(ListenError, match=words):
        listen(Audio(np.zeros((2, n_samples), dtype=np.float32), 44_100))
