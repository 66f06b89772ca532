"""Changes of a spotting sheet: whatever is done, every mark has a name of its own, its place, and its order."""

import contextlib

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.errors import SpotError
from evenseam.core.spot import HIT_KINDS, Hit, Line, Sheet, edit
from evenseam.core.timebase import FrameRate

LENGTH = 500
EMPTY = Sheet(FrameRate(25), LENGTH, suggested_cuts=(50, 120, 300))
frames = st.integers(-20, LENGTH + 20)
steps = st.lists(
    st.one_of(
        st.tuples(st.just("add"), frames, st.sampled_from(HIT_KINDS[:4])),
        st.tuples(st.just("kind"), st.integers(1, 12), st.sampled_from(HIT_KINDS)),
        st.tuples(st.just("move"), st.integers(1, 12), st.integers(-80, 80)),
        st.tuples(st.just("remove"), st.integers(1, 12), st.none()),
        st.tuples(st.just("line"), frames, st.integers(1, 60)),
        st.tuples(st.just("accept"), st.sampled_from((50, 120, 300)), st.none()),
        st.tuples(st.just("cut"), frames, st.none()),
        st.tuples(st.just("join"), frames, st.none()),
        st.tuples(st.just("snap"), st.integers(1, 12), st.none()),
    ),
    max_size=25,
)


def done(sheet: Sheet, what: str, first: int, second: object) -> Sheet:
    match what:
        case "add":
            return edit.add_hits(sheet, (Hit(first, "x", second),))  # type: ignore[arg-type]
        case "kind":
            return edit.change_hit(sheet, first, kind=second)
        case "move":
            return edit.move_hits(sheet, (first,), int(str(second)))
        case "remove":
            return edit.remove_hits(sheet, (first,))
        case "line":
            return edit.add_lines(sheet, (Line(first, first + int(str(second))),))
        case "accept":
            return edit.accept_cuts(sheet, (first,))
        case "snap":
            return edit.snap_hits(sheet, (first,))
    return edit.cut_at(sheet, first) if what == "cut" else edit.join_shots(sheet, first)


@given(steps)
@settings(max_examples=200, deadline=None)
def test_every_step_leaves_a_sheet_that_holds_together_or_changes_nothing(wanted: list) -> None:
    sheet = EMPTY
    for step in wanted:
        with contextlib.suppress(SpotError):
            sheet = done(sheet, *step)
        for marks in (sheet.hits, sheet.lines):
            assert len({m.id for m in marks}) == len(marks)
            assert all(m.id > 0 for m in marks)
        assert [h.at_frames for h in sheet.hits] == sorted(h.at_frames for h in sheet.hits)
        assert all(0 <= h.at_frames <= (h.until_frames or h.at_frames) <= LENGTH for h in sheet.hits)
        assert all(h.kind != "silence" or h.until_frames is not None for h in sheet.hits)
        if sheet.shots:
            assert sum(s.length_frames for s in sheet.shots) == LENGTH, "shots cover the picture"
            assert not set(sheet.suggested_cuts) & {s.start_frames for s in sheet.shots}


def test_a_hit_that_becomes_a_silence_lasts_a_second_and_keeps_its_length_when_it_moves() -> None:
    sheet = edit.add_hits(EMPTY, (Hit(100, "a"), Hit(490, "b")))
    sheet = edit.change_hit(sheet, 1, kind="silence")
    sheet = edit.change_hit(sheet, 1, at_frames=200)
    assert (sheet.hits[0].at_frames, sheet.hits[0].until_frames) == (200, 225)
    sheet = edit.change_hit(sheet, 2, kind="silence")
    assert sheet.hits[1].until_frames == LENGTH
    assert edit.change_hit(sheet, 2, kind="beat").hits[1].until_frames is None


def test_marks_are_numbered_on_and_never_twice() -> None:
    sheet = edit.add_hits(EMPTY, (Hit(5, "a"), Hit(4, "b")))
    again = edit.add_hits(sheet, (Hit(9, "c", id=1), Hit(3, "d", id=77)))
    assert {h.label: h.id for h in again.hits} == {"a": 1, "b": 2, "c": 78, "d": 77}
    with pytest.raises(SpotError, match="20,000 marks"):
        edit.add_hits(sheet, tuple(Hit(1) for _ in range(edit.MOST_MARKS)))
