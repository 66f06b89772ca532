"""Marks on a picture, and what becomes of them when the picture is cut anew."""

from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.errors import SpotError
from evenseam.core.spot import HIT_KINDS, WEIGHTS, Carried, Hit, Line, Sheet, Shot, Slot, carry
from evenseam.core.timebase import FrameRate

RATE = FrameRate(25)


def sheet_of(takes: list[tuple[str, int, int]], **marks: tuple) -> Sheet:
    """A sheet whose shots are (reel, first source frame, frames), one after the other."""
    shots, at = [], 0
    for reel, source, length in takes:
        shots.append(Shot(at, at + length, reel, source))
        at += length
    return Sheet(RATE, at, shots=tuple(shots), **marks)


takes = st.lists(st.tuples(st.sampled_from("ABC"), st.integers(0, 300), st.integers(1, 80)), min_size=1, max_size=8)


@st.composite
def spotted(draw: st.DrawFn) -> Sheet:
    cut = draw(takes)
    length = sum(n for _, _, n in cut)
    frame = st.integers(0, length - 1)
    spans = st.tuples(frame, frame).map(lambda ab: (min(ab), max(ab) + 1))
    hits = [
        Hit(f, f"h{k}", draw(st.sampled_from(HIT_KINDS[:4])), draw(st.sampled_from(WEIGHTS)), k)
        for k, f in enumerate(draw(st.lists(frame, max_size=6)))
    ]
    hits += [Hit(a, "quiet", "silence", until_frames=b) for a, b in draw(st.lists(spans, max_size=2))]
    lines = tuple(Line(a, b, f"l{k}") for k, (a, b) in enumerate(draw(st.lists(spans, max_size=4))))
    slots = tuple(Slot(a, b, f"1m{k}") for k, (a, b) in enumerate(draw(st.lists(spans, max_size=4))))
    return sheet_of(cut, hits=tuple(hits), lines=lines, slots=slots)


def source_at(sheet: Sheet, frame: int) -> tuple[str, int]:
    shot = next(s for s in sheet.shots if s.start_frames <= frame < s.end_frames)
    return shot.reel, shot.source_start_frames + frame - shot.start_frames


def names(marks: Iterable[Hit | Line | Slot]) -> list[str]:
    """What tells marks apart wherever they are."""
    return sorted(
        f"{type(m).__name__} {getattr(m, 'label', '')}{getattr(m, 'text', '')}{getattr(m, 'number', '')}" for m in marks
    )


@given(spotted(), takes)
@settings(max_examples=200, deadline=None)
def test_a_new_cut_loses_no_mark_and_puts_each_on_the_frame_it_was_made_for(old: Sheet, cut: list) -> None:
    result = carry(old, sheet_of(cut))
    new = result.sheet
    assert sorted(names([*new.hits, *new.lines, *new.slots]) + names(result.left)) == names([*old.hits, *old.lines, *old.slots])
    was = {h.label: h for h in old.hits if h.kind != "silence"}
    for hit in new.hits:
        if hit.kind != "silence":
            assert source_at(new, hit.at_frames) == source_at(old, was[hit.label].at_frames)
    for span in (*new.lines, *new.slots):
        assert 0 <= span.start_frames < span.end_frames <= new.length_frames
    assert len([m for m in result.moved if m.after is not None]) == len(new.shots)
    assert len([m for m in result.moved if m.before is not None]) == len(old.shots)
    check_offers(old, result)


def check_offers(old: Sheet, result: Carried) -> None:
    """Every slot that is left may go where its first carried hit then meets the same music, or where it was."""
    assert [offer.slot for offer in result.offers] == [m for m in result.left if isinstance(m, Slot)]
    at = {h.label: h.at_frames for h in result.sheet.hits}
    for offer in result.offers:
        slot, length = offer.slot, result.sheet.length_frames
        assert offer.at_old_time_frames == (slot.start_frames if slot.start_frames < length else None)
        inside = [h for h in old.hits if slot.start_frames <= h.at_frames < slot.end_frames and h.label in at]
        assert offer.at_first_hit_frames is None or inside
        if offer.at_first_hit_frames and all(h.kind != "silence" for h in old.hits):  # those have one name between them
            first = min(h.at_frames for h in inside)
            ways = {at[h.label] - (first - slot.start_frames) for h in inside if h.at_frames == first}
            assert offer.at_first_hit_frames in ways


@given(spotted(), takes)
@settings(max_examples=100, deadline=None)
def test_shots_that_are_said_to_be_the_same_take_their_marks_along_whatever_their_reels(old: Sheet, cut: list) -> None:
    new = sheet_of(cut)
    pairs = [(k, k) for k in range(min(len(old.shots), len(new.shots)))]
    result = carry(old, new, pairs)
    assert result.sheet.shots == new.shots
    assert {(m.before, m.after) for m in result.moved if m.before and m.after} == {
        (old.shots[i], new.shots[j]) for i, j in pairs
    }
    for hit in old.hits:
        if hit.kind == "silence":
            continue
        index = next(k for k, s in enumerate(old.shots) if s.start_frames <= hit.at_frames < s.end_frames)
        into = hit.at_frames - old.shots[index].start_frames
        stays = index < len(pairs) and into < new.shots[index].length_frames
        wanted = [new.shots[index].start_frames + into] if stays else []
        assert [h.at_frames for h in result.sheet.hits if h.label == hit.label] == wanted
    check_offers(old, result)


@given(spotted())
def test_the_same_cut_changes_nothing(old: Sheet) -> None:
    result = carry(old, Sheet(RATE, old.length_frames, shots=old.shots))
    if (
        len({(s.reel, k) for s in old.shots for k in range(s.source_start_frames, s.source_start_frames + s.length_frames)})
        < old.length_frames
    ):
        return  # a frame that is shown twice may be found in the other place
    assert result.left == ()
    assert result.touched_slots == ()
    assert {m.change for m in result.moved} == {"same"}
    assert sorted(result.sheet.hits, key=repr) == sorted(old.hits, key=repr)


def test_says_what_moved_and_which_cues_need_another_look() -> None:
    old = sheet_of(
        [("A", 0, 100), ("B", 0, 50), ("C", 0, 80), ("D", 10, 40)],
        hits=(Hit(20, "slit opens"), Hit(120, "lamp"), Hit(160, "dome turns"), Hit(150, "hush", "silence", until_frames=170)),
        slots=(Slot(0, 90, "1m1"), Slot(100, 250, "1m2")),
    )
    result = carry(old, sheet_of([("A", 0, 100), ("X", 0, 25), ("C", 10, 60), ("D", 10, 45)]))
    assert [(m.change, (m.after or m.before).reel) for m in result.moved] == [
        ("same", "A"),
        ("in", "X"),
        ("shorter", "C"),
        ("longer", "D"),
        ("out", "B"),
    ]  # type: ignore[union-attr]
    assert [(h.label, h.at_frames) for h in result.sheet.hits] == [("slit opens", 20), ("dome turns", 125)]
    assert [getattr(m, "label", getattr(m, "number", "")) for m in result.left] == ["lamp", "hush", "1m2"]
    assert result.touched_slots == ()


def is_untouched_frame_by_frame(old: Sheet, cut: list[tuple[str, int, int]], slot: Slot) -> bool:
    """Every frame under the slot lies under it in the new version as well, one after the other, from where it went."""
    alone = [
        carry(replace(old, slots=(Slot(f, f + 1, "f"),)), sheet_of(cut)).sheet.slots
        for f in range(slot.start_frames, slot.end_frames)
    ]
    return all(len(found) == 1 for found in alone) and all(
        b[0].start_frames - a[0].start_frames == 1 for a, b in pairwise(alone)
    )


@given(spotted(), takes)
@settings(max_examples=60, deadline=None)
def test_a_cue_is_looked_at_again_when_any_frame_under_it_changed(old: Sheet, cut: list) -> None:
    result = carry(old, sheet_of(cut))
    touched = {s.number for s in result.touched_slots}
    for slot in result.sheet.slots:
        was = next(s for s in old.slots if s.number == slot.number)
        assert (slot.number in touched) == (not is_untouched_frame_by_frame(old, cut, was))


def test_a_cutaway_inside_a_shot_is_a_change_under_the_cue() -> None:
    old = sheet_of([("A", 0, 100), ("B", 0, 50)], slots=(Slot(10, 90, "1m1"), Slot(105, 140, "1m2")))
    result = carry(old, sheet_of([("A", 0, 40), ("X", 0, 20), ("A", 60, 40), ("B", 0, 50)]))
    assert [s.number for s in result.touched_slots] == ["1m1"]


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: Hit(5, kind="bang"),
        lambda: Hit(5, tolerance_frames=-1),
        lambda: Hit(5, kind="silence"),
        lambda: Hit(5, until_frames=9),
        lambda: Slot(5, 5),
        lambda: Sheet(RATE, 0),
        lambda: Sheet(RATE, 50, shots=(Shot(0, 30), Shot(20, 50))),
    ],
)  # type: ignore[arg-type]
def test_refuses_marks_that_make_no_sense(wrong) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(SpotError):
        wrong()


def test_without_shots_marks_stay_where_they_are_as_far_as_the_picture_goes() -> None:
    old = Sheet(
        RATE, 200, hits=(Hit(50, "lamp"), Hit(180, "card")), lines=(Line(90, 150, "Welcome."),), slots=(Slot(0, 200, "1m1"),)
    )
    result = carry(old, Sheet(RATE, 120))
    assert [h.label for h in result.sheet.hits] == ["lamp"]
    assert result.sheet.lines == (Line(90, 120, "Welcome."),)
    assert result.sheet.slots == (Slot(0, 120, "1m1"),)
    assert result.left == (Hit(180, "card"),)


def test_a_shot_that_was_split_takes_its_marks_along_on_both_sides() -> None:
    old = sheet_of([("A", 0, 100), ("B", 0, 60)], hits=(Hit(20, "one"), Hit(80, "two"), Hit(110, "three")))
    result = carry(old, sheet_of([("A", 0, 50), ("B", 0, 60), ("A", 60, 40)]))
    assert [(h.label, h.at_frames) for h in result.sheet.hits] == [("one", 20), ("three", 60), ("two", 130)]
    assert result.left == ()
