"""Hits: the search past them against trying everything, and what holds for every fit that aims at some."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.errors import BriefError
from evenseam.core.plan import Aim, Brief, Plan
from evenseam.core.plan.brief import LANDINGS
from evenseam.core.plan.laying.on_output import Held, aimed
from evenseam.core.plan.methods.attempts import Attempt
from evenseam.core.plan.methods.past_hits import PastHits
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.graph import Bars, Edges
from evenseam.core.plan.search.labels import SPEED_COST, STRETCH_COST_PER_PCT2, Wanted, Ways
from evenseam.core.plan.search.legs import LEAST_SPAN_SHARE
from evenseam.core.plan.search.openings import Openings, graph_of
from evenseam.core.plan.search.shape import Shape
from evenseam.core.plan.search.shape_ahead import UNSURE_COST, ShapeAhead
from evenseam.core.plan.search.stages import Waypoint
from evenseam.core.plan.search.waypoints import Bounds, Passing
from evenseam.core.plan.tail import Tail
from tests.conftest import HeardTrack, heard

BAR = 16  # samples: so short that time is not quantised
TAIL = Tail(3, 3, 1)
GIVE = 0.08
LONGEST = 110  # samples: every way there is to more takes minutes


def small_graph(rng: np.random.Generator, bar: int = BAR) -> tuple[np.ndarray, Bars, Edges]:
    """Beats that are bars, seven of them, and some seams from each, every one of which plays on for one bar or two."""
    n = 7
    at = np.concatenate([[0], np.cumsum(rng.integers(bar, bar + 5, n - 1))])
    bars = Bars(np.arange(n), at, n - 1)
    rows = []
    for left in range(1, n):
        for entered in rng.choice(n - 1, 2, replace=False).tolist():
            if entered != left:
                to = min(entered + int(rng.integers(1, 3)), n - 1)
                rows.append((left, to, at[to] - at[entered], float(rng.integers(1, 30)) / 10, left, entered))
    rows.sort(key=lambda row: (row[0], row[3]))
    left, to, samples, cost, beat_from, beat_to = (np.array(column) for column in zip(*rows, strict=True))
    first = np.searchsorted(left, np.arange(n + 1))
    return at, bars, Edges(first, to, samples, cost.astype(np.float32), beat_from, beat_to)


Way = tuple[float, list[tuple[int, int]]]


def every_way(bars: Bars, edges: Edges, limit: int, most_seams: int = 99) -> Iterator[Way]:
    """Cost, and the bars that are heard with the samples played until then, of every way to the ending."""

    def on(node: int, now: int, cost: float, seen: list[tuple[int, int]], may_take: int) -> Iterator[Way]:
        if now > limit:
            return
        if node == bars.end:
            yield cost, [*seen, (node, now)]
            return
        heard_here = [*seen, (node, now)]
        yield from on(node + 1, now + int(bars.steps[node]), cost, heard_here, may_take)
        if node == 0 or may_take == 0:
            return
        for e in range(edges.first[node], edges.first[node + 1]):
            entered, to = int(edges.beat_to[e]), int(edges.to[e])
            inside = [(bar, now + int(bars.at[bar] - bars.at[entered])) for bar in range(entered, to)]
            yield from on(to, now + int(edges.samples[e]), cost + float(edges.cost[e]), [*heard_here, *inside], may_take - 1)

    yield from on(0, 0, 0.0, [], most_seams)


def cheapest(bars: Bars, edges: Edges, hits: tuple[Waypoint, ...], wanted: Wanted, most_seams: int = 99) -> float:
    """The cost of the best of all ways, each with every choice of which bars meet which of the hits."""
    best = np.inf
    last_at = hits[-1].at_samples if hits else 0
    longest = wanted.longest_played + int(GIVE * last_at) + 1  # with all that giving may have moved the music by
    for seams, bars_heard in every_way(bars, edges, longest, most_seams):
        for count in range(len(hits) + 1):
            for met in combinations(range(len(hits)), count):
                missed = sum(h.missed_cost for k, h in enumerate(hits) if k not in met)
                for places in combinations(range(len(bars_heard)), count):
                    cost, shift, before = seams + missed, 0, 0
                    for number, place in zip(met, places, strict=True):
                        bar, now = bars_heard[place]
                        span = hits[number].at_samples - before
                        off = now + shift - hits[number].at_samples
                        if bar not in hits[number].bar or abs(off) > int(GIVE * span):
                            break
                        share = max(LEAST_SPAN_SHARE, span / max(span, last_at))
                        if off:
                            cost += share * (SPEED_COST + STRETCH_COST_PER_PCT2 * (100 * off / span) ** 2)
                        shift, before = hits[number].at_samples - now, hits[number].at_samples
                    else:
                        last = Wanted(wanted.samples, wanted.give, wanted.tail, before)
                        played = bars_heard[-1][1] + shift
                        if last.shortest_played <= played <= last.longest_played:
                            best = min(best, cost + float(last.cost(np.array([played]))[0]))
    return best


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([None, 1, 2, 3]))
def test_the_search_finds_what_trying_everything_finds(seed: int, most_seams: int | None) -> None:
    rng = np.random.default_rng(seed)
    beats, bars, edges = small_graph(rng)
    at = np.sort(rng.choice(np.arange(20, 110), 2, replace=False))
    places = [np.sort(rng.choice(np.arange(1, 6), int(rng.integers(1, 5)), replace=False)) for _ in at]
    hits = tuple(
        Waypoint(int(t), 0, bar, np.zeros(bar.size, dtype=np.int64), float(rng.choice([4.0, 12.0, 1000.0])))
        for t, bar in zip(at, places, strict=True)
    )
    wanted = Wanted(int(at[-1] + rng.integers(10, 50)), GIVE, TAIL)
    passing = Passing(Ahead.of(graph_of(beats, bars, edges, Openings.own(0, 1), 0)), hits, wanted.samples, most_seams)
    found = passing.routes(wanted, 1, Bounds(np.inf, np.inf, np.inf))
    expected = cheapest(bars, edges, hits, wanted, 99 if most_seams is None else most_seams)
    if not found:
        assert np.isinf(expected)
    else:
        assert found[0].cost == pytest.approx(expected, abs=1e-3)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([None, 0, 1, 2, 3]), st.integers(20, 90))
def test_a_length_costs_what_the_best_of_all_ways_costs(seed: int, most_seams: int | None, samples: int) -> None:
    beats, bars, edges = small_graph(np.random.default_rng(seed), BAR // 2)
    wanted, ways = Wanted(samples, GIVE, TAIL), Ways(graph_of(beats, bars, edges, Openings.own(0, 1), 0), LONGEST, most_seams)
    expected = cheapest(bars, edges, (), wanted, 99 if most_seams is None else most_seams)
    found = ways.routes(wanted, 1)
    assert (found[0].cost if found else np.inf) == pytest.approx(expected, abs=1e-3)
    if not found:
        played = {heard[-1][1] for _, heard in every_way(bars, edges, LONGEST, 99 if most_seams is None else most_seams)}
        shorter, longer = ways.nearest(wanted)
        assert shorter == max((p for p in played if p < wanted.shortest_played), default=None)
        assert longer == min((p for p in played if p > wanted.longest_played), default=None)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([None, 0, 1, 2]), st.integers(6, 16))
def test_no_way_costs_less_than_what_is_said_to_be_ahead_of_it(seed: int, most_seams: int | None, lasts_bars: int) -> None:
    beats, bars, edges = small_graph(np.random.default_rng(seed))
    ahead = Ahead.of(graph_of(beats, bars, edges, Openings.own(0, 1), 0))
    ways = every_way(bars, edges, 12 * BAR)
    if most_seams is not None:
        ahead = ahead.with_seams_left(most_seams + 2, lasts_bars * BAR)
        ways = every_way(bars, edges, 40 * BAR, most_seams)
    more = [cost - float(ahead.of_rest(ahead.graph.start, heard[-1][1])) for cost, heard in ways]
    assert min(more) == pytest.approx(0, abs=1e-4)


def shaped(rng: np.random.Generator, bars: Bars, lasts_samples: int) -> Shape:
    """A shape that rises and falls at random, none of it wished for a while, and bars of about a second, as full as it happens."""
    corners = np.sort(rng.choice(lasts_samples, 4, replace=False))
    wished = np.interp(np.arange(lasts_samples), corners, rng.random(4)).astype(np.float32)
    wished[corners[0] : corners[1] // 2] = -1
    seconds, level = bars.steps / bars.steps[0], rng.random(bars.steps.size)
    sums = np.cumsum([seconds, seconds * level, seconds * level**2], axis=1)
    return Shape(wished, 1, np.pad(np.pad(sums, ((0, 0), (1, 0))), ((0, 0), (0, 2)), mode="edge"))


@pytest.mark.kernels
@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.integers(60, 400))
def test_what_straying_still_costs_is_nearly_what_it_costs(seed: int, samples: int) -> None:
    rng = np.random.default_rng(seed)
    beats, bars, edges = small_graph(rng)
    graph = graph_of(beats, bars, edges, Openings.own(0, 1), 0, shape=shaped(rng, bars, samples))
    ahead, ways = Ahead.of(graph), Ways(graph, samples + 8 * BAR, None).all_ways()
    in_time = ways.played >= samples
    more = ways.cost[in_time] - ahead.of_rest(graph.start, ways.played[in_time])
    still = float(ShapeAhead.of(ahead, samples).of_rest(graph.start, 0))
    if more.size:
        assert more.min() - UNSURE_COST < still < more.min() + UNSURE_COST / 3


@pytest.mark.kernels
@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([None, 1, 2, 3]), st.integers(40, 300))
def test_what_straying_still_costs_leaves_no_better_way_out(seed: int, most_seams: int | None, samples: int) -> None:
    rng = np.random.default_rng(seed)
    beats, bars, edges = small_graph(rng, BAR // 2)
    graph = graph_of(beats, bars, edges, Openings.own(0, 1), 0, shape=shaped(rng, bars, samples))
    anew = Openings.own(0, 2).and_others(Openings.own(int(bars.at[3]), 4))
    hits = [
        Waypoint(int(t), 1, np.array([k, k + 2]), np.zeros(2, dtype=np.int64), 12.0)
        for k, t in enumerate(np.sort(rng.choice(np.arange(20, samples), 2, replace=False)), start=1)
    ]
    wanted = Wanted(samples, GIVE, TAIL)

    def costs() -> list[float]:
        passing = Passing(Ahead.of(graph, (anew,)), tuple(hits), wanted.samples, most_seams, anew)
        found = [
            *Ways(graph, 2 * samples, most_seams).routes(wanted, 1),
            *passing.routes(wanted, 1, Bounds(np.inf, np.inf, np.inf)),
        ]
        return [route.cost for route in found]

    with pytest.MonkeyPatch.context() as unknown:
        unknown.setattr(ShapeAhead, "of", lambda ahead, *_: ShapeAhead.nothing(ahead.graph))
        expected = costs()
    assert costs() == pytest.approx(expected, abs=1e-3)


def aims_at(seconds: tuple[float, ...], rate: int, **more: str) -> tuple[Aim, ...]:
    return tuple(Aim(round(s * rate), tolerance_samples=rate // 50, **more) for s in seconds)  # type: ignore[arg-type]


def assert_hits_are_what_they_say(plan: Plan, track: HeardTrack) -> None:
    """Every hit that is said to be met is: the place of the track named sounds there, and is one of its kind."""
    downbeats = track.chart.downbeats
    for hit in plan.hits:
        if not hit.is_kept:
            continue
        assert hit.source_samples is not None
        assert hit.landed_samples is not None
        assert hit.kind == "beat" or hit.source_samples in downbeats
        passage = next(p for p in plan.passages if p.out_in_samples <= hit.landed_samples < p.out_out_samples)
        sounds = float(passage.time_map().source_at(np.array([hit.landed_samples]))[0])
        near_seam = hit.landed_samples - passage.out_in_samples < 0.2 * plan.rate
        assert abs(sounds - hit.source_samples) <= 2 or near_seam


@pytest.mark.parametrize("slug", ["first_light", "lantern_path", "long_exposure"])
@settings(max_examples=12, deadline=None)
@given(st.data())
def test_hits_are_met_within_their_tolerance_or_said_to_be_missed(slug: str, data: st.DataObject) -> None:
    track = heard(slug)
    rate = track.audio.rate
    length_s = data.draw(st.floats(30, 150))
    seconds = tuple(sorted(data.draw(st.lists(st.floats(4, length_s - 6), min_size=1, max_size=5))))
    kind = data.draw(st.sampled_from(["downbeat", "beat", "section"]))
    weight, landing = data.draw(st.sampled_from(["must", "should"])), data.draw(st.sampled_from(LANDINGS))
    aims = aims_at(seconds, rate, kind=kind, weight=weight)
    brief = Brief(round(length_s * rate), give_pct=3.0, aims=aims, landing=landing, fade_s=1.5)
    plan = track.planner.plan(brief)
    assert plan.pieces()[-1].out_out_samples == brief.target_samples
    assert [h.asked_samples for h in plan.hits] == sorted(a.at_samples for a in brief.aims)
    assert abs(plan.max_speed_change_pct()) <= 3.0 + 1e-6
    assert_hits_are_what_they_say(plan, track)
    assert track.planner.plan(brief) == plan


def told_worse(track: HeardTrack, seed: int, weight: str) -> bool:
    """Whether what the attempts at one list of hits tell of each other is worse than what each of them finds alone."""
    seconds = np.sort(np.random.default_rng(seed).uniform(4, 86, 3))
    aims = aims_at(tuple(seconds.tolist()), track.audio.rate, weight=weight)
    brief, offer = Brief(90 * track.audio.rate, aims=aims), Offer(track.chart, track.audio.samples)
    known = PastHits(offer, brief, 1, None)
    attempts = [Attempt(3.0, hold, True, *free) for free in ((True, True), (True, False), (False, False)) for hold in (1, 4)]
    for attempt in (attempts[-1], *attempts):
        known.missed(attempt)
        alone = PastHits(offer, brief, 1, None)
        told, found = ([round(plan.score, 2) for plan in past.plans(attempt)] for past in (known, alone))
        if len(told) != len(found) or told > found or known.missed(attempt) > alone.missed(attempt):
            return True
    return False


def test_what_one_attempt_tells_of_another_is_no_worse_than_what_a_search_finds() -> None:
    """But for a list in thirty or so: of the ways within a quantum of time one is kept, and not the same in both searches."""
    track = heard("first_light")
    assert sum(told_worse(track, seed, weight) for seed in range(16) for weight in ("should", "must")) <= 1


@settings(max_examples=8, deadline=None, derandomize=True)
@given(st.integers(0, 10_000))
def test_a_limit_of_seams_is_kept_past_hits_and_costs_nothing_where_they_are_few_enough(seed: int) -> None:
    track = heard("first_light")
    seconds = np.sort(np.random.default_rng(seed).uniform(4, 80, 4))
    brief = Brief(90 * track.audio.rate, aims=aims_at(tuple(seconds.tolist()), track.audio.rate, weight="should"))
    free = track.planner.plan(brief)
    assert track.planner.plan(replace(brief, max_seams=len(free.seams))) == free
    for most in range(1, len(free.seams)):
        assert len(track.planner.plan(replace(brief, max_seams=most)).seams) <= most


@pytest.mark.parametrize(("length_s", "seconds"), [(42.3, 29.0), (57.0, 21.5), (40.7, 14.5), (41.7, 15.4)])
def test_what_is_only_nice_is_worth_neither_more_speed_nor_a_start_anew(length_s: float, seconds: float) -> None:
    track = heard("first_light")
    rate = track.audio.rate
    plan = track.planner.plan(Brief(round(length_s * rate), aims=aims_at((seconds,), rate, weight="nice")))
    assert abs(plan.max_speed_change_pct()) <= 1.5
    assert plan.opening.kind == "own"
    assert all(seam.kind == "beat" for seam in plan.seams)


@pytest.mark.parametrize(("length_s", "seconds"), [(53.92, (43.43, 45.51)), (31.49, (5.57, 8.61)), (46.4, (9.53, 17.31))])
def test_music_that_is_to_fade_starts_anew_on_no_ending(length_s: float, seconds: tuple[float, ...]) -> None:
    track = heard("first_light")
    rate = track.audio.rate
    aims = aims_at(seconds, rate, weight="must")
    plan = track.planner.plan(Brief(round(length_s * rate), give_pct=1.0, hold_bars=4, landing="fade", fade_s=1.5, aims=aims))
    assert all(p.source_out_samples <= track.chart.last_hit_samples for p in plan.passages[1:-1])
    assert_hits_are_what_they_say(plan, track)


def test_hits_on_the_tracks_own_downbeats_need_nothing(track: HeardTrack) -> None:
    chart = track.chart
    at = [int(b - chart.music_start_samples) for b in chart.downbeats[4:20:5]]
    length = chart.ring_out_end_samples - chart.music_start_samples
    plan = track.planner.plan(Brief(length, aims=tuple(Aim(a, tolerance_samples=chart.rate // 50) for a in at)))
    assert not plan.seams
    assert plan.max_speed_change_pct() == 0
    assert [h.landed_samples for h in plan.hits] == at


def test_a_must_is_met_before_a_nice_and_a_hit_nobody_can_meet_is_reported() -> None:
    track = heard("first_light")
    rate = track.audio.rate
    near = (Aim(20 * rate, "downbeat", "nice", rate // 50), Aim(20 * rate + rate // 4, "downbeat", "must", rate // 50))
    nice, must = track.planner.plan(Brief(60 * rate, give_pct=1.0, aims=near)).hits
    assert must.is_kept
    assert not nice.is_kept
    assert nice.landed_samples is not None


@pytest.mark.parametrize(
    "aim", [{"at_samples": -1}, {"at_samples": 5, "kind": "silence"}, {"at_samples": 5, "until_samples": 9}]
)
def test_aims_that_make_no_sense(aim: dict) -> None:
    with pytest.raises(BriefError):
        Aim(**aim)


def test_a_hit_after_the_end_is_refused() -> None:
    with pytest.raises(BriefError, match="after the end"):
        Brief(100, aims=(Aim(100),))


@settings(max_examples=15, deadline=None)
@given(st.floats(35, 120), st.floats(0.6, 8.0), st.floats(5, 25))
def test_the_last_hit_falls_where_it_is_asked_for_and_the_ring_out_fills_the_rest(
    length_s: float, after_s: float, first_s: float
) -> None:
    track = heard("first_light")
    rate, chart = track.audio.rate, track.chart
    at = round((length_s - after_s) * rate)
    aims = (*aims_at((first_s,), rate), Aim(at, "last_hit", "must", rate // 50))
    plan = track.planner.plan(Brief(round(length_s * rate), aims=aims))
    met = plan.hits[-1]
    assert met.kind == "last_hit"
    assert met.is_kept == (plan.landing.kind == "last_hit")
    assert met.is_kept, "a steady track can always end on a given frame"
    assert met.landed_samples == plan.landing.last_hit_samples
    assert plan.pieces()[-1].out_out_samples == plan.target_samples
    ring_out = min(chart.ring_out_end_samples - chart.last_hit_samples, plan.target_samples - met.landed_samples)
    assert abs(plan.passages[-1].out_out_samples - met.landed_samples - ring_out) <= 0.021 * rate


def test_a_place_that_meets_two_aims_is_held_for_the_first() -> None:
    track, before = heard("first_light"), Held(48_000, 48_100)
    near = Aim(48_600, tolerance_samples=960)
    assert aimed(track.chart, before, 48_000, near, None) == aimed(track.chart, before, 48_000, near, 3.0) == before
