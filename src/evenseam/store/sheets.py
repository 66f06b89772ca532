"""Spotting sheets and their rows."""

from collections.abc import Sequence
from dataclasses import asdict
from fractions import Fraction
from typing import Any

from evenseam.core.spot import Hit, Line, Sheet, Shot, Slot
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.timebase import FLICKS_PER_S, FrameRate, nearest
from evenseam.store.models import Cue, Picture

_SHEET_COLUMNS = ("hits", "lines", "shots", "suggested_cuts")


def rate_of(picture: Picture) -> FrameRate:
    """A picture's rate."""
    return FrameRate(picture.rate_num, picture.rate_den, picture.drop_frame)


def sheet_of(picture: Picture, cues: Sequence[Cue] = ()) -> Sheet:
    """What was spotted on a picture; its cues as slots, each under its cue's id."""
    kept = picture.sheet
    return Sheet(
        rate_of(picture),
        picture.length_frames,
        picture.start_frames,
        tuple(Shot(*s) for s in kept.shots or ()),
        hits_of(picture),
        tuple(Line(**x) for x in kept.lines or ()),
        tuple(Slot(c.slot_start_frames, slot_end_frames(c, picture), c.number, c.name, id=c.id) for c in cues),
        tuple(kept.suggested_cuts or ()),
    )


def hits_of(picture: Picture) -> tuple[Hit, ...]:
    """The hits that were spotted on a picture."""
    return tuple(Hit(**h) for h in picture.sheet.hits or ())


def slot_end_frames(cue: Cue, picture: Picture) -> int:
    """The frame at which a slot ends, nearest to its exact length; at least one after its start."""
    length = nearest(Fraction(cue.slot_length_flicks, FLICKS_PER_S) * rate_of(picture).fps)
    return cue.slot_start_frames + max(1, length)


def tempo_map_of(picture: Picture) -> TempoMap | None:
    """The tempo map that was laid on a picture, if there is one."""
    kept = picture.sheet.tempo_map
    if kept is None:
        return None
    tempi, metres = ((tuple(event) for event in kept[name]) for name in ("tempi", "metres"))
    held = tuple(kept.get("held", ()))  # maps that were laid before bars could be held have none
    return TempoMap(kept["per_quarter"], tuple(tempi), tuple(metres), kept["bar_one_tick"], held)


def stored_tempo_map(tempo_map: TempoMap) -> dict[str, Any]:
    """A tempo map as it is kept."""
    events = {name: [list(event) for event in getattr(tempo_map, name)] for name in ("tempi", "metres")}
    one = {"per_quarter": tempo_map.per_quarter, **events, "bar_one_tick": tempo_map.bar_one_tick}
    return {**one, "held": list(tempo_map.held)} if tempo_map.held else one


def sheet_fields(sheet: Sheet) -> dict[str, Any]:
    """The columns that hold a sheet, None where it is empty."""
    hits, lines = [asdict(h) for h in sheet.hits], [asdict(x) for x in sheet.lines]
    shots = [[s.start_frames, s.end_frames, s.reel, s.source_start_frames, s.name] for s in sheet.shots]
    return dict(zip(_SHEET_COLUMNS, (v or None for v in (hits, lines, shots, list(sheet.suggested_cuts))), strict=True))
