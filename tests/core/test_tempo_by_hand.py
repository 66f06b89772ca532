"""Tempo maps changed by hand and bent to hits: what is held stays, what is not asked for stays, and the range is kept."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.errors import SpotError
from evenseam.core.exchange.tempi.tempo_midi import write_tempo_midi
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.tempo.by_hand import let_go, moments_of, shaped, tick_of, with_beat_at, with_metre, with_tempo
from evenseam.core.tempo.steady import Struck
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.to_hits import bent_to, choices_at

EXACT_S = 2e-4
BARS = 24


def bars_s(tempo_map: TempoMap, count: int = BARS) -> np.ndarray:
    return tempo_map.seconds_at(tempo_map.bar_lines(count))


@st.composite
def some_maps(draw: st.DrawFn) -> TempoMap:
    laid = TempoMap.steady(draw(st.floats(60, 160)), draw(st.integers(2, 5)), draw(st.sampled_from([0.0, 0.4, 3.0])))
    for bar, by in draw(st.lists(st.tuples(st.integers(2, BARS), st.floats(-0.2, 0.2)), max_size=3)):
        laid = with_beat_at(laid, bar, 1, float(bars_s(laid, bar)[-1] + by))
    return laid


@settings(max_examples=60, deadline=None)
@given(some_maps(), st.integers(1, 12), st.integers(1, 9), st.sampled_from([4, 8]), st.sampled_from([None, 1, 3]))
def test_another_metre_leaves_what_is_held_at_its_moment_and_all_other_bars_as_they_were(
    laid: TempoMap, bar: int, numerator: int, denominator: int, bars: int | None
) -> None:
    try:
        after = with_metre(laid, bar, numerator, denominator, bars)
    except SpotError:
        return  # a bar that is held would need a tempo that is none
    assert list(moments_of(after).values()) == pytest.approx(list(moments_of(laid).values()), abs=EXACT_S)
    until = BARS if bars is None else min(BARS, bar - 1 + bars)
    lengths = [4 * n / d for n, d in (after.metre_at(int(tick)) for tick in after.bar_lines(BARS))]
    was = [4 * n / d for n, d in (laid.metre_at(int(tick)) for tick in laid.bar_lines(BARS))]
    changed = 4 * numerator / denominator
    assert lengths == was[: bar - 1] + [changed] * (until - bar + 1) + was[until:]
    if not laid.held:
        assert np.diff(bars_s(after))[until:] == pytest.approx(np.diff(bars_s(laid))[until:], abs=EXACT_S)


@settings(max_examples=60, deadline=None)
@given(some_maps(), st.integers(1, 12), st.floats(50, 200), st.sampled_from([None, 1, 4]))
def test_another_tempo_holds_for_as_long_as_asked_and_moves_nothing_before_it(
    laid: TempoMap, bar: int, bpm: float, bars: int | None
) -> None:
    after = with_tempo(laid, bar, bpm, bars)
    assert bars_s(after)[:bar] == pytest.approx(bars_s(laid)[:bar], abs=EXACT_S)
    until = BARS if bars is None else bar + bars
    meter = laid.metre_at(laid.bar_one_tick)[0]
    assert np.diff(bars_s(after))[bar - 1 : until - 1] == pytest.approx(meter * 60 / bpm, abs=EXACT_S)
    assert np.diff(bars_s(after))[until - 1 :] == pytest.approx(np.diff(bars_s(laid))[until - 1 :], abs=EXACT_S)
    assert set(after.held) <= set(laid.held)
    assert all(tick > tick_of(laid, bar, 1) for tick in set(laid.held) - set(after.held)), "what comes before stays held"


@settings(max_examples=60, deadline=None)
@given(some_maps(), st.integers(1, BARS), st.floats(-0.3, 0.3), st.booleans())
def test_a_bar_that_is_dragged_is_there_and_what_is_held_beside_it_does_not_move(
    laid: TempoMap, bar: int, by_s: float, smooth: bool
) -> None:
    to_s = max(0.0, float(bars_s(laid, bar)[-1]) + by_s)
    after = with_beat_at(laid, bar, 1, to_s)
    assert bars_s(after, bar)[-1] == pytest.approx(to_s, abs=EXACT_S)
    others = {k: at for k, at in enumerate(bars_s(laid), 1) if laid.bar_lines(k)[-1] in laid.held and k != bar}
    assert [bars_s(after)[k - 1] for k in others] == pytest.approx(list(others.values()), abs=EXACT_S)
    assert min(np.diff(bars_s(after))) > 0
    if not after.held:
        return
    curved = shaped(after, smooth)
    assert list(moments_of(curved).values()) == pytest.approx(list(moments_of(after).values()), abs=EXACT_S)
    last = after.held[-1]
    assert curved.seconds_at(np.array([last + 99_999])) == pytest.approx(
        after.seconds_at(np.array([last + 99_999])), abs=EXACT_S
    )
    if not smooth:
        in_a_span = [curved.tempi[k][1] for k in range(len(curved.tempi)) if curved.tempi[k][0] >= curved.bar_one_tick]
        assert len(set(in_a_span)) <= 2 * (len(curved.held) + 1), "one tempo from each to the next, to a microsecond"


def test_a_smooth_curve_changes_less_from_beat_to_beat_than_steps_do() -> None:
    laid = with_beat_at(with_beat_at(TempoMap.steady(100, 4, 1.0), 5, 1, 11.0), 9, 1, 20.0)
    jumps = [np.abs(np.diff(shaped(laid, smooth).beats(40).bpm)).max() for smooth in (True, False)]
    assert jumps[0] < 0.4 * jumps[1]


def test_what_cannot_be_says_why_and_bar_one_takes_what_follows_along() -> None:
    laid = TempoMap.steady(100, 4, 1.0)
    held = with_beat_at(laid, 5, 1, 11.0)
    for wrong in (10.999, 12.0):
        with pytest.raises(SpotError, match=r"backwards|That would need"):
            with_beat_at(held, 4, 1, wrong)
    for call in (lambda: let_go(laid, 3, 1), lambda: shaped(laid, True), lambda: with_beat_at(laid, 1, 5, 3.0)):
        with pytest.raises(SpotError):
            call()
    earlier = with_beat_at(laid, 1, 1, 0.25)
    assert bars_s(earlier) == pytest.approx(bars_s(laid) - 0.75, abs=EXACT_S)
    assert (let_go(held, 5, 1).held, let_go(held, 5, 1).tempi) == ((), held.tempi)
    assert with_beat_at(laid, 1, 1, 0.0).bar_one_tick == 0
    instead = with_beat_at(held, 6, 1, 11.0)
    assert instead.held == (tick_of(laid, 6, 1),), "one moment has one bar"


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([1.0, 3.0, 8.0]), st.booleans())
def test_a_map_is_bent_to_the_hits_within_the_range_or_the_smallest_one_that_would_do_is_named(
    seed: int, most_pct: float, smooth: bool
) -> None:
    rng = np.random.default_rng(seed)
    laid = TempoMap.steady(float(rng.uniform(70, 150)), int(rng.integers(3, 5)), 1.0)
    hits = [Struck(float(t), 0.02, "must", bool(k % 2)) for k, t in enumerate(np.sort(rng.uniform(6, 70, 4)))]
    try:
        bent = bent_to(laid, hits, most_pct, smooth)
    except SpotError as error:
        needed = error.params["possible_pct"]
        assert needed is None or needed > most_pct
        if needed is None:
            return
        with pytest.raises(SpotError):
            bent_to(laid, hits, round(needed - 0.1, 1), smooth)
        bent, most_pct = bent_to(laid, hits, needed, smooth), needed
    beats = bent.beats(80)
    places = [beats.nearest(hit.at_s, hit.on_downbeat) for hit in hits]
    assert all(abs(place.off_s) <= hit.tolerance_s for place, hit in zip(places, hits, strict=True))
    was = laid.beats(90).at_s[: beats.at_s.size]
    change_pct = 100 * np.abs(np.diff(was) / np.diff(beats.at_s) - 1)
    assert change_pct.max() <= most_pct + 0.02
    again = bent_to(bent, hits, most_pct, smooth)
    assert again.beats(80).at_s == pytest.approx(beats.at_s, abs=EXACT_S), "what is held stays"


def test_more_than_can_be_looked_at_is_refused_at_once() -> None:
    hits = [Struck(600.0 * k, 0.02, "nice", False) for k in range(1, 12)]
    with pytest.raises(SpotError, match="Allow less"):
        bent_to(TempoMap.steady(120, 4, 0.0), hits, 25, smooth=True)
    endless = TempoMap(1, ((0, 500_000), (10**12, 400_000)), ((0, 1, 4),))
    with pytest.raises(SpotError, match="for how many bars"):
        with_metre(endless, 2, 3, 4)


def test_a_choice_of_bar_needs_the_tempo_that_it_says_before_and_after() -> None:
    hits = [Struck(12.9, 0.02, "must"), Struck(22.7, 0.02), Struck(47.4, 0.02, "must")]
    bent = bent_to(TempoMap.steady(100, 4, 1.0), hits, 4, smooth=False)
    choices = choices_at(bent, bent.beats(72), hits[1])
    assert [b.bar - a.bar for a, b in pairwise(choices)] == [1, 1]
    for choice in choices:
        beats = shaped(with_beat_at(let_go(bent, choices[1].bar, 1), choice.bar, 1, hits[1].at_s), smooth=False).beats(72)
        here = int(np.abs(beats.at_s - hits[1].at_s).argmin())
        assert beats.at_s[here] == pytest.approx(hits[1].at_s, abs=EXACT_S)
        assert (beats.bpm[here - 1], beats.bpm[here]) == pytest.approx((choice.before_bpm, choice.after_bpm), rel=1e-4)


@settings(max_examples=20, deadline=None)
@given(some_maps(), st.integers(2, 8), st.sampled_from([96, 480, 960]))
def test_a_changed_map_is_the_same_after_midi_and_a_coarse_one_can_be_changed(laid: TempoMap, bar: int, coarse: int) -> None:
    changed = with_metre(with_tempo(laid, bar, 90), bar + 2, 6, 8, 2)
    again = read_tempo_midi(write_tempo_midi(changed, [(1.0, "Door")]))
    until = float(bars_s(changed)[-1])
    assert again.beats(until).at_s[-20:] == pytest.approx(changed.beats(until).at_s[-20:], abs=1e-9)
    read = with_metre(TempoMap(coarse, ((0, 600_000),), ((0, 4, 4),)), bar, 7, 16, 1)
    assert np.diff(bars_s(read)).tolist() == pytest.approx([1.05 if k == bar - 1 else 2.4 for k in range(BARS - 1)])
