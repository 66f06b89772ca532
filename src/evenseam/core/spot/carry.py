"""A new version of the picture: what moved, and marks carried along with their shots.

A shot is known again by its reel and the source frames it shows, so it is found wherever it went, and also when it became
longer or shorter. Whatever lies on source frames that the new version still shows goes with them; the rest is listed.
"""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypeVar

from evenseam.core.spot.sheet import Hit, Line, Sheet, Shot, Slot

ShotChange = Literal["same", "moved", "longer", "shorter", "retrimmed", "out", "in"]
_Span = TypeVar("_Span", Line, Slot)


@dataclass(frozen=True, slots=True)
class Moved:
    """What became of a shot: `before` is None for one that is new, `after` for one that is gone."""

    change: ShotChange
    before: Shot | None
    after: Shot | None


@dataclass(frozen=True, slots=True)
class Offer:
    """Where a slot that could not be carried may start: so that its first carried hit meets the same music, or when it did."""

    slot: Slot
    at_first_hit_frames: int | None
    at_old_time_frames: int | None


@dataclass(frozen=True, slots=True)
class Carried:
    """The new version with what could be carried onto it; what could not, as it stood on the old one; and what moved.

    `offers` has one for every slot in `left`.
    """

    sheet: Sheet
    left: tuple[Hit | Line | Slot, ...]
    moved: tuple[Moved, ...]
    touched_slots: tuple[Slot, ...]
    offers: tuple[Offer, ...] = ()


def is_known_again(old: tuple[Shot, ...], new: tuple[Shot, ...]) -> bool:
    """Whether any shot of the new version shows frames of a reel that one of the old ones shows."""
    return bool(_match(old, new))


def carry(old: Sheet, new: Sheet, pairs: Sequence[tuple[int, int]] | None = None) -> Carried:
    """Carry the hits, lines and slots of `old` onto the shots of `new`; what `new` holds itself stays there.

    Parameters: pairs: which old shot is which new one, by their indices, where reels do not say so; a shot that is shorter
    or longer then ends elsewhere, and starts as it did.
    Every mark of `old` is afterwards either on the new sheet or in `left`. A span goes where its start goes and keeps its
    length up to the last of its own frames that is still there; a slot is `touched` when anything under it changed.
    """
    if pairs is None:
        return _carry(old, new)
    of_new = {j: i for i, j in pairs}
    before = tuple(replace(s, reel=f"old {i}", source_start_frames=0) for i, s in enumerate(old.shots))
    named = [f"old {of_new[j]}" if j in of_new else f"new {j}" for j in range(len(new.shots))]
    after = tuple(replace(s, reel=reel, source_start_frames=0) for s, reel in zip(new.shots, named, strict=True))
    carried = _carry(replace(old, shots=before), replace(new, shots=after))
    was, now = dict(zip(before, old.shots, strict=True)), dict(zip(after, new.shots, strict=True))
    moved = tuple(Moved(m.change, m.before and was[m.before], m.after and now[m.after]) for m in carried.moved)
    return replace(carried, sheet=replace(carried.sheet, shots=new.shots), moved=moved)


def _carry(old: Sheet, new: Sheet) -> Carried:
    pairs = _match(old.shots, new.shots)
    places = _Places(old, new, pairs)
    hits = [(hit, _carried_hit(hit, places)) for hit in old.hits]
    lines = [(line, _carried_span(line, places)) for line in old.lines]
    slots = [(slot, _carried_span(slot, places)) for slot in old.slots]
    sheet = replace(
        new,
        hits=tuple(sorted([*new.hits, *(now for _, now in hits if now)], key=_start)),
        lines=tuple(sorted([*new.lines, *(now for _, now in lines if now)])),
        slots=tuple(sorted([*new.slots, *(now for _, now in slots if now)])),
    )
    left: list[Hit | Line | Slot] = [was for was, now in hits if now is None]
    left += [was for was, now in lines if now is None]
    left += [was for was, now in slots if now is None]
    touched = tuple(now for was, now in slots if now and not places.is_untouched(was))
    offers = tuple(_offer(was, hits, new.length_frames) for was, now in slots if now is None)
    return Carried(sheet, tuple(left), _changes(old.shots, new.shots, pairs), touched, offers)


def _offer(slot: Slot, hits: list[tuple[Hit, Hit | None]], length_frames: int) -> Offer:
    inside = [(was, now) for was, now in hits if now and slot.start_frames <= was.at_frames < slot.end_frames]
    first = min(inside, key=lambda pair: pair[0].at_frames, default=None)
    at_hit = None if first is None else max(0, first[1].at_frames - (first[0].at_frames - slot.start_frames))
    return Offer(slot, at_hit, slot.start_frames if slot.start_frames < length_frames else None)


def _start(hit: Hit) -> tuple[int, str]:
    return hit.at_frames, hit.label


def _match(old: tuple[Shot, ...], new: tuple[Shot, ...]) -> dict[int, int]:
    """Which new shot each old one became: of the same reel, most source frames in common, then nearest in order."""
    of_reel: dict[str, list[tuple[int, Shot]]] = {}
    for j, shot in enumerate(new):
        of_reel.setdefault(shot.reel, []).append((j, shot))
    options = sorted(
        (-common, abs(i - j), i, j)
        for i, before in enumerate(old)
        for j, after in of_reel.get(before.reel, ())
        if (common := _common(before, after)) > 0
    )
    pairs: dict[int, int] = {}
    taken: set[int] = set()
    for _, _, i, j in options:
        if i not in pairs and j not in taken:
            pairs[i] = j
            taken.add(j)
    return pairs


def _common(a: Shot, b: Shot) -> int:
    """Source frames that both shots show."""
    last = min(a.source_start_frames + a.length_frames, b.source_start_frames + b.length_frames)
    return last - max(a.source_start_frames, b.source_start_frames)


class _Places:
    """Where frames of the old version are in the new one."""

    def __init__(self, old: Sheet, new: Sheet, pairs: dict[int, int]) -> None:
        self._old, self._new, self._pairs = old.shots, new.shots, pairs
        self._length_frames = new.length_frames
        self._starts = [shot.start_frames for shot in old.shots]
        self._of_reel: dict[str, list[Shot]] = {}
        for shot in new.shots:
            self._of_reel.setdefault(shot.reel, []).append(shot)

    def of(self, frame: int) -> int | None:
        """The new place of an old frame, or None if it is not shown any more. Without shots, frames stay where they are."""
        if not self._old or not self._new:
            return frame if 0 <= frame < self._length_frames else None
        index = bisect_right(self._starts, frame) - 1
        if index < 0 or frame >= self._old[index].end_frames:
            return None
        shot = self._old[index]
        source = shot.source_start_frames + frame - shot.start_frames
        became = [self._new[self._pairs[index]]] if index in self._pairs else []
        # A shot may have been split: what its own heir does not show, another piece of it may.
        for other in (*became, *self._of_reel.get(shot.reel, ())):
            if 0 <= source - other.source_start_frames < other.length_frames:
                return other.start_frames + source - other.source_start_frames
        return None

    def end(self, span: Line | Slot, start: int) -> int | None:
        """Where a span that now starts at `start` ends: after the last of its frames that is still shown later than that."""
        for first, last in reversed(self._pieces(span)):
            for frame in range(last, first - 1, -1):
                place = self.of(frame)
                if place is not None and place >= start:
                    return place + 1
        return None

    def is_untouched(self, span: Line | Slot) -> bool:
        """Whether the same frames lie under a span, in the same order."""
        places = [(frame, self.of(frame)) for piece in self._pieces(span) for frame in self._where_it_may_change(*piece)]
        away = {None if place is None else place - frame for frame, place in places}
        return len(away) == 1 and None not in away

    def _where_it_may_change(self, first: int, last: int) -> list[int]:
        """The frames of a piece on both sides of every place where a shot of the new version begins or ends in it.

        Between two of them all frames went the same way: a cutaway inside the piece shows at its edges.
        """
        if not self._old:
            return [first, last]
        shot = self._old[bisect_right(self._starts, first) - 1]
        away = shot.start_frames - shot.source_start_frames
        edges = {first, last}
        for other in self._of_reel.get(shot.reel, ()):
            for source in (other.source_start_frames, other.source_start_frames + other.length_frames):
                edges |= {source + away - 1, source + away}
        return sorted(frame for frame in edges if first <= frame <= last)

    def _pieces(self, span: Line | Slot) -> list[tuple[int, int]]:
        """First and last frame of a span in each of the old shots that it lies on."""
        if not self._old:
            return [(span.start_frames, span.end_frames - 1)]
        first = max(0, bisect_right(self._starts, span.start_frames) - 1)
        pieces = []
        for shot in self._old[first:]:
            if shot.start_frames >= span.end_frames:
                break
            if shot.end_frames > span.start_frames:
                pieces.append((max(span.start_frames, shot.start_frames), min(span.end_frames, shot.end_frames) - 1))
        return pieces


def _carried_hit(hit: Hit, places: _Places) -> Hit | None:
    at = places.of(hit.at_frames)
    if at is None or hit.until_frames is None:
        return None if at is None else replace(hit, at_frames=at)
    last = places.of(hit.until_frames - 1)
    return None if last is None or last < at else replace(hit, at_frames=at, until_frames=last + 1)


def _carried_span(span: _Span, places: _Places) -> _Span | None:
    start = places.of(span.start_frames)
    end = None if start is None else places.end(span, start)
    return None if start is None or end is None else replace(span, start_frames=start, end_frames=end)


def _changes(old: tuple[Shot, ...], new: tuple[Shot, ...], pairs: dict[int, int]) -> tuple[Moved, ...]:
    gone = [Moved("out", shot, None) for i, shot in enumerate(old) if i not in pairs]
    back = {j: i for i, j in pairs.items()}
    kept = [
        Moved(_change(old[back[j]], shot), old[back[j]], shot) if j in back else Moved("in", None, shot)
        for j, shot in enumerate(new)
    ]
    return (*kept, *gone)


def _change(before: Shot, after: Shot) -> ShotChange:
    if after.length_frames != before.length_frames:
        return "longer" if after.length_frames > before.length_frames else "shorter"
    if after.source_start_frames != before.source_start_frames:
        return "retrimmed"
    return "same" if after.start_frames == before.start_frames else "moved"
