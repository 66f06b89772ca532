"""Changes of a spotting sheet, one at a time. Each takes a sheet and gives the next one, or says why it cannot be."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any, TypeVar

from evenseam.core.errors import SpotError
from evenseam.core.spot.sheet import Hit, Line, Sheet, Shot

_Mark = TypeVar("_Mark", Hit, Line)
MOST_MARKS = 20_000


def add_hits(sheet: Sheet, hits: tuple[Hit, ...]) -> Sheet:
    """Further hits, each under an id of its own. Raises: SpotError for one beside the picture."""
    for hit in hits:
        _check_inside(sheet, hit.at_frames, hit.until_frames or hit.at_frames)
    return replace(sheet, hits=_added(sheet.hits, hits))


def change_hit(sheet: Sheet, hit_id: int, **fields: Any) -> Sheet:
    """Other values for a hit. A silence that becomes something else loses its end; the other way round it lasts a second.

    A silence that is moved keeps its length. Raises: SpotError.
    """
    hit = _find(sheet.hits, hit_id)
    kind, at = fields.get("kind", hit.kind), fields.get("at_frames", hit.at_frames)
    if kind != "silence":
        fields["until_frames"] = None
    elif fields.get("until_frames") is None:
        last = hit.until_frames or hit.at_frames + sheet.rate.nominal_fps
        fields["until_frames"] = min(at + last - hit.at_frames, sheet.length_frames)
    after = replace(hit, **fields)
    _check_inside(sheet, after.at_frames, after.until_frames or after.at_frames)
    return replace(sheet, hits=_sorted((*(h for h in sheet.hits if h.id != hit_id), after)))


def move_hits(sheet: Sheet, ids: tuple[int, ...], by_frames: int) -> Sheet:
    """Several hits earlier or later by as many frames; none leaves the picture. Raises: SpotError."""
    for hit_id in ids:
        hit = _find(sheet.hits, hit_id)
        until = None if hit.until_frames is None else hit.until_frames + by_frames
        sheet = change_hit(sheet, hit_id, at_frames=hit.at_frames + by_frames, until_frames=until)
    return sheet


def snap_hits(sheet: Sheet, ids: tuple[int, ...]) -> Sheet:
    """Hits moved to the nearest shot change each, suggested ones too. Raises: SpotError when there are none."""
    cuts = sorted({*(s.start_frames for s in sheet.shots), *sheet.suggested_cuts} - {0})
    if not cuts:
        raise SpotError("There is no shot change to snap to. Add a film or an edit list, or cut by hand.")
    for hit_id in ids:
        at = _find(sheet.hits, hit_id).at_frames
        nearest = min(cuts, key=lambda cut: (abs(cut - at), cut))
        sheet = move_hits(sheet, (hit_id,), nearest - at)
    return sheet


def remove_hits(sheet: Sheet, ids: tuple[int, ...]) -> Sheet:
    """Without these hits; those that are gone already are no error."""
    return replace(sheet, hits=tuple(h for h in sheet.hits if h.id not in ids))


def add_lines(sheet: Sheet, lines: tuple[Line, ...]) -> Sheet:
    """Further dialogue lines, each under an id of its own. Raises: SpotError for one beside the picture."""
    for line in lines:
        _check_inside(sheet, line.start_frames, line.end_frames)
    return replace(sheet, lines=_added(sheet.lines, lines))


def change_line(sheet: Sheet, line_id: int, **fields: Any) -> Sheet:
    """Other values for a line. Raises: SpotError."""
    after = replace(_find(sheet.lines, line_id), **fields)
    _check_inside(sheet, after.start_frames, after.end_frames)
    return replace(sheet, lines=_sorted((*(x for x in sheet.lines if x.id != line_id), after)))


def remove_lines(sheet: Sheet, ids: tuple[int, ...]) -> Sheet:
    """Without these lines."""
    return replace(sheet, lines=tuple(x for x in sheet.lines if x.id not in ids))


def accept_cuts(sheet: Sheet, frames: tuple[int, ...]) -> Sheet:
    """Make shots of suggested cuts: each splits the shot that it lies in. Others stay suggested."""
    wanted = set(frames) & set(sheet.suggested_cuts)
    cuts = sorted(wanted)
    whole = sheet.shots or (Shot(0, sheet.length_frames),)
    shots = tuple(piece for shot in whole for piece in _split(shot, cuts))
    return replace(sheet, shots=shots, suggested_cuts=tuple(f for f in sheet.suggested_cuts if f not in wanted))


def drop_cuts(sheet: Sheet, frames: tuple[int, ...]) -> Sheet:
    """Throw suggestions away."""
    return replace(sheet, suggested_cuts=tuple(f for f in sheet.suggested_cuts if f not in frames))


def cut_at(sheet: Sheet, frame: int) -> Sheet:
    """A new shot from a frame on, set by hand. Raises: SpotError where one begins already, or beside the picture."""
    if not 0 < frame < sheet.length_frames or any(s.start_frames == frame for s in sheet.shots):
        raise SpotError("A shot begins here already. Go to another frame, and cut there.")
    return accept_cuts(replace(sheet, suggested_cuts=tuple(sorted({*sheet.suggested_cuts, frame}))), (frame,))


def join_shots(sheet: Sheet, frame: int) -> Sheet:
    """Take back the cut at a frame: the shot before goes on through it. Raises: SpotError where there is none."""
    after = next((i for i, s in enumerate(sheet.shots) if s.start_frames == frame), 0)
    if after == 0:
        raise SpotError("No shot begins here that follows another one. Go to a cut, and join there.")
    before, gone = sheet.shots[after - 1], sheet.shots[after]
    joined = replace(before, end_frames=gone.end_frames)
    return replace(sheet, shots=(*sheet.shots[: after - 1], joined, *sheet.shots[after + 1 :]))


def with_shots(sheet: Sheet, shots: tuple[Shot, ...]) -> Sheet:
    """Other shots. Raises: SpotError when they go on after the picture's end."""
    if shots and shots[-1].end_frames > sheet.length_frames:
        raise SpotError(
            f"The list is {shots[-1].end_frames:,} frames long, the picture {sheet.length_frames:,}. If it is a new cut, read "
            "it as a new version of the picture."
        )
    return replace(sheet, shots=shots, suggested_cuts=())


def free_ids(sheet: Sheet) -> Sheet:
    """The same with ids for all marks that have none."""
    return replace(sheet, hits=_added((), sheet.hits), lines=_added((), sheet.lines))


def ids_above(sheet: Sheet, before: Sheet, above: int) -> Sheet:
    """The same with ids higher than `above` for all marks that `before` does not have; those of others are taken."""
    old = {*before.hits, *before.lines}
    hits = _added(before.hits, [h for h in sheet.hits if h not in old], above)
    lines = _added(before.lines, [x for x in sheet.lines if x not in old], above)
    return replace(sheet, hits=hits, lines=lines)


def _split(shot: Shot, cuts: list[int]) -> tuple[Shot, ...]:
    """A shot in pieces at those of the sorted cuts that lie inside it."""
    inside = cuts[bisect_right(cuts, shot.start_frames) : bisect_left(cuts, shot.end_frames)]
    edges = pairwise((shot.start_frames, *inside, shot.end_frames))
    away = shot.source_start_frames - shot.start_frames
    return tuple(replace(shot, start_frames=a, end_frames=b, source_start_frames=a + away) for a, b in edges)


def _added(marks: tuple[_Mark, ...], more: Sequence[_Mark], above: int = 0) -> tuple[_Mark, ...]:
    if len(marks) + len(more) > MOST_MARKS:
        raise SpotError(f"A picture can carry {MOST_MARKS:,} marks of a kind. Take some away first.")
    first = max((above, *(m.id for m in (*marks, *more)))) + 1
    known = {m.id for m in marks}
    named: list[_Mark] = []
    for number, mark in enumerate(more):
        is_free = mark.id > above and mark.id not in known
        named.append(mark if is_free else replace(mark, id=first + number))
        known.add(named[-1].id)
    return _sorted(marks + tuple(named))


def _sorted(marks: tuple[_Mark, ...]) -> tuple[_Mark, ...]:
    """By place; what lies on the same frame in the order in which it came."""
    return tuple(sorted(marks, key=lambda m: (m.at_frames if isinstance(m, Hit) else m.start_frames, m.id)))


def _find(marks: tuple[_Mark, ...], mark_id: int) -> _Mark:
    found = next((m for m in marks if m.id == mark_id), None)
    if found is None:
        raise SpotError("This mark is not there any more. Reload the page.", id=mark_id)
    return found


def _check_inside(sheet: Sheet, first: int, last: int) -> None:
    if not 0 <= first <= last <= sheet.length_frames:
        raise SpotError(f"The picture has the frames 0 to {sheet.length_frames:,}; marks have to lie on them.")
