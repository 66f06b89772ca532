"""Seams by name: whatever cut a fit has, it is one seam, and it stays one when beats are put right."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from evenseam.core.chart.grid import doubled, grid_of, shifted
from evenseam.core.plan import Brief, SeamName
from evenseam.core.plan.seams import by_places
from tests.conftest import heard

RISING = st.lists(st.integers(1000, 60_000), min_size=2, max_size=60).map(np.cumsum)


@given(RISING, st.data())
def test_a_cut_near_its_beats_has_their_name_and_a_name_is_its_own(beats: np.ndarray, data: st.DataObject) -> None:
    a, b = (data.draw(st.integers(0, beats.size - 1)) for _ in range(2))

    def near(k: int) -> int:
        gaps = np.diff(beats)
        before, after = gaps[max(0, k - 1)], gaps[min(k, gaps.size - 1)]
        return int(beats[k]) + data.draw(st.integers(-((int(before) - 1) // 2), (int(after) - 1) // 2))

    name = SeamName(near(a), near(b))
    assert name.places(beats) == (a, b)
    assert name.on(beats) == SeamName(int(beats[a]), int(beats[b])) == name.on(beats).on(beats)


@given(RISING, st.data())
def test_every_place_has_the_nearest_beat(beats: np.ndarray, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, int(beats[-1]) + 50_000))
    (found, _) = SeamName(at, 0).places(beats)
    assert abs(beats[found] - at) == np.abs(beats - at).min()


def test_what_was_said_last_counts_where_one_seam_has_two_names() -> None:
    beats = np.array([0, 1000, 2000, 3000])
    said = by_places([(SeamName(990, 2010), "first"), (SeamName(0, 3000), "other"), (SeamName(1000, 2000), "last")], beats)
    assert said == {(1, 2): "last", (0, 3): "other"}


@pytest.mark.parametrize("slug", ["first_light", "lantern_path"])
def test_fits_of_other_lengths_and_corrected_beats_have_seams_of_one_name(slug: str) -> None:
    track = heard(slug)
    beats, rate = track.chart.beats, track.chart.rate
    plan = track.planner.plan(Brief(40 * rate))
    names = [SeamName(s.source_from_samples, s.source_to_samples).on(beats) for s in plan.seams]
    assert names
    kept = track.planner.plan(Brief(40 * rate + rate // 2, kept_seams=tuple(names), give_pct=3.0))
    again = [SeamName(s.source_from_samples, s.source_to_samples).on(beats) for s in kept.seams]
    assert set(names) & set(again), "asked for by name, had by name"
    heard_grid = grid_of(track.chart)
    for corrected in (shifted(heard_grid, rate // 50), doubled(heard_grid)):
        now = corrected.beats
        moved = [
            abs(int(now[place]) - at)
            for n in names
            for place, at in zip(n.places(now), (n.leaves_samples, n.enters_samples), strict=True)
        ]
        assert max(moved) <= rate // 50, "a beat that was moved by a little, or has others beside it, is still that beat"
