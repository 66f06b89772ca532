"""Corrections: what a person says of a track where it was misheard, kept apart from what was heard."""

import math
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal, Self, get_args

from evenseam.core.chart.chart import Section
from evenseam.core.errors import CorrectionError

MarkKind = Literal["keep", "skip", "guard"]
Point = Literal["opening", "last_hit", "ring_out_end", "trim_start", "trim_end"]
POINTS: tuple[Point, ...] = get_args(Point)
_MOST_MARKS, _LONGEST_LABEL = 200, 40


@dataclass(frozen=True, slots=True)
class TrackMark:
    """A span (samples) that a fit must keep, must skip, or must have no seam in (guard)."""

    kind: MarkKind
    start_samples: int
    end_samples: int


@dataclass(frozen=True, slots=True)
class Corrections:
    """Everything is optional; what is None is as heard.

    `grid`: a Grid in its stored form, in place of the beats that were heard. `points`: opening, last hit, end of the
    ring-out and the two trims, samples. `sections` replace those that were heard.
    """

    grid: dict[str, Any] | None = None
    points: tuple[tuple[Point, int], ...] = ()
    sections: tuple[Section, ...] | None = None
    marks: tuple[TrackMark, ...] = ()

    @property
    def parts(self) -> tuple[str, ...]:
        """What was corrected: of "beats", "sections", "marks" and the points."""
        named = {"beats": self.grid is not None, "sections": self.sections is not None, "marks": bool(self.marks)}
        return (*(name for name, given in named.items() if given), *(name for name, _ in self.points))

    def to_dict(self) -> dict[str, Any]:
        """Stored form (JSON)."""
        return {
            "grid": self.grid,
            "points": dict(self.points),
            "sections": None if self.sections is None else [asdict(s) for s in self.sections],
            "marks": [asdict(m) for m in self.marks],
        }

    @classmethod
    def from_dict(cls, stored: dict[str, Any] | None) -> Self:
        """Inverse of `to_dict`; None gives no corrections."""
        if not stored:
            return cls()
        sections = stored["sections"]
        return cls(
            stored["grid"],
            tuple((name, stored["points"][name]) for name in POINTS if name in stored["points"]),
            None if sections is None else tuple(Section(**s) for s in sections),
            tuple(TrackMark(**m) for m in stored["marks"]),
        )

    def with_point(self, point: Point, at_samples: int | None) -> "Corrections":
        """One point set by hand; None gives it back to what was heard."""
        points = {name: at for name, at in self.points if name != point}
        if at_samples is not None:
            points[point] = at_samples
        return replace(self, points=tuple((name, points[name]) for name in POINTS if name in points))

    def with_mark(self, mark: TrackMark) -> "Corrections":
        """One more span. One of the same kind that it touches grows instead."""
        if mark.start_samples >= mark.end_samples:
            raise CorrectionError("A span must end after it starts.")
        touching = [m for m in self.marks if m.kind == mark.kind and _touch(m, mark)]
        start = min(m.start_samples for m in (mark, *touching))
        end = max(m.end_samples for m in (mark, *touching))
        others = [m for m in self.marks if m not in touching]
        if len(others) >= _MOST_MARKS:
            raise CorrectionError(f"A track can have {_MOST_MARKS} spans at most. Remove some first.")
        merged = [*others, replace(mark, start_samples=start, end_samples=end)]
        return replace(self, marks=tuple(sorted(merged, key=lambda m: (m.start_samples, m.kind))))

    def without_mark(self, mark: TrackMark) -> "Corrections":
        """That span taken away. Raises: CorrectionError when there is none like it."""
        if mark not in self.marks:
            raise CorrectionError("That span is not there any more.")
        return replace(self, marks=tuple(m for m in self.marks if m != mark))


def renamed(sections: tuple[Section, ...], index: int, label: str) -> tuple[Section, ...]:
    """One section under another name."""
    label = " ".join(label.split())[:_LONGEST_LABEL]
    if not label:
        raise CorrectionError("A section needs a name. Type a letter or a word.")
    _check(sections, index)
    return tuple(replace(s, label=label) if k == index else s for k, s in enumerate(sections))


def merged(sections: tuple[Section, ...], index: int) -> tuple[Section, ...]:
    """One section and the next one made one, under the name of the first."""
    _check(sections, index)
    if index + 1 >= len(sections):
        raise CorrectionError("There is no section after this one to merge with.")
    both = replace(sections[index], end_samples=sections[index + 1].end_samples)
    return (*sections[:index], both, *sections[index + 2 :])


def split(sections: tuple[Section, ...], at_samples: int) -> tuple[Section, ...]:
    """The section at a place cut in two; the second part gets the first letter that is free."""
    for k, s in enumerate(sections):
        if s.start_samples < at_samples < s.end_samples:
            used = {x.label for x in sections}
            letter = next((c for c in map(chr, range(65, 91)) if c not in used), "New")
            halves = (replace(s, end_samples=at_samples), Section(at_samples, s.end_samples, letter))
            return (*sections[:k], *halves, *sections[k + 1 :])
    raise CorrectionError("There is no section to split there. Put the playhead on a bar inside one.")


def moved_boundary(sections: tuple[Section, ...], index: int, at_samples: int) -> tuple[Section, ...]:
    """The start of a section moved; the one before it ends there."""
    _check(sections, index)
    low = sections[index - 1].start_samples if index else -math.inf
    if not low < at_samples < sections[index].end_samples:
        raise CorrectionError("A section cannot start before the one before it, or after its own end.")
    out = list(sections)
    out[index] = replace(out[index], start_samples=at_samples)
    if index:
        out[index - 1] = replace(out[index - 1], end_samples=at_samples)
    return tuple(out)


def _check(sections: tuple[Section, ...], index: int) -> None:
    if not 0 <= index < len(sections):
        raise CorrectionError("That section is not there any more.")


def _touch(a: TrackMark, b: TrackMark) -> bool:
    return a.start_samples <= b.end_samples and b.start_samples <= a.end_samples
