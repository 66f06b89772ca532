"""Bending: which beats land on which moments, beside trying everything; the curve between them; and plans of it."""

from dataclasses import replace
from itertools import combinations, pairwise, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.audio.attacks import find_attacks
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.exchange.tempi.fit_beats import beats_as_midi
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.plan import Aim, Brief, Plan
from evenseam.core.plan.counted import counted
from evenseam.core.plan.follow import followed
from evenseam.core.plan.judging.choices import choices_of
from evenseam.core.render import Renderer
from evenseam.core.tempo import Held, Moment, bent, chosen
from tests.conftest import heard

COST = 0.01


def cheapest(moments: list[Moment], end: Held | None, give: float) -> float:
    """The cost of the best of all choices of moments and places."""
    best = np.inf
    for count in range(len(moments) + 1):
        for met in combinations(range(len(moments)), count):
            missed = sum(m.missed_cost for k, m in enumerate(moments) if k not in met)
            for places in product(*(moments[k].places.tolist() for k in met)):
                held = [(0, 0), *((p, moments[k].at_samples) for k, p in zip(met, places, strict=True))]
                held += [(end.source_samples, end.out_samples)] if end else []
                cost = missed
                for (s0, o0), (s1, o1) in pairwise(held):
                    change = (s1 - s0) / (o1 - o0) - 1
                    if s1 <= s0 or abs(change) > give:
                        break
                    cost += COST * (o1 - o0) * (100 * change) ** 2
                else:
                    best = min(best, cost)
    return best


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.02, 0.05, 0.1]), st.booleans())
def test_the_beats_that_are_chosen_are_those_that_trying_everything_finds(seed: int, give: float, ends: bool) -> None:
    rng = np.random.default_rng(seed)
    beats = np.cumsum(rng.integers(8, 12, 30))
    at = np.sort(rng.choice(np.arange(20, 250), 3, replace=False))
    moments = [Moment(int(t), np.sort(rng.choice(beats, 6, replace=False)), float(rng.choice([4, 12, 1000]))) for t in at]
    end = Held(300, int(rng.integers(285, 320))) if ends else None
    held = chosen(Held(0, 0), moments, end, give, COST)
    expected = cheapest(moments, end, give)
    if held is None:
        assert np.isinf(expected)
        return
    met = {h.moment for h in held}
    cost = sum(m.missed_cost for k, m in enumerate(moments) if k not in met)
    for a, b in pairwise(held):
        change = (b.source_samples - a.source_samples) / (b.out_samples - a.out_samples) - 1
        assert abs(change) <= give
        cost += COST * (b.out_samples - a.out_samples) * (100 * change) ** 2
    assert cost == pytest.approx(expected)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.01, 0.1))
def test_the_curve_goes_through_what_is_held_stays_in_range_and_is_no_rougher_than_steps(seed: int, give: float) -> None:
    rng = np.random.default_rng(seed)
    beats = np.cumsum(rng.integers(20_000, 24_000, 60))
    at = np.sort(rng.choice(np.arange(3, 58), 3, replace=False))
    held, out = [Held(0, 0)], 0
    for before, place in zip([0, *at[:-1]], at, strict=True):
        start = 0 if before == 0 else beats[before]
        out += round(float((beats[place] - start) * (1 + 0.8 * give * rng.uniform(-1, 1))))
        held.append(Held(int(beats[place]), out))
    source, lands = bent(beats, held, give)
    where = dict(zip(source.tolist(), lands.tolist(), strict=True))
    assert all(where[h.source_samples] == h.out_samples for h in held)
    speed = np.diff(source) / np.diff(lands)
    assert np.all(np.abs(speed - 1) <= give + 1e-4)
    steps = [(b.source_samples - a.source_samples) / (b.out_samples - a.out_samples) for a, b in pairwise(held)]
    rough, roughest = (np.square(np.diff(1 / np.append(s, 1.0))).sum() for s in (speed, steps))
    assert rough <= roughest + 1e-6, "with the step to its own speed that follows"


def nearest_attack_s(mono: np.ndarray, rate: int, at: np.ndarray) -> np.ndarray:
    """How far the sharpest rise within 20 ms lies from each place."""
    found = find_attacks(np.ascontiguousarray(mono), rate)
    reach = round(0.02 * rate / found.step)
    off = []
    for place in at:
        middle = round(place / found.step)
        low = max(0, middle - reach)
        off.append(abs((low + int(np.argmax(found.rise[low : middle + reach + 1]))) * found.step - place) / rate)
    return np.array(off)


def test_a_track_is_bent_to_its_hits_and_its_attacks_lie_there() -> None:
    track = heard("lantern_path")
    chart, rate = track.chart, track.chart.rate
    length = chart.ring_out_end_samples - chart.music_start_samples
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (20.3, 41.2))
    plan = track.planner.plan(Brief(length, method="bend", aims=aims, give_pct=4.0))
    assert all(hit.is_kept for hit in plan.hits)
    assert not plan.seams
    assert abs(plan.max_speed_change_pct()) <= 4.0
    assert plan.pieces()[-1].out_out_samples == length
    sound = Renderer(plan, track.audio.samples).block(0, length)
    assert sound.shape[1] == length
    assert np.abs(sound).max() > 0.05


def test_what_is_written_of_the_beats_of_a_bent_track_is_where_they_are_heard() -> None:
    track = heard("night_shift")
    chart, rate = track.chart, track.chart.rate
    length = round((chart.ring_out_end_samples - chart.music_start_samples) * 1.02)
    plan = track.planner.plan(Brief(length, method="bend", give_pct=4.0))
    assert abs(plan.max_speed_change_pct()) > 1
    beats = counted(plan, chart)
    assert np.array_equal(beats.source_samples, chart.beats[chart.beats < plan.passages[-1].source_out_samples])
    is_struck = nearest_attack_s(track.audio.samples[0], rate, beats.source_samples) < 0.001
    sound = Renderer(plan, track.audio.samples).block(0, length)
    off_s = nearest_attack_s(sound[0], rate, beats.at_samples)[is_struck]
    assert off_s.size > 100
    assert np.median(off_s) < 0.001
    assert np.mean(off_s < 0.002) > 0.97


def test_what_bending_cannot_reach_is_said_with_what_it_can() -> None:
    track = heard("lantern_path")
    with pytest.raises(NoPlanError, match="Bending all of this track by 10 %") as refused:
        track.planner.plan(Brief(60 * track.chart.rate, method="bend"))
    shortest, longest = refused.value.params["possible_samples"]
    for length in (shortest, longest):
        assert track.planner.plan(Brief(length, method="bend")).target_samples == length
    with pytest.raises(NoPlanError, match="No beats were heard"):
        heard("cold_air").planner.plan(Brief(60 * track.chart.rate, method="bend"))
    free = heard("cold_air")
    with pytest.raises(BriefError, match="no bars to write down"):
        counted(free.planner.plan(Brief(60 * free.chart.rate)), free.chart)


def test_any_length_can_be_bent_into_a_fade() -> None:
    track = heard("lantern_path")
    rate = track.chart.rate
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (12.96, 30.92))
    plan = track.planner.plan(Brief(60 * rate, method="bend", aims=aims, landing="fade"))
    assert all(hit.is_kept for hit in plan.hits)
    assert plan.landing.kind == "fade"


def average_speed_pct(plan: Plan, from_samples: int, until_samples: int) -> float:
    source = plan.passages[0].time_map().source_at(np.array([from_samples, until_samples]))
    return float(100 * ((source[1] - source[0]) / (until_samples - from_samples) - 1))


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(["bend", "blend"]), st.sampled_from([2.0, 5.0, 12.0]))
def test_a_pinned_bar_meets_its_hit_or_nothing_does_and_a_forbidden_one_never_does(seed: int, method: str, give: float) -> None:
    track = heard("lantern_path")
    chart, rate = track.chart, track.chart.rate
    rng = np.random.default_rng(seed)
    length = chart.ring_out_end_samples - chart.music_start_samples
    at = np.sort(rng.choice(np.arange(8, 80, 6), 3, replace=False)) + rng.uniform(0, 2, 3)
    aims = [Aim(round(s * rate), "downbeat", "must", rate // 50) for s in at]
    brief = Brief(length, method=method, give_pct=give, aims=tuple(aims))
    offered = choices_of(track.planner.plan(brief), chart)[1]
    if not offered.choices:
        return
    place = offered.choices[int(rng.integers(len(offered.choices)))].source_samples
    aims[1] = replace(aims[1], pinned_samples=place + 500)
    pinned = track.planner.plan(replace(brief, aims=tuple(aims))).hits[1]
    assert pinned.source_samples in (place, None)
    aims[1] = replace(aims[1], pinned_samples=None, forbidden_samples=(place + 500,))
    kept_off = track.planner.plan(replace(brief, aims=tuple(aims))).hits[1]
    assert kept_off.source_samples != place


def test_the_bars_that_are_offered_for_a_hit_do_to_the_speed_what_is_said_of_them() -> None:
    track = heard("lantern_path")
    chart, rate = track.chart, track.chart.rate
    length = chart.ring_out_end_samples - chart.music_start_samples
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (20.3, 41.2, 62.0))
    brief = Brief(length, method="bend", aims=aims, give_pct=15.0)
    plan = track.planner.plan(brief)
    held = tuple(replace(aim, pinned_samples=hit.source_samples) for aim, hit in zip(aims, plan.hits, strict=True))
    middle = choices_of(plan, chart)[1]
    assert [c.source_samples for c in middle.choices if c.source_samples == middle.source_samples]
    assert (middle.held_before_samples, middle.held_after_samples) == (aims[0].at_samples, aims[2].at_samples)
    tried = 0
    for choice in middle.choices:
        assert choice.before_pct is not None
        assert choice.after_pct is not None
        if max(abs(choice.before_pct), abs(choice.after_pct)) > 14:
            continue
        pinned = (held[0], replace(held[1], pinned_samples=choice.source_samples), held[2])
        bent_so = track.planner.plan(replace(brief, aims=pinned))
        assert all(hit.is_kept for hit in bent_so.hits)
        said = (choice.before_pct, choice.after_pct)
        ends = (aims[0].at_samples, aims[1].at_samples, aims[2].at_samples)
        assert [average_speed_pct(bent_so, a, b) for a, b in pairwise(ends)] == pytest.approx(said, abs=0.1)
        before = np.searchsorted(chart.beats, [plan.hits[0].source_samples, choice.source_samples])
        assert choice.beats_before == before[1] - before[0]
        tried += 1
    assert tried > 1


@pytest.mark.parametrize("slug", ["lantern_path", "first_light"])
def test_a_bent_track_that_went_out_as_midi_and_comes_back_is_bent_as_it_was(slug: str) -> None:
    track = heard(slug)
    chart, rate = track.chart, track.chart.rate
    length = chart.ring_out_end_samples - chart.music_start_samples
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (20.3, 41.2))
    plan = track.planner.plan(Brief(length, method="bend", aims=aims, give_pct=4.0))
    beats = read_tempo_midi(beats_as_midi(counted(plan, chart), plan)).beats(length / rate)
    held = followed(chart, beats.at_s[beats.bars()], length)
    again = track.planner.plan(Brief(length, method="bend", aims=aims, give_pct=4.2, held_bars=held))
    was, now = counted(plan, chart), counted(again, chart)
    off = np.abs(now.at_samples - was.at_samples)
    assert off[was.bars()][was.source_samples[was.bars()] <= chart.last_hit_samples].max() <= 2
    assert off.max() < 0.004 * rate
    assert [hit.is_kept for hit in again.hits] == [True, True]
    assert again.landing.kind == "ring_out"
    assert again.pieces()[-1].out_out_samples == length


def test_a_track_follows_a_map_from_the_bar_where_they_meet_or_says_how_much_give_that_takes() -> None:
    track = heard("lantern_path")
    chart, rate = track.chart, track.chart.rate
    downbeats = chart.beats[chart.beat_in_bar == 0]
    own_s = (downbeats - chart.music_start_samples) / rate
    slower, target = 2.7 + 1.03 * own_s, 60 * rate
    before = slower[0] - 1.03 * (own_s[2] - own_s[1]) * np.array([3, 2])
    goes_on = followed(chart, np.concatenate([before, slower - 2.5]), target)
    assert goes_on == followed(chart, slower - 2.5, target), "bars before the slot are none of it"
    held = followed(chart, slower, target)
    plan = track.planner.plan(Brief(target, method="bend", held_bars=held))
    lands = plan.passages[0].time_map().out_at(downbeats[5:20]) / rate
    assert lands == pytest.approx(slower[5:20], abs=2 / rate)
    assert plan.landing.kind == "fade"
    sound = Renderer(plan, track.audio.samples).block(0, target)
    assert not sound[:, : round(2.5 * rate)].any(), "the map begins later than the slot"
    assert np.abs(sound[:, round(2.7 * rate) : 4 * rate]).max() > 0.01
    cut_into = track.planner.plan(Brief(target, method="bend", held_bars=followed(chart, own_s - 0.6, target)))
    assert (cut_into.opening.kind, cut_into.passages[0].out_in_samples) == ("bar", 0)
    assert cut_into.fade_in.n_samples > 0
    with pytest.raises(NoPlanError, match="are allowed") as refused:
        track.planner.plan(Brief(target, method="bend", held_bars=followed(chart, 0.8 * own_s, target)))
    needed = refused.value.params["needed_pct"]
    assert needed > 20
    with pytest.raises(BriefError, match="in order"):
        Brief(target, held_bars=((5, 9), (4, 10)))
    with pytest.raises(BriefError, match="No bar of this map"):
        followed(chart, np.array([999.0]), target)
