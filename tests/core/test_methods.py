"""The methods of fitting beside each other, and forecasts: what holds for every one of them."""

from collections import Counter
from dataclasses import fields, replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from evenseam.core.audio.decode import Audio
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Aim, Brief, Plan
from evenseam.core.plan.judging.costs import costs_of
from evenseam.core.plan.judging.forecast import Forecast
from evenseam.core.plan.judging.unheard import expected
from evenseam.core.plan.methods import METHODS
from evenseam.core.plan.planner import Planner
from evenseam.core.render import Renderer
from tests.conftest import HeardTrack, heard

SLUGS = ["first_light", "lantern_path", "hill_bus", "long_exposure"]


def assert_exact(plan: Plan, target: int) -> None:
    """It fills its length; no speed, seam or ending is there that its method does not have."""
    assert plan.pieces()[-1].out_out_samples == plan.target_samples == target
    if plan.method in ("stretch", "trim"):
        assert len(plan.passages) == 1
        assert not plan.seams
    if plan.method == "trim":
        assert plan.max_speed_change_pct() == 0
        assert plan.landing.kind == "ring_out" or plan.fade_out.n_samples > 0.5 * plan.rate


@pytest.mark.parametrize("slug", SLUGS)
def test_every_method_is_exact_or_names_what_it_can_do(slug: str) -> None:
    track, checked = heard(slug), Counter[str]()
    for method, seconds in product(METHODS, np.random.default_rng(len(slug)).uniform(8, 400, 2)):
        target = round(seconds * track.audio.rate)
        try:
            plans = {target: track.planner.plan(Brief(target, method=method))}
        except NoPlanError as error:
            possible = error.params.get("possible_samples", ())
            plans = {length: track.planner.plan(Brief(length, method=method)) for length in possible}
        for length, plan in plans.items():
            assert plan.method == method
            assert_exact(plan, length)
            checked[method] += 1
    assert set(checked) == set(METHODS), "each of them made a plan, for what was asked or for what it named"


def test_a_loop_comes_round_whole_bars_and_keeps_both_ends() -> None:
    track = heard("hill_bus")
    plan = track.planner.plan(Brief(72 * track.audio.rate, method="loop"))
    costs = costs_of(plan, track.chart)
    assert costs.keeps_opening
    assert costs.keeps_ending
    assert costs.repeated_pct > 30
    bars = set(track.chart.downbeats.tolist())
    near = 0.2 * track.audio.rate
    for seam in plan.seams:
        assert min(abs(seam.source_to_samples - b) for b in bars) < near


def test_trying_every_method_ranks_them_and_says_why_one_cannot(track: HeardTrack) -> None:
    tried = track.planner.tried(Brief(60 * track.audio.rate))
    scores = [one.plan.score for one in tried if one.plan]
    assert scores == sorted(scores)
    assert {one.method for one in tried} >= {"blend", "stretch", "trim"}
    assert "rearrange" not in {one.method for one in tried}, "without hits it is the same as a blend"
    for one in tried:
        assert (one.plan is None) == (one.problem is not None) == (one.costs is None)


def test_what_is_marked_binds_every_method(track: HeardTrack) -> None:
    chart, rate = track.chart, track.audio.rate
    bars = chart.downbeats
    skip = TrackMark("skip", int(bars[8]), int(bars[10]))
    keep = TrackMark("keep", int(bars[14]), int(bars[15]))
    planner, planned = Planner(chart, track.audio.samples, marks=(skip, keep)), Counter[str]()
    for method in METHODS:
        for seconds in (12, 40, 90):
            try:
                plan = planner.plan(Brief(seconds * rate, method=method))
            except NoPlanError:
                continue
            planned[method] += 1
            near = 0.2 * rate
            assert all(
                p.source_out_samples <= skip.start_samples + near or p.source_in_samples >= skip.end_samples - near
                for p in plan.passages
            ), method
            assert any(
                p.source_in_samples <= keep.start_samples + near and p.source_out_samples >= keep.end_samples - near
                for p in plan.passages
            ), method
    assert set(planned) <= {"blend", "rearrange", "trim"}, "what cannot leave the skipped bars out refuses"
    assert min(planned["blend"], planned["rearrange"]) >= 2


def test_sound_without_bars_is_still_brought_to_length() -> None:
    rng = np.random.default_rng(3)
    sound = rng.normal(0, 0.1, (1, 9 * 22_050)).astype(np.float32) * np.hanning(9 * 22_050).astype(np.float32)
    audio = Audio(sound, 22_050)
    chart = listen(audio)
    arrays = {f.name: getattr(chart, f.name)[:0] for f in fields(chart) if isinstance(getattr(chart, f.name), np.ndarray)}
    planner = Planner(replace(chart, sections=(), loops=(), **arrays), audio.samples)
    for seconds in (8.7, 4.0):
        plan = planner.plan(Brief(round(seconds * 22_050)))
        made = Renderer(plan, audio.samples).block(0, plan.target_samples)
        assert made.shape[1] == round(seconds * 22_050)
        assert abs(made[0, -1]) < 0.01
    with pytest.raises(NoPlanError, match="No bars were heard"):
        planner.plan(Brief(60 * 22_050))


@given(st.floats(20, 600), st.floats(6, 1200), st.floats(1, 300))
def test_what_is_expected_of_music_unheard_goes_by_its_length_and_beat(length: float, slot: float, more: float) -> None:
    rate = 48_000
    usual = expected(round(length * rate), 0, round(slot * rate))
    assert 0 < usual.suits < 100
    as_long = expected(round(slot * rate), 0, round(slot * rate))
    assert (as_long.words, as_long.seams) == ("as it is", 0)
    assert as_long.suits >= usual.suits
    if slot > length:
        longer = expected(round(length * rate), 0, round((slot + more) * rate))
        assert longer.seams >= usual.seams
    aims = [Aim(k * rate // 2 * 5, tolerance_samples=rate // 50) for k in (1, 2, 3)]
    by_beat = [expected(round(length * rate), beat, round(slot * rate), aims) for beat in (rate // 2, rate * 5 // 3, 0)]
    assert by_beat[0].hits_within_reach == 3
    assert by_beat[2].hits_within_reach == 0
    assert by_beat[0].suits == usual.suits > by_beat[2].suits


@pytest.mark.parametrize("slug", SLUGS)
def test_a_forecast_is_what_the_planner_then_does(slug: str) -> None:
    track = heard(slug)
    forecast = Forecast.from_bytes(track.planner.forecast().to_bytes())
    rng, compared = np.random.default_rng(11), 0
    for seconds in np.exp(rng.uniform(np.log(20), np.log(600), 60)).tolist():
        target = round(seconds * track.audio.rate)
        outlook = forecast.at(target)
        try:
            plan = track.planner.plan(Brief(target))
        except NoPlanError:
            continue
        if outlook.cost is None:
            assert seconds < 40, "only what is too short for the usual hold has no forecast"
            continue
        assert outlook.cost <= plan.score + 0.1
        compared += 1
        if plan.max_speed_change_pct() == 0 == outlook.speed_change_pct:
            assert outlook.cost == pytest.approx(plan.score, abs=0.1)
            assert outlook.seams == len(plan.seams)
    assert compared > 30


@pytest.mark.parametrize("seconds", [60, 100, 300])
def test_a_loop_goes_round_before_it_fades_too(seconds: int) -> None:
    track = heard("first_light")
    bar = float(np.median(np.diff(track.chart.downbeats)))
    brief = Brief(seconds * track.audio.rate, method="loop", landing="fade", fade_s=3.0)
    plan = track.planner.plan(brief)
    assert plan.pieces()[-1].out_out_samples == brief.target_samples
    assert plan.landing.kind == "fade"
    assert plan.opening.kind == "own"
    assert plan.seams
    for seam in plan.seams:
        bars = (seam.source_from_samples - seam.source_to_samples) / bar
        assert bars > 1
        assert abs(bars - round(bars)) < 0.05, "whole bars are repeated"
    assert seconds > 100 or len(track.planner.plan(replace(brief, max_seams=1)).seams) == 1
