"""Plans: what holds for every track and every length."""

from dataclasses import replace
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.audio.decode import Audio
from evenseam.core.chart import Chart
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Brief, Fade, Passage, Pin, Plan, PlanError, Rest, SeamName
from evenseam.core.plan.brief import LANDINGS, ORDERS
from evenseam.core.plan.judging.apart import apart, sections_heard
from evenseam.core.plan.methods.attempts import attempts_for
from evenseam.core.plan.methods.rearrange import HOLD_WORTH, MARGIN_COST, OneLength
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from evenseam.core.render import Renderer
from tests.conftest import HeardTrack, drum_loop, heard
from tests.synth import free_music

TARGETS_EACH = 200
SHORTEST_S, LONGEST_S = 5.0, 1200.0
SLUGS = ["first_light", "lantern_path", "hill_bus", "long_exposure"]


def random_targets(track: HeardTrack) -> list[int]:
    """Samples, as many short as long ones (log-uniform), the same at every run."""
    rng = np.random.default_rng(len(track.score.slug))
    seconds = np.exp(rng.uniform(np.log(SHORTEST_S), np.log(LONGEST_S), TARGETS_EACH))
    return [int(s * track.audio.rate) for s in seconds]


def plans_of(track: HeardTrack) -> list[Plan]:
    """A plan for each target; a refusal must name lengths that can really be had."""
    plans = []
    for target in random_targets(track):
        try:
            plans.append(track.planner.plan(Brief(target, method="rearrange")))
        except NoPlanError as error:
            check_refusal(error, target, track)
    return plans


def check_refusal(error: NoPlanError, target: int, track: HeardTrack) -> None:
    possible = error.params["possible_samples"]
    assert possible, error.detail
    assert all(track.planner.plan(Brief(p, method="rearrange")).target_samples == p for p in possible)
    assert target < 25 * track.audio.rate, f"only short lengths may be refused: {error.detail}"


@pytest.mark.parametrize("slug", SLUGS)
def test_every_length_is_exact_whole_and_without_a_click(slug: str) -> None:
    track = heard(slug)
    plans = plans_of(track)
    assert len(plans) > 0.8 * TARGETS_EACH
    for plan in plans:
        assert_whole(plan, track)
    assert_no_clicks(plans, track)


def test_music_in_free_time_is_fitted_on_its_breaths() -> None:
    audio = free_music(90.0)
    chart = listen(audio)
    planner = Planner(chart, audio.samples, Joins.from_bytes(chart, Joins(chart).to_bytes()))
    for seconds in (30, 60, 150):
        plan = planner.plan(Brief(seconds * audio.rate))
        assert plan.pieces()[-1].out_out_samples == seconds * audio.rate
        assert all(s.kind == "breath" and s.fade_samples > 0.2 * audio.rate for s in plan.seams)
        made = Renderer(plan, audio.samples).block(0, plan.target_samples)
        assert np.abs(np.diff(made, n=2, axis=1)).max() < 1.2 * np.abs(np.diff(audio.samples, n=2, axis=1)).max() + 1e-3
    quiet = np.median([level_near(audio, s.source_from_samples) for s in plan.seams])
    assert quiet < np.median([level_near(audio, k) for k in range(0, audio.n_samples - 1, audio.rate)])


def level_near(audio: Audio, at: int) -> float:
    """RMS over a tenth of a second around a sample."""
    return float(np.sqrt(np.mean(audio.samples[:, max(0, at - 1100) : at + 1100] ** 2)))


def assert_whole(plan: Plan, track: HeardTrack) -> None:
    chart = track.chart
    assert plan.passages[0].out_in_samples == 0
    assert plan.pieces()[-1].out_out_samples == plan.target_samples
    for a, b in pairwise(plan.passages):
        assert a.out_out_samples == b.out_in_samples
    for passage in plan.passages:
        assert all(x.source_samples < y.source_samples and x.out_samples < y.out_samples for x, y in pairwise(passage.pins))
    first, last = plan.passages[0], plan.passages[-1]
    assert first.source_in_samples == chart.music_start_samples
    assert first.source_out_samples >= chart.downbeats[1] - 0.18 * chart.rate, "the opening bar is whole"
    assert last.source_in_samples < chart.last_hit_samples
    assert_tail(plan, chart)
    a, b = last.pins[-2:] if len(last.pins) > 2 else last.pins
    assert b.source_samples - a.source_samples == b.out_samples - a.out_samples, "the ring-out keeps its speed"
    landed = float(last.time_map().source_at(np.array([plan.landing.last_hit_samples]))[0])
    assert abs(landed - chart.last_hit_samples) <= 1
    assert abs(plan.max_speed_change_pct()) < 11.5


def assert_tail(plan: Plan, chart: Chart) -> None:
    """At most a third of the ring-out is left out, under a fade, or at most a second of silence follows it; never both."""
    ring_out = chart.ring_out_end_samples - chart.last_hit_samples
    left_out = chart.ring_out_end_samples - plan.passages[-1].source_out_samples
    silence = plan.target_samples - plan.passages[-1].out_out_samples
    unheard = 0.02 * chart.rate
    assert -unheard <= left_out <= max(0.33 * ring_out, unheard) + 1
    assert 0 <= silence <= chart.rate + 1
    assert not silence or left_out <= 0
    assert left_out <= unheard or left_out <= plan.fade_out.n_samples <= ring_out, "what is left out is faded away"


def assert_no_clicks(plans: list[Plan], track: HeardTrack) -> None:
    """At no seam of any plan is the second difference within 10 ms above the track's own 99.9th percentile, or its own there."""
    limit = np.percentile(np.abs(np.diff(track.audio.samples, n=2, axis=1)), 99.9)
    near = round(0.01 * track.audio.rate)
    around = round(0.2 * track.audio.rate)
    seams = {(s.source_from_samples, s.source_to_samples): s for plan in plans for s in plan.seams}
    assert seams
    for seam in seams.values():
        a, b = seam.source_from_samples, seam.source_to_samples
        before, after = min(around, a), min(around, track.audio.n_samples - b)
        alone = Plan(
            "rearrange", track.audio.rate, before + after,
            (Passage((Pin(a - before, 0), Pin(a, before))), Passage((Pin(b, before), Pin(b + after, before + after)))),
            (type(seam)(before, a, b, seam.fade_samples, seam.correlation, seam.percentile, seam.grade, seam.short_bar),), 0.0,
        )  # fmt: skip
        sound = Renderer(alone, track.audio.samples).block(before - near - 1, before + near + 1)
        own = max(np.abs(np.diff(track.audio.samples[:, at - near - 1 : at + near + 1], n=2, axis=1)).max() for at in (a, b))
        assert np.abs(np.diff(sound, n=2, axis=1)).max() <= max(limit, own)


@pytest.mark.parametrize("slug", SLUGS)
def test_seams_keep_the_beat_and_the_place_in_the_bar(slug: str) -> None:
    track = heard(slug)
    truth = np.array(track.score.beats_s())
    beat = float(np.median(np.diff(truth)))
    for seconds in (30, 72, 200):
        for seam in track.planner.plan(Brief(seconds * track.audio.rate)).seams:
            moved_beats = (seam.source_to_samples - seam.source_from_samples) / track.audio.rate / beat
            assert abs(moved_beats - round(moved_beats)) < 0.06
            assert seam.short_bar or round(moved_beats) % track.score.beats_per_bar == 0


@pytest.mark.parametrize("give_pct", [None, 1.0])
@pytest.mark.parametrize("slug", ["first_light", "lantern_path", "long_exposure"])
def test_alternates_differ_and_come_best_first(slug: str, give_pct: float | None) -> None:
    track = heard(slug)
    plans = track.planner.alternates(Brief(90 * track.audio.rate, give_pct=give_pct), 4)
    assert len(plans) > 1
    assert all(give_pct is None or abs(p.max_speed_change_pct()) <= give_pct for p in plans)
    assert len({tuple((s.source_from_samples, s.source_to_samples) for s in p.seams) for p in plans}) == len(plans)
    assert [p.score for p in plans] == sorted(p.score for p in plans)
    pairs = list(combinations(plans, 2))
    assert min(apart(a, b) for a, b in pairs) > 0.05, "not by one beat"
    assert give_pct is not None or len({sections_heard(p, track.chart) for p in plans}) > 1


def test_limits_are_kept(track: HeardTrack) -> None:
    rate = track.audio.rate
    plan = track.planner.plan(Brief(200 * rate, give_pct=2.0, hold_bars=8))
    assert abs(plan.max_speed_change_pct()) <= 2.0
    bar = float(np.median(np.diff(track.chart.downbeats)))
    for a, b in pairwise(plan.seams):
        assert b.out_samples - a.out_samples > 7.4 * bar
    for most, said in ((0, "without a seam. The nearest"), (1, "with at most 1 seam. The nearest")):
        with pytest.raises(NoPlanError, match=said) as refused:
            track.planner.plan(Brief(900 * rate, max_seams=most, method="rearrange"))
        nearest = Brief(refused.value.params["possible_samples"][0], max_seams=most, method="rearrange")
        assert len(track.planner.plan(nearest).seams) <= most


def loop_planner() -> Planner:
    global _loop
    if _loop is None:
        from evenseam.core.listen import listen

        audio = drum_loop(40.0)
        _loop = Planner(listen(audio), audio.samples)
    return _loop


_loop: Planner | None = None


@pytest.mark.parametrize("seconds", [0.5, 3.0])
def test_too_short_is_refused_with_the_least_that_can_be_had(seconds: float) -> None:
    with pytest.raises(NoPlanError, match="too short to rearrange") as refused:
        loop_planner().plan(Brief(round(seconds * 22_050)))
    assert loop_planner().plan(Brief(refused.value.params["possible_samples"][0]))


def test_a_sound_too_short_to_have_places_for_seams_is_refused_and_not_a_fault() -> None:
    noise = np.random.default_rng(5).normal(0, 0.05, (1, 2 * 22_050)).astype(np.float32)
    audio = Audio(noise, 22_050)
    with pytest.raises(NoPlanError):
        Planner(listen(audio), audio.samples).plan(Brief(60 * 22_050))


def test_no_give_at_all_changes_no_speed_and_few_seams_are_found_where_there_are_any() -> None:
    planner, rate = loop_planner(), 22_050
    bars = [planner.plan(Brief(round(s * rate))) for s in (24.1, 31.0, 58.3, 77.7)]
    for plan in bars:
        played = sum(p.source_out_samples - p.source_in_samples for p in plan.passages)
        still = planner.plan(Brief(played, give_pct=0.0))
        assert still.max_speed_change_pct() == 0
        fewest = planner.plan(Brief(plan.target_samples, max_seams=len(plan.seams)))
        assert len(fewest.seams) <= len(plan.seams)
        with pytest.raises(NoPlanError, match="without a seam"):
            planner.plan(Brief(plan.target_samples, max_seams=0, method="rearrange"))


@settings(max_examples=12, deadline=None, derandomize=True)
@given(st.floats(8, 400), st.sampled_from([0.0, 0.5, 3.0, None]), st.sampled_from([None, 2, 5]))
def test_what_one_attempt_at_a_length_tells_of_another_is_what_a_search_finds(
    seconds: float, give_pct: float | None, most_seams: int | None
) -> None:
    track = heard("first_light")
    brief = Brief(round(seconds * track.audio.rate), give_pct=give_pct, max_seams=most_seams)
    offer = Offer(track.chart, track.audio.samples)
    try:
        told = OneLength(offer, brief)
        best = [told.best(attempt) for attempt in told.attempts]
    except NoPlanError:
        best = [()] * len(attempts_for(brief))
    most = np.inf if give_pct is None else min((ways[0].cost for ways in best if ways), default=np.inf) + HOLD_WORTH
    for attempt, ways in zip(attempts_for(brief), best, strict=True):
        alone = OneLength(offer, replace(brief, give_pct=None)).routes(attempt, 1)
        if ways:
            assert abs(ways[0].cost - alone[0].cost) < 2 * MARGIN_COST
        else:
            assert not alone or alone[0].cost > most - MARGIN_COST


@settings(max_examples=200, deadline=None, derandomize=True)
@given(st.data())
def test_what_a_refusal_names_can_be_had_whatever_else_was_asked(data: st.DataObject) -> None:
    track = heard(data.draw(st.sampled_from(["hill_bus", "long_exposure"])))
    limits = {
        "method": data.draw(st.sampled_from(["blend", "loop", "stretch", "trim"])),
        "give_pct": data.draw(st.sampled_from([0.5, 6.0, None])),
        "max_seams": data.draw(st.sampled_from([1, None])),
        "order": data.draw(st.sampled_from(ORDERS)),
        "opening": data.draw(st.sampled_from(["section", None])),
        "landing": data.draw(st.sampled_from(LANDINGS)),
    }
    seconds = data.draw(st.sampled_from([4.5, 9.0, 40.0, 400.0]))
    try:
        track.planner.plan(Brief(round(seconds * track.audio.rate), **limits))
    except NoPlanError as error:
        for possible in error.params.get("possible_samples", ()):
            assert track.planner.plan(Brief(possible, **limits)).target_samples == possible


SECOND = Passage((Pin(0, 0), Pin(100, 100)))
NO_FADE = Fade(0)


@pytest.mark.parametrize(
    "parts",
    [
        {"target_samples": 101},
        {"passages": ()},
        {"passages": (SECOND, Passage((Pin(0, 100), Pin(9, 109)))), "target_samples": 109},
        {"rests": (Rest(100, 120, NO_FADE, NO_FADE), Rest(120, 130, NO_FADE, NO_FADE)), "target_samples": 130},
        {"rests": (Rest(90, 120, NO_FADE, NO_FADE),), "target_samples": 120},
        {"gain_db": float("nan")},
    ],
)
def test_a_plan_that_does_not_hold_together_cannot_be_made(parts: dict) -> None:
    with pytest.raises(PlanError):
        Plan(**{"method": "x", "rate": 100, "target_samples": 100, "passages": (SECOND,), "seams": (), "score": 0.0, **parts})


@pytest.mark.parametrize("brief", [{"target_samples": 0}, {"give_pct": 50.0}, {"hold_bars": 0}, {"max_seams": -1}])
def test_briefs_that_make_no_sense(brief: dict) -> None:
    with pytest.raises(BriefError):
        Brief(**{"target_samples": 1, **brief})


def test_a_fit_for_a_new_length_keeps_the_seams_that_it_can() -> None:
    more = 0
    for slug in SLUGS[:3]:
        track = heard(slug)
        rate = track.audio.rate
        before = track.planner.plan(Brief(72 * rate))
        places = tuple((s.source_from_samples, s.source_to_samples) for s in before.seams)

        def shared(plan: Plan, places: tuple = places, rate: int = rate) -> int:
            return sum(
                any(abs(s.source_from_samples - a) < rate // 5 and abs(s.source_to_samples - b) < rate // 5 for a, b in places)
                for s in plan.seams
            )

        for seconds in (70.4, 66.96, 74.0, 68.0):
            target = round(seconds * rate)
            kept = track.planner.plan(Brief(target, kept_seams=tuple(SeamName(*place) for place in places)))
            assert kept.target_samples == target
            plain = shared(track.planner.plan(Brief(target)))
            assert shared(kept) >= plain
            more += shared(kept) - plain
    assert more > 0, "asking for seams again makes a difference"
