"""Listening, against scores whose beats are known."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.audio.decode import Audio
from evenseam.core.chart import Chart
from evenseam.core.chart.chart import VOICE_FROM, meter_name
from evenseam.core.errors import ListenError
from evenseam.core.listen import listen, listen_to_file
from evenseam.demo.scores import Score
from tests.conftest import ALL_SCORES, HeardTrack, drum_loop, heard, music_file
from tests.synth import free_music, play


def share_found(truth_s: list[float], found_s: np.ndarray, within_s: float) -> float:
    return float(np.mean([np.abs(found_s - t).min() <= within_s for t in truth_s]))


@pytest.mark.parametrize("score", ALL_SCORES.values(), ids=ALL_SCORES)
def test_hears_every_bar_of_the_music_that_ships(score: Score) -> None:
    chart = listen_to_file(music_file(score))
    assert chart.free_time == score.is_free
    if score.is_free:
        return
    inner = [t for t in score.downbeats_s() if t >= score.music_start_s()][1:-1]
    downbeats = chart.downbeats[chart.downbeats >= chart.opening_samples] / chart.rate
    assert share_found(inner, downbeats, 0.04) == 1.0
    assert len(downbeats) <= len(inner) + 4
    assert meter_name(chart) == score.meter
    assert chart.tempo_bpm == pytest.approx(score.tempo_bpm, rel=0.01)
    assert chart.opening_samples / chart.rate == pytest.approx(score.music_start_s(), abs=0.04)


def test_hears_where_somebody_sings() -> None:
    sung, played = (heard(slug).chart.voice > VOICE_FROM for slug in ("frost_song", "hill_bus"))
    assert sung.mean() > 0.2
    assert played.mean() < 0.04


@pytest.mark.parametrize(
    ("slug", "key"),
    [("lantern_path", "D major"), ("hill_bus", "F major"), ("night_shift", "E minor"), ("harbour_lights", "Eb major")],
)
def test_hears_the_key(slug: str, key: str) -> None:
    assert heard(slug).chart.key == key


CASES = {
    "two": {"beats_per_bar": 2, "bars_per_chord": 1, "bars": 40},
    "three": {"beats_per_bar": 3},
    "four": {"beats_per_bar": 4},
    "five": {"beats_per_bar": 5},
    "six": {"beats_per_bar": 6},
    "seven": {"beats_per_bar": 7},
    "six eight": {"beats_per_bar": 2, "ternary": True, "bpm": 60.0, "bars": 32},
    "nine eight": {"beats_per_bar": 3, "ternary": True, "bpm": 66.0},
    "twelve eight": {"beats_per_bar": 4, "ternary": True, "bpm": 66.0},
    "a tenth faster": {"drift": 0.1},
    "a fifth slower": {"drift": -0.2},
    "swung": {"swing": 0.64},
    "a pick-up of three": {"pickup_beats": 3},
    "silence and hiss around it": {"head_s": 2.5, "tail_s": 4.0, "hiss": 2e-4},
    "counted in": {"count_in": True},
    "chords between the beats for a while": {"off_beat_bars": 7, "bars": 32},
}


@pytest.mark.parametrize("case", CASES)
def test_hears_beats_bars_and_metre_of_what_was_played(case: str) -> None:
    asked = CASES[case]
    played = play(**asked)
    chart = listen(played.audio)
    beats, downbeats = chart.beats / chart.rate, chart.downbeats / chart.rate
    inner = list(played.beats_s[4:-2])
    assert share_found(inner, beats, 0.03) > 0.97
    assert share_found(list(played.downbeats_s[2:-2]), downbeats, 0.03) > 0.95
    assert chart.beats_per_bar == asked.get("beats_per_bar", 4)
    assert chart.meter[1] == (8 if asked.get("ternary") else 4)
    assert np.median([np.abs(beats - t).min() for t in inner]) < 0.01
    assert chart.confidence.beat > 0.5


def test_music_without_a_beat_is_known_for_what_it_is_and_charted_by_breaths() -> None:
    chart = listen(free_music())
    assert chart.free_time
    assert chart.confidence.beat < 0.25
    assert chart.beats_per_bar == 1
    assert 8 < chart.beats.size < 70
    spacing = np.diff(chart.beats) / chart.rate
    assert spacing.min() > 0.85
    assert spacing.max() < 6.5
    report = chart.to_json(0.0)
    assert report["beats"] == []
    assert len(report["breaths"]) == chart.beats.size


@pytest.mark.parametrize("lead_s", [0.0, 1.0, 3.0])
def test_suggests_to_trim_what_is_not_music(lead_s: float) -> None:
    played = play(head_s=lead_s, tail_s=3.0, hiss=1e-4, count_in=True)
    chart = listen(played.audio)
    assert chart.trim_start_samples / chart.rate == pytest.approx(played.downbeats_s[0], abs=0.12)
    assert chart.opening_samples / chart.rate == pytest.approx(played.downbeats_s[0], abs=0.03)
    assert chart.n_samples - chart.trim_end_samples > 2 * chart.rate


def test_finds_last_hit_and_ring_out(track: HeardTrack) -> None:
    chart = track.chart
    assert chart.last_hit_samples / chart.rate == pytest.approx(track.score.last_hit_s(), abs=0.08)
    assert chart.last_hit_samples < chart.ring_out_end_samples <= chart.n_samples
    assert chart.music_start_samples / chart.rate == pytest.approx(track.score.lead_in_s, abs=0.03)


@pytest.mark.parametrize("rate", [8_000, 11_025, 16_000, 32_000, 44_100, 48_000, 88_200, 96_000, 192_000])
def test_hears_the_same_bars_at_every_rate(rate: int) -> None:
    played = play(bars=12, rate=rate)
    chart = listen(played.audio)
    assert share_found(list(played.downbeats_s[1:-1]), chart.downbeats / rate, 0.03) == 1.0


def test_charts_half_an_hour() -> None:
    one = play(bars=32)
    n = one.audio.n_samples
    chart = listen(Audio(np.tile(one.audio.samples, (1, 1800 * 22_050 // n)), 22_050))
    assert chart.n_samples / chart.rate > 1700
    truth = [k * n / 22_050 + t for k in range(5) for t in one.downbeats_s[2:-2]]
    assert share_found(truth, chart.downbeats / chart.rate, 0.04) > 0.9


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


@settings(deadline=None, max_examples=12)
@given(st.sampled_from([90, 110, 128, 140]), st.integers(14, 70), st.integers(-300, 300))
def test_loops_that_end_on_a_beat_are_heard_like_any_music(bpm: int, beats: int, more: int) -> None:
    """The next beat would fall just past the end, or on the last sample: no place may be looked for there."""
    rate = 22_050
    n = round(beats * 60 / bpm * rate) + more
    t, sound = np.arange(n) / rate, np.zeros(n, dtype=np.float32)
    for beat in range(beats):
        at = round(beat * 60 / bpm * rate)
        length = min(n - at, rate // 5)
        tone = np.sin(2 * np.pi * (60 if beat % 4 == 0 else 900) * t[:length]) * np.exp(-20 * t[:length])
        sound[at : at + length] += tone.astype(np.float32)
    sound += 0.05 * np.sin(2 * np.pi * 220 * t).astype(np.float32)
    chart = listen(Audio(np.stack([sound, sound]), rate))
    assert chart.n_samples == n
