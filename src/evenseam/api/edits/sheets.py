"""Changes of a spotting sheet: from what comes in to what is done, in words and as a function."""

from collections.abc import Callable
from typing import Any

from evenseam.api.schemas.sheets import AddHit, AddLine, ChangeHit, ChangeLine, CutsEdit, Edit, HitsEdit, MoveHits, RemoveLines
from evenseam.core.spot import Hit, Line, Sheet, edit
from evenseam.core.timebase import is_relative, parse_position
from evenseam.services.sheets import Editing, SeenRow


def editing_of(wanted: Edit) -> tuple[str, Editing]:
    """What an edit does, in words for undo, and the editing itself."""
    match wanted:
        case AddHit():
            hit = Hit(**wanted.model_dump(exclude={"edit"}))
            return f"marking {wanted.label or 'a hit'}", lambda s: edit.add_hits(s, (hit,))
        case ChangeHit():
            return "changing a hit", lambda s: edit.change_hit(s, wanted.id, **_hit_fields(s, wanted))
        case MoveHits():
            words = f"moving {_count(wanted.ids, 'hit')} by {wanted.by_frames:+d} frames"
            return words, lambda s: edit.move_hits(s, tuple(wanted.ids), wanted.by_frames)
        case HitsEdit(edit="remove_hits"):
            return f"removing {_count(wanted.ids, 'hit')}", lambda s: edit.remove_hits(s, tuple(wanted.ids))
        case HitsEdit():
            return f"snapping {_count(wanted.ids, 'hit')}", lambda s: edit.snap_hits(s, tuple(wanted.ids))
        case AddLine():
            line = Line(wanted.start_frames, wanted.end_frames, wanted.text)
            return "marking a line", lambda s: edit.add_lines(s, (line,))
        case ChangeLine():
            return "changing a line", lambda s: edit.change_line(s, wanted.id, **_line_fields(s, wanted))
        case RemoveLines():
            return f"removing {_count(wanted.ids, 'line')}", lambda s: edit.remove_lines(s, tuple(wanted.ids))
        case CutsEdit():
            return _cuts(wanted)
        case _:
            at = wanted.at_frames
            return ("cutting a shot", lambda s: edit.cut_at(s, at)) if wanted.edit == "cut" else (
                "joining two shots", lambda s: edit.join_shots(s, at)
            )  # fmt: skip


def seen_of(wanted: Edit) -> SeenRow | None:
    """The row that an edit sets to something absolute, and the revision it was looked at in; None for anything else."""
    if not isinstance(wanted, ChangeHit | ChangeLine) or wanted.revision is None:
        return None
    typed = (wanted.at, wanted.until) if isinstance(wanted, ChangeHit) else (wanted.start, wanted.end)
    if any(is_relative(text) for text in typed):
        return None
    return SeenRow(wanted.revision, "hits" if isinstance(wanted, ChangeHit) else "lines", wanted.id)


def _cuts(wanted: CutsEdit) -> tuple[str, Editing]:
    make: Callable[[Sheet, tuple[int, ...]], Sheet]
    verb, make = ("accepting", edit.accept_cuts) if wanted.edit == "accept_cuts" else ("dropping", edit.drop_cuts)
    count = "all shot changes" if wanted.frames is None else _count(wanted.frames, "shot change")
    return f"{verb} {count}", lambda s: make(s, s.suggested_cuts if wanted.frames is None else tuple(wanted.frames))


def _count(things: list[int], name: str) -> str:
    return f"a {name}" if len(things) == 1 else f"{len(things)} {name}s"


def _hit_fields(sheet: Sheet, wanted: ChangeHit) -> dict[str, Any]:
    fields = wanted.model_dump(include={"label", "kind", "weight", "tolerance_frames", "at_frames"}, exclude_none=True)
    here = next((h for h in sheet.hits if h.id == wanted.id), None)
    if here is None:
        return fields
    if wanted.at is not None:
        fields["at_frames"] = parse_position(wanted.at, sheet.rate, here.at_frames, sheet.start_frames)
    if wanted.until is not None:
        from_here = here.until_frames or here.at_frames
        fields["until_frames"] = parse_position(wanted.until, sheet.rate, from_here, sheet.start_frames)
    return fields


def _line_fields(sheet: Sheet, wanted: ChangeLine) -> dict[str, Any]:
    here = next((x for x in sheet.lines if x.id == wanted.id), None)
    fields: dict[str, Any] = {} if wanted.text is None else {"text": wanted.text}
    for side in ("start", "end"):
        typed = getattr(wanted, side)
        if typed is not None and here is not None:
            own = getattr(here, f"{side}_frames")
            fields[f"{side}_frames"] = parse_position(typed, sheet.rate, own, sheet.start_frames)
    return fields
