"""Putting charts right: grids by properties, whole charts on recordings that were misheard on purpose."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.chart import Chart, Corrections, Grid, Section, TrackMark, grid_of
from evenseam.core.chart import corrections as c
from evenseam.core.chart import grid as g
from evenseam.core.errors import CorrectionError, NoPlanError
from evenseam.core.listen import Heard, corrected, hear_and_chart, take_in, tapped
from evenseam.core.plan import Brief, Plan
from evenseam.core.plan.planner import Planner
from evenseam.core.render.click import Clicks
from tests.synth import Played, play

RATE = 22_050


@cache
def known() -> tuple[Played, Heard, Chart]:
    played = play(bars=28, bpm=112.0)
    heard, chart = hear_and_chart(take_in(played.audio.samples, played.audio.rate))
    return played, heard, chart


@st.composite
def grids(draw: st.DrawFn) -> Grid:
    n, meter = draw(st.integers(12, 60)), draw(st.sampled_from(g.METERS))
    spans = draw(st.lists(st.integers(6_000, 16_000), min_size=n, max_size=n))
    beats = np.cumsum([2_000, *spans])
    place = (np.arange(beats.size) + draw(st.integers(0, 6))) % g.beats_per_bar(meter)
    return Grid(beats, place, meter, int(beats[-1]) + 30_000, RATE)


def sound(grid: Grid) -> None:
    """What holds for every grid."""
    assert grid.beats.size == grid.place.size >= 2
    assert np.all(np.diff(grid.beats) > 0)
    assert grid.beats[0] >= 0
    assert grid.beats[-1] < grid.n_samples
    assert set(grid.pins) <= set(grid.beats.tolist())
    assert all(grid.place[np.searchsorted(grid.beats, p)] == 0 for p in grid.pins)
    again = Grid.from_dict(grid.to_dict(), grid.n_samples, grid.rate)
    assert again.to_dict() == grid.to_dict()


@settings(deadline=None)
@given(grids())
def test_doubling_adds_what_halving_takes_away(grid: Grid) -> None:
    twice, half = g.doubled(grid), g.halved(grid)
    sound(twice)
    sound(half)
    assert set(half.beats.tolist()) < set(grid.beats.tolist()) < set(twice.beats.tolist())
    assert int(grid.beats[grid.place == 0][0]) in half.beats[half.place == 0]
    if grid.beats_per_bar % 2 == 0:  # in odd metres bar lines fall on new beats as often as on old ones
        assert g.halved(twice).beats.tolist() == grid.beats.tolist()


@settings(deadline=None)
@given(grids(), st.data())
def test_beat_one_counts_from_there_to_the_next_pin(grid: Grid, data: st.DataObject) -> None:
    first, second = sorted(data.draw(st.lists(st.integers(0, grid.beats.size - 1), min_size=2, max_size=2, unique=True)))
    changed = g.beat_one_at(g.beat_one_at(grid, int(grid.beats[second])), int(grid.beats[first]) + 100)
    sound(changed)
    n = grid.beats_per_bar
    assert np.array_equal(changed.place[first:second], np.arange(second - first) % n)
    assert np.array_equal(changed.place[second:], np.arange(grid.beats.size - second) % n)
    assert np.array_equal(changed.place[:first], (np.arange(first) - first) % n)
    with pytest.raises(CorrectionError):
        g.beat_one_at(grid, int(grid.beats[-1]) + 25_000)


@settings(deadline=None)
@given(grids(), st.data())
def test_a_moved_bar_line_stays_and_pinned_ones_do_not_move(grid: Grid, data: st.DataObject) -> None:
    ones = np.flatnonzero(grid.place == 0)
    low, middle, high = (int(grid.beats[k]) for k in (ones[0], ones[ones.size // 2], ones[-1]))
    if not low < middle < high:
        return
    pinned = g.beat_one_at(g.beat_one_at(grid, low), high)
    to = data.draw(st.integers(middle - 3_000, middle + 3_000))
    moved = g.moved_bar(pinned, middle, to)
    sound(moved)
    assert {low, to, high} <= set(moved.pins)
    assert moved.beats.size == grid.beats.size
    inside = (grid.beats > low) & (grid.beats < middle)
    expected = low + (grid.beats[inside] - low) * (to - low) / (middle - low)
    assert np.allclose(moved.beats[inside], expected, atol=1)
    alone = g.moved_bar(grid, middle, middle + 500)
    assert np.array_equal(alone.beats, grid.beats + 500)
    with pytest.raises(CorrectionError):
        g.moved_bar(pinned, middle, high + 10)
    assert middle not in g.unpinned(g.beat_one_at(pinned, middle), middle).pins


@settings(deadline=None)
@given(grids(), st.floats(40, 240))
def test_a_tempo_is_even_and_keeps_the_first_downbeat(grid: Grid, bpm: float) -> None:
    one = int(grid.beats[grid.place == 0][0])
    even = g.in_tempo(grid, bpm, (0, grid.n_samples - 1))
    sound(even)
    assert one in even.beats
    assert even.tempo_bpm == pytest.approx(bpm, rel=1e-3)
    assert np.ptp(np.diff(even.beats)) <= 1
    for wrong in (3.0, 1000.0):
        with pytest.raises(CorrectionError):
            g.in_tempo(grid, wrong, (0, 1))


def test_what_was_heard_wrong_is_put_right_step_by_step() -> None:
    """Half tempo and one beat off, put right as a person would; the corrected chart fits as the heard one does."""
    played, heard, chart = known()
    half = g.halved(replace(grid_of(chart), place=np.roll(chart.beat_in_bar, 1)))
    wrong = corrected(chart, heard, Corrections(grid=half.to_dict()))
    assert wrong.tempo_bpm == pytest.approx(56, abs=1)
    one = round(float(played.downbeats_s[2]) * RATE)
    right = g.beat_one_at(g.doubled(half), one)
    fixed = corrected(chart, heard, Corrections(grid=right.to_dict()))
    assert fixed.tempo_bpm == pytest.approx(112, abs=0.5)
    found = fixed.downbeats[(fixed.downbeats > 0) & (fixed.downbeats < chart.last_hit_samples)]
    truth = played.downbeats_s * RATE
    assert max(np.abs(truth - d).min() for d in found) < 0.03 * RATE
    plan = Planner(fixed, played.audio.samples).plan(Brief(30 * RATE))
    assert plan.target_samples == 30 * RATE
    assert np.allclose(corrected(chart, heard, Corrections(grid=grid_of(chart).to_dict())).features, chart.features, atol=0.05)


def test_taps_give_the_beats_that_are_heard_near_them() -> None:
    played, heard, chart = known()
    rng = np.random.default_rng(5)
    for every in (1, 2):
        hand = played.downbeats_s[3] + np.arange(9) * every * 60 / 112 + rng.normal(0.02, 0.015, 9)
        grid = tapped(grid_of(chart), [round(t * RATE) for t in hand], heard)
        sound(grid)
        truth = played.beats_s * RATE
        inside = grid.beats[(grid.beats > truth[0] - 500) & (grid.beats < truth[-1])]
        assert grid.tempo_bpm == pytest.approx(112 / every, abs=0.5)
        assert np.median([np.abs(truth - b).min() for b in inside]) < 0.01 * RATE
        assert np.abs(grid.beats[grid.place == 0] - played.downbeats_s[3] * RATE).min() < 0.03 * RATE
    for poor in ([1, 2, 3], [0, 20_000, 21_000, 60_000, 61_000, 99_000]):
        with pytest.raises(CorrectionError):
            tapped(grid_of(chart), poor, heard)


def test_points_marks_and_sections_are_kept_and_given_back() -> None:
    _, heard, chart = known()
    bar = chart.downbeats
    sections = c.split(c.merged(chart.sections, 0) if len(chart.sections) > 1 else chart.sections, int(bar[6]))
    sections = c.renamed(sections, 1, "  Bridge  two ")
    sections = c.moved_boundary(sections, 1, int(bar[7]))
    assert sections[1] == Section(int(bar[7]), sections[1].end_samples, "Bridge two")
    assert sections[0].end_samples == int(bar[7])
    mine = Corrections(sections=sections).with_point("trim_start", int(bar[2])).with_point("trim_end", int(bar[20]))
    mine = mine.with_mark(TrackMark("skip", 10, 20)).with_mark(TrackMark("skip", 15, 40)).with_mark(TrackMark("guard", 18, 30))
    assert mine.marks == (TrackMark("skip", 10, 40), TrackMark("guard", 18, 30))
    assert Corrections.from_dict(mine.to_dict()) == mine
    assert mine.parts == ("sections", "marks", "trim_start", "trim_end")
    used = corrected(chart, heard, mine)
    assert used.sections == sections
    assert used.music_start_samples == used.opening_samples == int(bar[2])
    assert used.last_hit_samples < used.ring_out_end_samples == int(bar[20])
    assert mine.with_point("trim_start", None).with_point("trim_end", None).points == ()
    assert mine.without_mark(TrackMark("guard", 18, 30)).marks == (TrackMark("skip", 10, 40),)
    for refused in (
        lambda: corrected(chart, heard, Corrections().with_point("trim_end", 5).with_point("trim_start", 50)),
        lambda: corrected(chart, heard, Corrections().with_point("last_hit", 0)),
        lambda: Corrections().with_mark(TrackMark("keep", 50, 50)),
        lambda: mine.without_mark(TrackMark("keep", 1, 2)),
        lambda: c.renamed(sections, 0, "  "),
        lambda: c.merged(sections, len(sections) - 1),
        lambda: c.split(sections, -5),
        lambda: c.moved_boundary(sections, 1, sections[1].end_samples),
    ):
        with pytest.raises(CorrectionError):
            refused()


def planned(marks: list[TrackMark], seconds: float) -> tuple[Plan, Chart]:
    played, _, chart = known()
    return Planner(chart, played.audio.samples, None, marks).plan(Brief(round(seconds * RATE))), chart


@pytest.mark.parametrize("seconds", [26.0, 34.0, 48.0, 75.0, 140.0])
@pytest.mark.parametrize("span", [(4, 8), (9, 10), (13, 19)])
def test_plans_skip_keep_and_guard(span: tuple[int, int], seconds: float) -> None:
    bars = known()[2].downbeats
    low, high = int(bars[span[0]]), int(bars[span[1]])
    near = RATE // 4  # cuts lie a little before the beat

    plan, _ = planned([TrackMark("skip", low, high)], seconds)
    for passage in plan.passages:
        a, b = passage.source_in_samples, passage.source_out_samples
        assert min(b, high) - max(a, low) < near

    plan, _ = planned([TrackMark("guard", low, high)], seconds)
    for seam in plan.seams:
        assert not low + near < seam.source_from_samples < high - near
        assert not low + near < seam.source_to_samples < high - near

    plan, _ = planned([TrackMark("keep", low, high)], seconds)
    assert any(p.source_in_samples <= low + 1 and p.source_out_samples >= high - near for p in plan.passages)


def test_skips_over_opening_or_ending_say_what_to_do() -> None:
    bars = known()[2].downbeats
    for span in ((0, int(bars[2])), (int(bars[-2]), 10**7)):
        with pytest.raises(NoPlanError, match="Trim the"):
            planned([TrackMark("skip", *span)], 40.0)


def test_clicks_start_on_their_beats_wherever_a_stretch_is_cut() -> None:
    clicks = Clicks(RATE, np.array([1_000, 12_000, 23_000]), np.array([0, 1, 0]), RATE)
    whole = clicks.block(0, 30_000)
    first = np.flatnonzero(np.abs(whole[0]) > 1e-3)
    assert first[0] == 1_000
    assert np.abs(whole[:, 1_000:2_000]).max() > 1.4 * np.abs(whole[:, 12_000:13_000]).max()  # the accent
    assert np.array_equal(np.concatenate([clicks.block(a, a + 500) for a in range(0, 30_000, 500)], axis=1), whole)
