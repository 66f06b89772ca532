"""The steps in which a chart is put right, as they come in. Places are samples of the recording."""

from dataclasses import replace
from typing import Literal

from pydantic import Field

from evenseam.api.base import Input
from evenseam.core.chart import Chart, Corrections, MarkKind, Point, TrackMark, corrections, grid
from evenseam.core.errors import CorrectionError
from evenseam.core.listen import tapped
from evenseam.services.correcting import Correcting, on_grid, on_sections
from evenseam.services.planners import Uncorrected

_LATEST = 3 * 3600 * 192_000
_POINT_WORDS: dict[Point, str] = {
    "opening": "the opening",
    "last_hit": "the last hit",
    "ring_out_end": "the end of the ring-out",
    "trim_start": "the trim of the head",
    "trim_end": "the trim of the tail",
}


class Halve(Input):
    """Every other beat only: the track is at half the tempo that was heard."""

    kind: Literal["halve"]


class Double(Input):
    """A beat between every two."""

    kind: Literal["double"]


class SetMeter(Input):
    """The metre as written."""

    kind: Literal["meter"]
    meter: Literal["2/4", "3/4", "4/4", "5/4", "6/4", "7/4", "6/8", "9/8", "12/8"]


class BeatOne(Input):
    """The beat at a place is the first of its bar."""

    kind: Literal["beat_one"]
    at_samples: int = Field(ge=0, le=_LATEST)


class Shift(Input):
    """All beats later (or earlier, below zero) by milliseconds."""

    kind: Literal["shift"]
    by_ms: float = Field(ge=-5000, le=5000, strict=False)


class SetTempo(Input):
    """An even grid at a tempo."""

    kind: Literal["tempo"]
    bpm: float = Field(gt=0, le=1000, strict=False)


class Tap(Input):
    """Where a hand tapped the beat, the first tap on beat one."""

    kind: Literal["tap"]
    taps_samples: list[int] = Field(min_length=1, max_length=2000)


class MoveBar(Input):
    """A bar line put elsewhere, and pinned there."""

    kind: Literal["move_bar"]
    from_samples: int = Field(ge=0, le=_LATEST)
    to_samples: int = Field(ge=0, le=_LATEST)


class FreeBar(Input):
    """A pinned bar line let go."""

    kind: Literal["free_bar"]
    at_samples: int = Field(ge=0, le=_LATEST)


class SetPoint(Input):
    """Opening, last hit, end of the ring-out or a trim; null gives it back to what was heard."""

    kind: Literal["point"]
    point: Point
    at_samples: int | None = Field(ge=0, le=_LATEST)


class AcceptTrim(Input):
    """The suggested trim, head and tail."""

    kind: Literal["accept_trim"]


class SectionEdit(Input):
    """A section renamed, merged with the next, or started elsewhere (on the nearest bar)."""

    kind: Literal["rename_section", "merge_section", "move_section"]
    index: int = Field(ge=0)
    label: str = Field("", max_length=200)
    at_samples: int = Field(0, ge=0, le=_LATEST)


class SplitSection(Input):
    """The section at a place cut in two on the nearest bar."""

    kind: Literal["split_section"]
    at_samples: int = Field(ge=0, le=_LATEST)


class MarkEdit(Input):
    """A span to keep, to skip, or to keep free of seams, added or taken away."""

    kind: Literal["add_mark", "remove_mark"]
    mark: MarkKind
    start_samples: int = Field(ge=0, le=_LATEST)
    end_samples: int = Field(ge=0, le=_LATEST)


Edit = (
    Halve | Double | SetMeter | BeatOne | Shift | SetTempo | Tap | MoveBar | FreeBar | SetPoint | AcceptTrim
    | SectionEdit | SplitSection | MarkEdit
)  # fmt: skip


def correcting_of(wanted: Edit) -> tuple[str, Correcting]:  # noqa: C901 - one line an edit
    """What an edit does, in words for undo, and the correcting itself."""
    match wanted:
        case Halve():
            return "halving the tempo", on_grid(lambda g, *_: grid.halved(g))
        case Double():
            return "doubling the tempo", on_grid(lambda g, *_: grid.doubled(g))
        case SetMeter():
            beats, unit = (int(v) for v in wanted.meter.split("/"))
            return f"setting {wanted.meter}", on_grid(lambda g, *_: grid.in_meter(g, (beats, unit)))
        case BeatOne():
            return "setting beat one", on_grid(lambda g, *_: grid.beat_one_at(g, wanted.at_samples))
        case Shift():
            words = f"shifting the beats by {wanted.by_ms:g} ms"
            return words, on_grid(lambda g, *_: grid.shifted(g, round(wanted.by_ms * g.rate / 1000)))
        case SetTempo():
            words = f"setting {wanted.bpm:g} bpm"
            return words, on_grid(lambda g, _, c: grid.in_tempo(g, wanted.bpm, (c.music_start_samples, c.last_hit_samples)))
        case Tap():
            return "tapping the tempo", on_grid(lambda g, heard, _: tapped(g, wanted.taps_samples, heard.heard))
        case MoveBar():
            return "moving a bar line", on_grid(lambda g, *_: grid.moved_bar(g, wanted.from_samples, wanted.to_samples))
        case FreeBar():
            return "freeing a bar line", on_grid(lambda g, *_: grid.unpinned(g, wanted.at_samples))
        case SetPoint():
            return f"setting {_POINT_WORDS[wanted.point]}", lambda before, *_: before.with_point(
                wanted.point, wanted.at_samples
            )
        case AcceptTrim():
            return "trimming", _accept_trim
        case MarkEdit():
            span = TrackMark(wanted.mark, wanted.start_samples, wanted.end_samples)
            if wanted.kind == "add_mark":
                return f"marking a {wanted.mark}", lambda before, *_: before.with_mark(span)
            return f"removing a {wanted.mark}", lambda before, *_: before.without_mark(span)
        case _:
            return _section_change(wanted)


def _accept_trim(before: Corrections, heard: Uncorrected, _chart: Chart) -> Corrections:
    """Both ends of the suggested trim that take something away."""
    chart, after = heard.chart, before
    if chart.trim_start_samples > 0:
        after = after.with_point("trim_start", chart.trim_start_samples)
    if chart.trim_end_samples < chart.n_samples:
        after = after.with_point("trim_end", chart.trim_end_samples)
    if after == before:
        raise CorrectionError("There is nothing to trim: the music fills the whole recording, or it is trimmed already.")
    return after


def _section_change(wanted: SectionEdit | SplitSection) -> tuple[str, Correcting]:
    if wanted.kind == "rename_section":
        return "renaming a section", on_sections(lambda s: corrections.renamed(s, wanted.index, wanted.label))
    if wanted.kind == "merge_section":
        return "merging two sections", on_sections(lambda s: corrections.merged(s, wanted.index))

    def on_bar(before: Corrections, _heard: Uncorrected, chart: Chart) -> Corrections:
        at = chart.nearest_bar(wanted.at_samples)
        sections = chart.sections
        if isinstance(wanted, SplitSection):
            return replace(before, sections=corrections.split(sections, at))
        return replace(before, sections=corrections.moved_boundary(sections, wanted.index, at))

    return "splitting a section" if isinstance(wanted, SplitSection) else "moving a section", on_bar
