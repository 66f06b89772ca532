"""What a brief may ask for beside its length: how the music lands, in which order, without which seams, how full, by what."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from evenseam.cli import asking
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.plan import ASKS, RESPECTS, Aim, Brief, Listening, Plan, SeamName, Wish
from evenseam.core.plan.methods import METHODS
from evenseam.core.plan.search.graph import usable_bars
from evenseam.core.plan.search.respects import Respects
from evenseam.core.plan.search.shape import levels_of
from evenseam.core.render import Renderer
from evenseam.store.briefs import BriefDocument
from tests.conftest import HeardTrack, heard


def places(plan: Plan) -> set[tuple[int, int]]:
    return {(seam.source_from_samples, seam.source_to_samples) for seam in plan.seams}


@settings(max_examples=15, deadline=None)
@given(st.floats(8, 300), st.floats(1, 8), st.sampled_from(["blend", "rearrange"]))
def test_a_fade_that_is_asked_for_begins_on_a_bar_line_and_is_about_as_long(
    length_s: float, fade_s: float, method: str
) -> None:
    track = heard("first_light")
    chart, rate = track.chart, track.chart.rate
    plan = track.planner.plan(Brief(round(length_s * rate), landing="fade", fade_s=fade_s, method=method))
    fade = min(fade_s, length_s / 2) * rate
    assert plan.landing.kind == "fade"
    assert plan.fade_out.shape == "cosine"
    assert 0.6 * fade <= plan.fade_out.n_samples <= 1.4 * fade
    assert plan.passages[-1].out_out_samples == plan.target_samples
    begins = plan.passages[-1].source_out_samples - plan.fade_out.n_samples
    assert np.min(np.abs(chart.downbeats - begins)) <= 0.02 * rate
    assert plan.passages[-1].source_out_samples <= chart.ring_out_end_samples
    sound = Renderer(plan, track.audio.samples).block(plan.target_samples - rate // 100, plan.target_samples)
    assert np.abs(sound).max() < 0.01


def test_hits_are_met_before_a_fade_as_before_an_ending() -> None:
    track = heard("first_light")
    rate = track.chart.rate
    aims = (Aim(round(20.3 * rate), "downbeat", "must", rate // 50), Aim(round(41.7 * rate), "downbeat", "must", rate // 50))
    plan = track.planner.plan(Brief(60 * rate, landing="fade", aims=aims, max_seams=6))
    assert all(hit.is_kept for hit in plan.hits)
    assert plan.landing.kind == "fade"
    assert len(plan.seams) <= 6


@settings(max_examples=15, deadline=None)
@given(st.floats(20, 150), st.booleans())
def test_music_that_goes_only_forward_never_plays_a_bar_twice(length_s: float, with_silence: bool) -> None:
    track = heard("first_light")
    rate = track.chart.rate
    at, until = round(length_s * 0.4 * rate), round(length_s * 0.5 * rate)
    aims = (Aim(at, "silence", "should", rate // 50, until),) if with_silence else ()
    plan = track.planner.plan(Brief(round(length_s * rate), order="forward", aims=aims))
    spans = [(p.source_in_samples, p.source_out_samples) for p in plan.passages]
    assert all(b[0] >= a[1] - 0.1 * rate for a, b in pairwise(spans))


def test_more_than_all_of_a_track_cannot_be_had_forward() -> None:
    track = heard("first_light")
    with pytest.raises(NoPlanError) as refused:
        track.planner.plan(Brief(300 * track.chart.rate, order="forward"))
    assert max(refused.value.params["possible_s"]) < 170


@settings(max_examples=10, deadline=None)
@given(st.floats(20, 240))
def test_a_seam_that_is_forbidden_is_not_taken_again(length_s: float) -> None:
    track = heard("first_light")
    brief = Brief(round(length_s * track.chart.rate))
    forbidden: set[tuple[int, int]] = set()
    cost = 0.0
    for _ in range(3):
        plan = track.planner.plan(replace(brief, forbidden_seams=tuple(SeamName(*place) for place in forbidden)))
        assert not places(plan) & forbidden
        assert plan.score >= cost - 0.01, "but for the quantum of time, within which one way is kept"
        forbidden, cost = forbidden | places(plan), plan.score


def strays(track: HeardTrack, plan: Plan, wish: Wish) -> float:
    """How far the music is from a wish, on average."""
    bars = usable_bars(track.chart)
    level = levels_of(track.chart, bars)
    at = np.arange(wish.start_samples, wish.end_samples, plan.rate // 4)
    wished = np.interp(at, [wish.start_samples, wish.end_samples], [wish.start_level, wish.end_level])
    off = []
    for passage in plan.passages:
        here = (at >= passage.out_in_samples) & (at < passage.out_out_samples)
        bar = np.searchsorted(bars.at, passage.time_map().source_at(at[here]), side="right") - 1
        off.append(np.abs(level[np.clip(bar, 0, level.size - 1)] - wished[here]))
    return float(np.concatenate(off).mean())


@pytest.mark.parametrize("slug", ["first_light", "lantern_path"])
@pytest.mark.parametrize("with_a_hit", [False, True])
def test_the_music_is_as_full_as_it_is_wished_to_be(slug: str, with_a_hit: bool) -> None:
    track = heard(slug)
    rate = track.chart.rate
    wish = Wish(18 * rate, 54 * rate, 0.0, 0.0)
    aims = (Aim(45 * rate, "downbeat", "must", rate // 50),) if with_a_hit else ()
    brief = Brief(90 * rate, aims=aims)
    usual, shaped = (track.planner.plan(b) for b in (brief, replace(brief, shape=(wish,))))
    assert strays(track, shaped, wish) < 0.6 * strays(track, usual, wish)
    assert all(hit.is_kept for hit in shaped.hits)


def test_wishes_that_make_no_sense() -> None:
    with pytest.raises(BriefError, match="end after it starts"):
        Wish(10, 10, 0, 1)
    with pytest.raises(BriefError, match="0 to 1"):
        Wish(0, 10, 0, 1.5)
    with pytest.raises(BriefError, match="in order"):
        Brief(100, shape=(Wish(0, 50, 0, 1), Wish(40, 60, 0, 1)))


@pytest.mark.parametrize("respect", RESPECTS)
def test_what_is_listened_for_matches_better(respect: str) -> None:
    respects = {slug: Respects(heard(slug).chart) for slug in ("first_light", "lantern_path")}

    def apart(listening: Listening) -> float:
        far = []
        for slug, of in respects.items():
            track = heard(slug)
            for length_s in (20, 30, 45, 60, 90, 200):
                seams = track.planner.plan(Brief(length_s * track.chart.rate, listening=listening)).seams
                at = [[s.source_from_samples, s.source_to_samples] for s in seams]
                if at:
                    beats = np.abs(track.chart.beats[:, None, None] - np.array(at)).argmin(axis=0)
                    far += of.apart(respect, beats[:, 0], beats[:, 1]).tolist()  # type: ignore[arg-type]
        return float(np.sum(far))  # of all seams: one that is less alike may stand for two

    assert apart(Listening(**{respect: 3.0})) < apart(Listening(**{respect: 0.0}))


def test_what_would_have_the_musts_met_has_been_planned() -> None:
    track = heard("first_light")
    rate = track.chart.rate
    aims = tuple(Aim(round(s * rate), "downbeat", "must", rate // 50) for s in (20.0, 41.4, 50.3))
    brief = Brief(60 * rate, give_pct=0.5, hold_bars=4, max_seams=1, aims=aims)
    assert not all(hit.is_kept for hit in track.planner.plan(brief).hits)
    changes = track.planner.changes(brief)
    assert changes
    assert len({change.kind for change in changes}) == len(changes)
    for change in changes:
        assert all(hit.is_kept for hit in track.planner.plan(change.brief).hits if hit.weight == "must")
    assert not track.planner.changes(changes[-1].brief), "nothing more is needed then"


NUMBERS = sorted(name for name, declared in ASKS.items() if declared.ask.low is not None)


@pytest.mark.parametrize("name", NUMBERS)
def test_a_range_is_declared_once_and_holds_in_the_brief_the_document_and_the_command_line(name: str) -> None:
    ask, step = ASKS[name].ask, 1 if ASKS[name].default is None or isinstance(ASKS[name].default, int) else 0.25
    assert ask.low is not None
    assert ask.high is not None
    kind = int if ASKS[name].kind == int | None else float
    for value in (kind(ask.low), kind(ask.high)):
        document = BriefDocument(length_flicks=10**9, **{name: value})
        assert getattr(document.at(48_000), name) == value
        assert BriefDocument.model_validate(document.stored()) == document
    for value in (kind(ask.low - step), kind(ask.high + step)):
        with pytest.raises(BriefError, match=f"{ask.label} must be {ask.low:g} to {ask.high:g}"):
            Brief(1000, **{name: value})  # type: ignore[arg-type]
        with pytest.raises(ValidationError):
            BriefDocument(length_flicks=10**9, **{name: value})
        option = {field: option for option, field in asking.OPTIONS.items()}.get(name)
        if option is not None:
            with pytest.raises(BriefError, match=ask.label):
                asking.Asked(to="10", **{option: value}).check()


def test_every_method_that_can_be_asked_for_is_there() -> None:
    assert [word for word, _ in ASKS["method"].ask.choices] == list(METHODS)
