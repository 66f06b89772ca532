"""Undo of lists: what a step did to a list is taken back from the list as it is now, and what came since stays."""

from collections.abc import Iterable
from typing import Any


def patched(now: Any, was: Any, becomes: Any) -> Any:
    """A value brought from `was` to `becomes`, though it may have changed since it was `was`.

    Rows with an `id` and lists of numbers are brought there one by one: what is in neither of the two is left as it is now.
    Everything else simply becomes `becomes`. None stands for an empty list.
    """
    sides = [v or [] for v in (now, was, becomes) if v is None or isinstance(v, list)]
    if len(sides) == 3 and now != was:
        if all(isinstance(row, dict) and "id" in row for side in sides for row in side):
            return _rows(*sides) or None
        if all(isinstance(value, int) for side in sides for value in side):
            current, before, after = (set(side) for side in sides)
            return sorted((current - (before - after)) | (after - before)) or None
    return becomes


def touches_row(before: list[Any] | None, after: list[Any] | None, row_id: int | str, names: Iterable[str]) -> bool:
    """Whether any of some fields of a row differ between two lists of rows; a row that comes or goes differs in all."""
    was, now = ({row["id"]: row for row in side or ()}.get(row_id, {}) for side in (before, after))
    return any(was.get(name) != now.get(name) for name in names)


def _rows(now: list[dict[str, Any]], was: list[dict[str, Any]], becomes: list[dict[str, Any]]) -> list[dict[str, Any]]:
    before, after = ({row["id"]: row for row in side} for side in (was, becomes))
    rows = {}
    for row in now:
        key = row["id"]
        if key in before and key not in after:
            continue
        changed = {k: v for k, v in after.get(key, {}).items() if key in before and v != before[key].get(k)}
        rows[key] = {**row, **changed}
    rows |= {key: row for key, row in after.items() if key not in before and key not in rows}
    return sorted(rows.values(), key=lambda row: (row.get("at_frames", row.get("start_frames", 0)), row["id"]))
