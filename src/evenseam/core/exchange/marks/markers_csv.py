"""Hits as a table: one row each, in commas; the first row names the columns."""

import csv
import io
import re
from fractions import Fraction

from evenseam.core.errors import SpotError, TimeTextError
from evenseam.core.exchange.marks.read import MarksRead, between_note, nearest_frame
from evenseam.core.exchange.size import check_size
from evenseam.core.spot.sheet import Hit
from evenseam.core.timebase import FrameRate, format_timecode, parse_timecode_frames

_WHOLE, _SECONDS = re.compile(r"[+-]?\d{1,9}", re.ASCII), re.compile(r"[+-]?\d{1,9}(?:\.\d{1,12})?", re.ASCII)
_COLUMNS = ("timecode", "frame", "label", "kind", "weight", "tolerance_frames", "until_frame", "rate", "start")


def write_csv(hits: tuple[Hit, ...], rate: FrameRate, start_frames: int = 0) -> str:
    """Hits with timecode, and frames counted from the picture's first; `rate` and `start` say what they count in."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(_COLUMNS)
    name, start = _rate_name(rate), format_timecode(start_frames, rate)
    for h in hits:
        timecode = format_timecode(h.at_frames + start_frames, rate)
        until = "" if h.until_frames is None else h.until_frames
        table.writerow([timecode, h.at_frames, h.label, h.kind, h.weight, h.tolerance_frames, until, name, start])
    return out.getvalue()


def read_csv(text: str, rate: FrameRate, start_frames: int = 0) -> MarksRead:
    """Hits from a table with a column `timecode`, `frame` or `seconds`; the other columns may be missing.

    A table that says it counts at another rate is converted by time, and that is noted. Raises: SpotError with the row.
    """
    check_size(text)
    rows = list(csv.DictReader(io.StringIO(text.removeprefix("\ufeff"), newline="")))
    names = {(n or "").strip().lower() for n in (rows[0] if rows else {})}
    if not names & {"timecode", "frame", "seconds"}:
        raise SpotError("The first row has to name the columns; one of them has to be timecode, frame or seconds.")
    hits, notes, between = [], set(), 0
    for number, row in enumerate(rows, 2):
        cells = {(k or "").strip().lower(): (v or "").strip() for k, v in row.items() if not isinstance(v, list)}
        try:
            hit, is_between, note = _hit(cells, rate, start_frames)
        except (SpotError, TimeTextError) as error:
            raise SpotError(f"Row {number}: {error.detail}", row=number) from None
        hits.append(hit)
        between += is_between
        notes |= note
    return MarksRead(hits=tuple(hits), notes=(*sorted(notes), *between_note(between)))


def _hit(cells: dict[str, str], rate: FrameRate, start_frames: int) -> tuple[Hit, bool, set[str]]:
    theirs = FrameRate.parse(cells["rate"]) if cells.get("rate") else rate
    start = parse_timecode_frames(cells["start"], theirs) if cells.get("start") else start_frames
    notes = set()
    if theirs.fps != rate.fps:
        notes.add(f"The table counts at {_rate_name(theirs)}; its times were converted to {_rate_name(rate)}.")
    elif cells.get("start") and start != start_frames:
        notes.add("The table counts from another start timecode; its frames were counted from the picture's first.")

    def place(frames: int) -> tuple[int, bool]:
        return nearest_frame(Fraction(frames) / theirs.fps, rate) if theirs.fps != rate.fps else (frames, True)

    if cells.get("frame"):
        at, is_on = place(_whole(cells["frame"], "frame"))
    elif cells.get("timecode"):
        at, is_on = place(parse_timecode_frames(cells["timecode"], theirs) - start)
    else:
        at, is_on = nearest_frame(_seconds(cells.get("seconds", "")), rate)
    until = place(_whole(cells["until_frame"], "until_frame"))[0] if cells.get("until_frame") else None
    kind = cells.get("kind") or "downbeat"
    weight = cells.get("weight") or "should"
    tolerance = _whole(cells.get("tolerance_frames") or "0", "tolerance_frames")
    return Hit(at, cells.get("label", ""), kind, weight, tolerance, until), not is_on, notes  # type: ignore[arg-type]


def _whole(text: str, column: str) -> int:
    if not _WHOLE.fullmatch(text):
        raise SpotError(f"'{text[:40]}' in the column {column} is not a whole number of at most nine digits.")
    return int(text)


def _seconds(text: str) -> Fraction:
    if not _SECONDS.fullmatch(text):
        raise SpotError(f"'{text[:40]}' is not a number of seconds.")
    return Fraction(text)


def _rate_name(rate: FrameRate) -> str:
    name = f"{rate.num}/{rate.den}" if rate.den != 1 else str(rate.num)
    return name + ("df" if rate.drop_frame else "")
