"""Openings by choice, and music that starts anew on a hit where no whole number of beats brings it there."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.plan import Aim, Brief
from evenseam.core.render import Renderer
from tests.conftest import HeardTrack, heard


@pytest.mark.parametrize("slug", ["first_light", "lantern_path"])
@pytest.mark.parametrize("kind", ["section", "bar"])
@settings(max_examples=10, deadline=None)
@given(st.floats(12, 120))
def test_an_opening_that_is_asked_for_is_the_first_thing_heard(slug: str, kind: str, length_s: float) -> None:
    track = heard(slug)
    chart = track.chart
    plan = track.planner.plan(Brief(round(length_s * chart.rate), opening=kind))  # type: ignore[arg-type]
    assert plan.opening.kind in ("section", kind)
    first = plan.passages[0].source_in_samples
    starts = [s.start_samples for s in chart.sections[1:]] if kind == "section" else chart.downbeats
    assert 0 < np.min(np.abs(np.asarray(starts) - first)) <= 0.07 * chart.rate, "just before it, so that its attack is whole"
    assert plan.fade_in.n_samples > 0
    assert plan.pieces()[-1].out_out_samples == plan.target_samples


def test_the_tracks_own_opening_is_kept_where_nothing_is_missed_by_that(track: HeardTrack) -> None:
    plan = track.planner.plan(Brief(60 * track.chart.rate))
    assert plan.opening.kind == "own"
    assert plan.passages[0].source_in_samples == track.chart.music_start_samples


@settings(max_examples=25, deadline=None)
@given(st.floats(30, 150), st.data())
def test_musts_at_any_frame_are_met_if_need_be_by_starting_anew(length_s: float, data: st.DataObject) -> None:
    track = heard("first_light")
    rate = track.chart.rate
    at = data.draw(st.floats(8, length_s - 12))
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (at, at + 3.3))
    plan = track.planner.plan(Brief(round(length_s * rate), give_pct=1.0, aims=aims))
    assert all(hit.is_kept for hit in plan.hits)
    anew = [seam for seam in plan.seams if seam.kind == "anew"]
    assert all(seam.grade == "plain" and not seam.short_bar for seam in anew), "a broken beat is heard, and said so"
    near = [min(abs(seam.out_samples - aim.at_samples) for aim in aims) for seam in anew]
    assert all(distance <= 0.05 * rate for distance in near), "and only ever on a hit, give or take its tolerance"


def test_the_beat_is_not_broken_for_what_would_only_be_good_to_have() -> None:
    track = heard("first_light")
    rate = track.chart.rate
    aims = tuple(Aim(round(s * rate), "downbeat", "should", rate // 50) for s in (20.0, 21.37))
    assert all(seam.kind == "beat" for seam in track.planner.plan(Brief(60 * rate, give_pct=0.5, aims=aims)).seams)


def test_a_long_silence_needs_no_seams_to_fill_it() -> None:
    track = heard("first_light")
    rate = track.chart.rate
    aims = (Aim(40 * rate, "silence", "must", rate // 50, 220 * rate),)
    plan = track.planner.plan(Brief(330 * rate, max_seams=1, aims=aims))
    assert plan.hits[0].is_kept
    assert plan.pieces()[-1].out_out_samples == 330 * rate


@settings(max_examples=20, deadline=None)
@given(st.floats(40, 150), st.floats(0.2, 0.7), st.floats(0.6, 6.0))
def test_music_stops_for_a_silence_and_comes_back_on_a_downbeat(length_s: float, place: float, silence_s: float) -> None:
    track = heard("first_light")
    chart, rate = track.chart, track.chart.rate
    start, length = round(place * length_s * rate), round(length_s * rate)
    until = start + round(silence_s * rate)
    aim = Aim(start, "silence", "must", rate // 50, until)
    plan = track.planner.plan(Brief(length, aims=(aim,)))
    assert plan.hits[0].is_kept
    rest = next(r for r in plan.rests if r.out_in_samples <= start + rate // 50 < r.out_out_samples)
    back = next(p for p in plan.passages if p.out_in_samples == rest.out_out_samples)
    downbeat = back.time_map().source_at(np.array([until]))[0]
    assert np.min(np.abs(chart.downbeats - downbeat)) <= 2
    assert plan.pieces()[-1].out_out_samples == length
    sound = Renderer(plan, track.audio.samples).block(start + rate // 50, until - rate // 20)
    assert not sound.any(), "not a sample sounds"
