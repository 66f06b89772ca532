"""Taking back what a step did to a list, while others go on changing it."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from evenseam.store.patches import patched

Rows = list[dict[str, Any]]
rows = st.lists(st.integers(1, 12), unique=True, max_size=8).map(
    lambda ids: [{"id": k, "at_frames": 10 * k, "label": ""} for k in sorted(ids)]
)


@given(rows, rows)
def test_a_list_that_nobody_touched_becomes_what_it_was(was: Rows, becomes: Rows) -> None:
    assert (patched(was or None, was or None, becomes) or []) == becomes


@given(rows, st.integers(20, 30), st.integers(40, 50))
def test_undo_of_a_mark_leaves_those_that_came_since(before: Rows, mine: int, theirs: int) -> None:
    """Somebody marks a hit, a scan carries others onto the sheet, the hit is taken back, and put there again."""
    mark, carried = ({"id": k, "at_frames": k, "label": "x"} for k in (mine, theirs))
    after = [*before, mark]
    now = [*after, carried]
    back = patched(now, after, before or None)
    assert {row["id"] for row in back} == {row["id"] for row in before} | {theirs}
    again = patched(back, before or None, after)
    assert sorted(again, key=lambda r: r["id"]) == sorted(now, key=lambda r: r["id"])


@given(rows.filter(bool), st.data())
def test_undo_of_a_change_leaves_other_changes_of_the_same_mark(was: Rows, data: st.DataObject) -> None:
    k = data.draw(st.integers(0, len(was) - 1))
    moved = [{**row, "at_frames": 777} if i == k else row for i, row in enumerate(was)]
    named = [{**row, "label": "door"} if i == k else row for i, row in enumerate(moved)]
    back = next(row for row in patched(named, moved, was) if row["id"] == was[k]["id"])
    assert back == {**was[k], "label": "door"}


@given(st.sets(st.integers(0, 20)), st.sets(st.integers(0, 20)), st.sets(st.integers(30, 40)))
def test_numbers_come_and_go_one_by_one(was: set[int], becomes: set[int], since: set[int]) -> None:
    made = patched(sorted(was | since), sorted(was), sorted(becomes)) or []
    assert set(made) == becomes | since


def test_anything_else_becomes_what_it_is_to_be() -> None:
    assert patched("c", "a", "b") == "b"
    assert patched(5, 3, None) is None
    assert patched([["x"]], [["y"]], [["z"]]) == [["z"]]
