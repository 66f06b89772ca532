"""Sheets as OpenTimelineIO: shots as clips, hits and lines as markers.

The library's times are two floating-point numbers, so only whole frames at the picture's own rate are put into them, and
what comes out is rounded back to whole frames.
"""

import json
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks.read import MarksRead, between_note, hit_from_words, hit_in_words, nearest_frame
from evenseam.core.exchange.size import check_size
from evenseam.core.spot.sheet import Hit, Line, Sheet, Shot
from evenseam.core.timebase import FrameRate, format_timecode

_OURS = "even_seam"
_FURTHEST = 1e9  # frames, or frames a second: more than any picture has
# What the library takes for granted of a file: it reads other objects in these places as if they were what it expects.
_KINDS = {
    "tracks": "Stack",
    "marked_range": "TimeRange",
    "source_range": "TimeRange",
    "available_range": "TimeRange",
    "start_time": "RationalTime",
    "duration": "RationalTime",
    "global_start_time": "RationalTime",
    "in_offset": "RationalTime",
    "out_offset": "RationalTime",
}
_ALWAYS_THERE = ("tracks", "marked_range")
_STANDARD = {"Timeline", "Stack", "Track", "Clip", "Gap", "Transition", "Marker", "TimeRange", "ExternalReference",
             "MissingReference", "GeneratorReference", "ImageSequenceReference"}  # fmt: skip


def write_otio(sheet: Sheet, name: str = "Even Seam") -> str:
    """A sheet as the JSON text of a timeline."""
    rate = float(sheet.rate.fps)

    def span(start: int, end: int) -> Any:
        return otio.opentime.TimeRange(otio.opentime.RationalTime(start, rate), otio.opentime.RationalTime(end - start, rate))

    timeline = otio.schema.Timeline(name, global_start_time=otio.opentime.RationalTime(sheet.start_frames, rate))
    track, now = otio.schema.Track("Picture", kind=otio.schema.TrackKind.Video), 0
    if not sheet.shots:
        track.append(otio.schema.Gap(source_range=span(0, sheet.length_frames)))
    for shot in sheet.shots:
        if shot.start_frames > now:
            track.append(otio.schema.Gap(source_range=span(0, shot.start_frames - now)))
        source = span(shot.source_start_frames, shot.source_start_frames + shot.length_frames)
        track.append(otio.schema.Clip(shot.name, source_range=source, metadata={_OURS: {"reel": shot.reel}}))
        now = shot.end_frames
    timeline.tracks.append(track)
    for hit in sheet.hits:
        until = hit.until_frames or hit.at_frames
        mark = {"hit": hit_in_words(hit)}
        timeline.tracks.markers.append(otio.schema.Marker(hit.label, span(hit.at_frames, until), metadata={_OURS: mark}))
    for line in sheet.lines:
        spoken = span(line.start_frames, line.end_frames)
        timeline.tracks.markers.append(otio.schema.Marker(line.text, spoken, metadata={_OURS: {"line": True}}))
    return str(otio.adapters.write_to_string(timeline, "otio_json"))


def read_otio(text: str, rate: FrameRate, start_frames: int = 0) -> MarksRead:
    """Shots, hits and lines from a timeline: the clips of its first picture track, and the markers of all of it.

    Another rate is converted by time, another start is taken as the picture's; both are noted. Raises: SpotError.
    """
    check_size(text)
    try:
        _check_kinds(text)
        timeline = otio.adapters.read_from_string(text, "otio_json")
        if not isinstance(timeline, otio.schema.Timeline):
            raise SpotError("The file holds no timeline. Export the whole timeline as OpenTimelineIO.")
        return _Reader(rate, start_frames).read(timeline)
    except (otio.exceptions.OTIOError, ValueError, TypeError, KeyError, AttributeError, ArithmeticError, RecursionError):
        raise SpotError("This is not an OpenTimelineIO file that can be read. Export it again.") from None


def _check_kinds(text: str) -> None:
    """Refuse, before the library sees it, what would take it down. Raises: ValueError, RecursionError."""
    waiting = [json.loads(text)]
    while waiting:
        node = waiting.pop()
        if isinstance(node, list):
            waiting += node
        elif isinstance(node, dict):
            waiting += node.values()
            if _kind(node) in _STANDARD and not all(_is_kind(node, key, kind) for key, kind in _KINDS.items() if key in node):
                raise ValueError("an object of another kind than its place asks for")


def _is_kind(node: dict[str, Any], key: str, kind: str) -> bool:
    value = node[key]
    if value is None:
        return key not in _ALWAYS_THERE
    return isinstance(value, dict) and _kind(value) == kind


def _kind(node: dict[str, Any]) -> str:
    return str(node.get("OTIO_SCHEMA", "")).split(".")[0]


class _Reader:
    def __init__(self, rate: FrameRate, start_frames: int) -> None:
        self.rate, self.start = rate, start_frames
        self.between = 0
        self.other: set[float] = set()

    def read(self, timeline: Any) -> MarksRead:
        shots: list[Shot] = []
        hits: list[Hit] = []
        lines: list[Line] = []
        tracks = timeline.video_tracks()
        for clip in tracks[0].find_clips() if tracks else ():
            shots.append(self._shot(clip, timeline))
        for owner in (timeline.tracks, *timeline.tracks.find_children()):
            for marker in owner.markers:
                moved = owner.transformed_time_range(marker.marked_range, timeline.tracks)
                self._mark(marker, moved, hits, lines)
        return MarksRead(tuple(shots), tuple(hits), tuple(lines), self._notes(timeline))

    def _shot(self, clip: Any, timeline: Any) -> Shot:
        at = clip.transformed_time_range(clip.trimmed_range(), timeline.tracks)
        start, end = self._frames(at.start_time), self._frames(at.end_time_exclusive())
        ours = clip.metadata.get(_OURS, {})
        reel = ours.get("reel") if "reel" in ours else (getattr(clip.media_reference, "name", "") or clip.name)
        return Shot(start, end, str(reel), self._frames(clip.trimmed_range().start_time), clip.name)

    def _mark(self, marker: Any, moved: Any, hits: list[Hit], lines: list[Line]) -> None:
        start, end = self._frames(moved.start_time), self._frames(moved.end_time_exclusive())
        ours = marker.metadata.get(_OURS, {})
        if ours.get("line") and end > start:
            lines.append(Line(start, end, marker.name))
        else:
            hits.append(hit_from_words(start, marker.name, str(ours.get("hit", ""))) or Hit(start, marker.name))

    def _frames(self, time: Any) -> int:
        """A time of the library as frames of the picture. Raises: SpotError for one that no picture has."""
        if not (abs(time.value) < _FURTHEST and 0 < time.rate < _FURTHEST):  # false for what is not a number, too
            raise SpotError("The timeline holds a time that no picture has. Export it again.")
        if abs(time.rate - float(self.rate.fps)) < 1e-3:
            return round(time.value)
        self.other.add(time.rate)
        frame, is_on = nearest_frame(Fraction(time.value) / Fraction(time.rate).limit_denominator(1001), self.rate)
        self.between += not is_on
        return frame

    def _notes(self, timeline: Any) -> tuple[str, ...]:
        notes = []
        if self.other:
            rates = ", ".join(f"{r:g}" for r in sorted(self.other))
            notes.append(f"The timeline counts at {rates}; its times were converted to {float(self.rate.fps):g}.")
        if timeline.global_start_time is not None and (start := self._frames(timeline.global_start_time)) != self.start:
            theirs, ours = (format_timecode(f, self.rate) for f in (start, self.start))
            notes.append(f"The timeline starts at {theirs}; its start was laid on the picture's, {ours}.")
        return (*notes, *between_note(self.between))
