"""Joins, percentiles and cuts, against what they are meant to say."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import minimum_filter1d

from evenseam.core.chart import Chart
from evenseam.core.chart.description import HARMONY_HALVES, TIMBRE, TIMBRE_HALVES
from evenseam.core.plan.laying.waveforms import find_cut
from evenseam.core.plan.search.graph import seam_edges, usable_bars
from evenseam.core.plan.search.joins import Joins, grade
from evenseam.core.plan.search.limits import limits_of
from tests.conftest import HeardTrack, heard

RATE = 22_050


def every_join(chart: Chart) -> tuple[np.ndarray, np.ndarray]:
    """Cost and change of all joins, float64 (beats, beats): the definition, with no thought of memory."""
    features = chart.features.astype(np.float64)
    n, per_bar = len(features), chart.beats_per_bar
    apart = np.sqrt(np.maximum(np.square(features[:, None] - features[None]).sum(axis=2), 0))
    scale = np.median(np.diagonal(apart, 1)) + 1e-6
    weights = {0: 1.0, 1: 0.9, 2: 0.6, 3: 0.5, -1: 0.5, -2: 0.3, -3: 0.2}
    index = np.arange(n)
    near = {k: np.clip(index + k, 0, n - 1) for k in weights}
    differ = sum(w * apart[np.ix_(near[k], near[k])] for k, w in weights.items()) / sum(weights.values()) / scale
    usual = np.array([np.diagonal(differ, lag).mean() for lag in range(n)])
    least = minimum_filter1d(usual, 2 * per_bar + 1, mode="nearest")
    against = 5.0 * np.clip((n - index) / (8.0 * per_bar), 0, 1) * (usual - least)
    differ = differ + against[np.abs(index[:, None] - index)]
    held = chart.rings.astype(np.float64)
    held /= np.median(held.sum(axis=1)) + 0.5
    cut_off = np.maximum(held[:, None] - held[None], 0).sum(axis=2)
    doubt = 0.6 * np.clip(1 - chart.beat_sure / (0.75 * np.median(chart.beat_sure)), 0, 1)
    differ = differ + 2.5 * cut_off + doubt[:, None] + doubt
    after = np.array([features[k : k + 4].mean(axis=0) for k in range(n)])
    before = np.array([features[max(0, k - 4) : k].mean(axis=0) if k else np.zeros(features.shape[1]) for k in range(n)])
    change = np.zeros((n, n))
    for part in (slice(None), list(TIMBRE)):
        sides = ((features[:, part], features[:, part]), (before[:, part], after[:, part]))
        beats_apart, bars_apart = (np.sqrt(np.square(a[:, None] - b[None]).sum(axis=2)) for a, b in sides)
        step = np.median(np.diagonal(beats_apart, 1)) + 1e-6
        change += (0.3 * beats_apart[np.maximum(index - 1, 0)] + 0.2 * bars_apart) / step
    downbeats = np.flatnonzero(chart.beat_in_bar == 0)[1:]
    natural = np.sort(change[downbeats, downbeats])
    smoother = 1 - np.searchsorted(natural, change, side="right") / natural.size
    return 0.2 + 1.6 * differ + 3.5 * (1 - smoother) ** 2 + jumps(features), change


def jumps(features: np.ndarray) -> np.ndarray:
    """What speaks against every join as it jumps further than half of the track's own beats do; (beats, beats)."""
    cost = np.zeros((len(features), len(features)))
    for most, (first, second) in ((2.0, TIMBRE_HALVES), (1.0, HARMONY_HALVES)):
        ends, begins = features[np.maximum(np.arange(len(features)) - 1, 0)][:, second], features[:, first]
        apart = np.sqrt(np.square(ends[:, None] - begins[None]).sum(axis=2))
        own = np.sort(np.diagonal(apart)[1:])
        cost += most * np.maximum(0, 2 * np.searchsorted(own, apart * (1 - 1e-6)) / own.size - 1) ** 2
    return cost


@pytest.mark.parametrize("slug", ["hill_bus", "lantern_path"])
def test_the_moves_that_are_kept_are_the_best_of_all_joins(slug: str) -> None:
    chart = heard(slug).chart
    cost, _ = every_join(chart)
    moves = Joins(chart).moves
    for i in range(0, chart.beats.size, 7):
        may = (chart.beat_in_bar == chart.beat_in_bar[i]) & (np.abs(np.arange(chart.beats.size) - i) >= chart.beats_per_bar)
        best = np.sort(cost[i][may])[: moves.n_whole]
        kept = moves.to[i, : moves.n_whole]
        assert (kept >= 0).sum() == best.size
        assert may[kept[kept >= 0]].all()
        np.testing.assert_allclose(moves.cost[i, : best.size], best, rtol=2e-3)
        np.testing.assert_allclose(moves.cost[i, : best.size], cost[i, kept[: best.size]], rtol=2e-3)


def test_joins_weighed_one_by_one_are_those_weighed_together(track: HeardTrack) -> None:
    joins = Joins(track.chart)
    n, moves = track.chart.beats.size, joins.moves
    i = np.arange(0, n, 3)
    np.testing.assert_allclose(joins.costs(i, moves.to[i, 0].astype(np.int64)), moves.cost[i, 0], rtol=1e-3)


def test_kept_joins_come_back_from_their_stored_form(track: HeardTrack) -> None:
    joins = Joins(track.chart)
    again = Joins.from_bytes(track.chart, joins.to_bytes())
    assert np.array_equal(again.moves.to, joins.moves.to)
    np.testing.assert_allclose(again.moves.cost, joins.moves.cost, rtol=2e-3)
    pair = np.array([8]), np.array([24])
    np.testing.assert_allclose(again.costs(*pair), joins.costs(*pair), rtol=1e-6)


def test_percentile_is_the_share_of_natural_joins_with_a_bigger_change(track: HeardTrack) -> None:
    joins = Joins(track.chart)
    downbeats = np.flatnonzero(track.chart.beat_in_bar == 0)[1:]
    natural = joins.sides.changes(downbeats, downbeats)
    for i, j in ((8, 24), (12, 12), (20, 5), (int(downbeats[3]), int(downbeats[9]))):
        share = 100 * np.mean(natural > joins.sides.changes(np.array([i]), np.array([j])))
        assert joins.sides.percentile(i, j) == pytest.approx(share, abs=1e-4)


def test_natural_joins_are_spread_over_the_whole_scale(track: HeardTrack) -> None:
    joins = Joins(track.chart)
    downbeats = np.flatnonzero(track.chart.beat_in_bar == 0)[1:]
    assert np.median(joins.sides.percentiles(downbeats, downbeats)) == pytest.approx(50, abs=5)


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
    joins = Joins(chart)
    edges = seam_edges(chart, bars, joins, joins.moves, limits_of(chart, bars.first_beat, ()), hold, short_bars)
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
    phrase[:, RATE // 2 :] *= 4  # the beat
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


def test_what_is_sustained_is_faded_for_longer_and_nothing_struck_sounds_twice() -> None:
    t = np.arange(6 * RATE) / RATE
    pad = sum(0.1 * np.sin(2 * np.pi * f * t + f) for f in (110, 165, 220, 277.2)).astype(np.float32)[None]
    long = find_cut(pad, RATE, 2 * RATE, 4 * RATE + 31)
    assert long.fade_samples >= 0.07 * RATE
    struck = pad.copy()
    struck[:, 4 * RATE + 31 :] += 0.5 * np.exp(-t[: 2 * RATE - 31] * 20) * np.sign(np.sin(2 * np.pi * 900 * t[: 2 * RATE - 31]))
    cut = find_cut(struck, RATE, 2 * RATE, 4 * RATE + 31)
    assert cut.fade_samples < long.fade_samples
    assert cut.source_to + cut.fade_samples / 2 <= 4 * RATE + 31, "the attack that comes is whole"


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
