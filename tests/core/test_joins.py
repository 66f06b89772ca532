"""Joins, percentiles and cuts, against what they are meant to say."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.plan.align import find_cut
from evenseam.core.plan.graph import seam_edges, usable_bars
from evenseam.core.plan.joins import all_joins, grade
from evenseam.core.plan.limits import limits_of
from tests.conftest import HeardTrack, heard

RATE = 22_050


def test_percentile_is_the_share_of_natural_joins_with_a_bigger_change(track: HeardTrack) -> None:
    joins = all_joins(track.chart)
    downbeats = np.flatnonzero(track.chart.beat_in_bar == 0)[1:]
    natural = [float(joins.change[d, d]) for d in downbeats]
    for i, j in ((8, 24), (12, 12), (20, 5), (int(downbeats[3]), int(downbeats[9]))):
        share = 100 * np.mean([n > joins.change[i, j] for n in natural])
        assert joins.percentile(i, j) == pytest.approx(share, abs=1e-4)


def test_natural_joins_are_spread_over_the_whole_scale(track: HeardTrack) -> None:
    joins = all_joins(track.chart)
    downbeats = np.flatnonzero(track.chart.beat_in_bar == 0)[1:]
    percentiles = [joins.percentile(int(d), int(d)) for d in downbeats]
    assert np.median(percentiles) == pytest.approx(50, abs=5)


def test_going_on_costs_nothing_and_repeated_music_costs_less_than_other_music(track: HeardTrack) -> None:
    joins = all_joins(track.chart)
    assert np.diagonal(joins.cost).max() < 0.35
    assert np.isfinite(joins.cost).all()
    usual = float(np.median(joins.cost))
    best = np.sort(joins.cost + 100 * np.eye(joins.cost.shape[0]), axis=1)[:, 0]
    assert np.median(best) < 0.7 * usual


@pytest.mark.parametrize(
    ("percentile", "word"), [(100, "even"), (50, "even"), (49.9, "faint"), (20, "faint"), (19.9, "plain"), (0, "plain")]
)
def test_grades(percentile: float, word: str) -> None:
    assert grade(percentile) == word


@pytest.mark.parametrize("short_bars", [False, True])
@pytest.mark.parametrize("hold", [1, 4])
def test_edges_play_what_they_say(track: HeardTrack, hold: int, short_bars: bool) -> None:
    chart = track.chart
    bars = usable_bars(chart)
    edges = seam_edges(chart, bars, all_joins(chart), limits_of(chart, bars.first_beat, ()), hold, short_bars)
    bar_of = np.repeat(np.arange(bars.at.size), np.diff(edges.first))
    assert bar_of.size == edges.to.size > 0
    same_place = chart.beat_in_bar[edges.beat_from] == chart.beat_in_bar[edges.beat_to]
    assert short_bars or same_place.all()
    played = chart.beats[edges.beat_from] - bars.at[bar_of] + bars.at[edges.to] - chart.beats[edges.beat_to]
    assert np.array_equal(played, edges.samples)
    entered = np.searchsorted(bars.at, chart.beats[edges.beat_to], side="right") - 1
    assert (edges.to - entered == np.minimum(hold, bars.end - entered)).all()
    assert (edges.to <= bars.end).all()
    assert (np.abs(edges.beat_to - edges.beat_from) >= chart.beats_per_bar - 1).all()


@settings(deadline=None, max_examples=25)
@given(st.integers(-120, 120), st.integers(0, 5))
def test_the_incoming_side_is_moved_to_where_the_waveforms_agree(shift: int, seed: int) -> None:
    phrase = np.random.default_rng(seed).normal(0, 0.1, (2, RATE)).astype(np.float32)
    phrase = np.apply_along_axis(lambda x: np.convolve(x, np.hanning(40), "same"), 1, phrase).astype(np.float32)
    samples = np.concatenate([phrase, np.zeros((2, RATE), np.float32), phrase], axis=1)
    cut = find_cut(samples, RATE, RATE // 2, 2 * RATE + RATE // 2 + shift)
    assert cut.source_to - cut.source_from == 2 * RATE
    assert cut.correlation > 0.99
    assert cut.source_from + cut.fade_samples / 2 < RATE // 2, "the fade ends before the beat"


@pytest.mark.parametrize("at", [5, 200, 3 * RATE - 10])
def test_cuts_at_the_very_edges_stay_inside(at: int) -> None:
    samples = np.random.default_rng(1).normal(0, 0.1, (1, 3 * RATE)).astype(np.float32)
    cut = find_cut(samples, RATE, max(at, 5), RATE)
    assert cut.source_from >= 0
    assert cut.source_to >= 0
    assert cut.fade_samples >= 2


def test_silence_has_cuts_too() -> None:
    cut = find_cut(np.zeros((2, 3 * RATE), np.float32), RATE, RATE, 2 * RATE)
    assert cut.source_to - cut.source_from == RATE
    assert cut.correlation == 0


def test_every_route_in_time_order_is_made_of_bars_of_the_track() -> None:
    track = heard("lantern_path")
    bars = usable_bars(track.chart)
    assert (bars.steps[:-1] > 0).all()
    assert bars.steps[-1] == 0
    assert bars.at[bars.end] < track.chart.last_hit_samples
