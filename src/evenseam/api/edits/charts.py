"""Corrections of a chart: from what comes in to what is done, in words and as a function."""

from dataclasses import replace

from evenseam.api.schemas.corrections import (
    AcceptTrim,
    BeatOne,
    Double,
    Edit,
    FreeBar,
    Halve,
    MarkEdit,
    MoveBar,
    SectionEdit,
    SetMeter,
    SetPoint,
    SetTempo,
    Shift,
    SplitSection,
    Tap,
)
from evenseam.core.chart import Chart, Corrections, Point, TrackMark, corrections, grid
from evenseam.core.errors import CorrectionError
from evenseam.core.listen import tapped
from evenseam.services.correcting import Correcting, on_grid, on_sections
from evenseam.services.planners import Uncorrected

_POINT_WORDS: dict[Point, str] = {
    "opening": "the opening",
    "last_hit": "the last hit",
    "ring_out_end": "the end of the ring-out",
    "trim_start": "the trim of the head",
    "trim_end": "the trim of the tail",
}


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
