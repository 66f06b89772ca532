"""The tempo of a picture on the command line: the table of steady ones, the best of them as MIDI and as a click; and a tempo
map that somebody else wrote, beside the hits.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from evenseam.cli.asking import aim_of
from evenseam.core.chart import Chart
from evenseam.core.errors import FileRefusedError
from evenseam.core.exchange.tempi.bars_csv import write_map_bars
from evenseam.core.exchange.tempi.click_wav import ClickStyle, write_counted
from evenseam.core.exchange.tempi.click_wav import write_click as clicked
from evenseam.core.exchange.tempi.tempo_midi import write_tempo_midi
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.plan import Aim, Brief
from evenseam.core.plan.follow import followed
from evenseam.core.tempo.map_beats import MapBeats
from evenseam.core.tempo.steady import Steady, Struck, find_steady
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.to_hits import bent_to
from evenseam.core.timebase import FrameRate, parse_time

_RATE_HZ = 48_000  # of hits in words, and of the click
_SAME_BPM = 0.01
_AFTER_BARS = 2  # of click after the last hit


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is asked: hits in words, the range, the metre (0 for any), and where bar one starts if that is set."""

    hits: tuple[str, ...]
    fps: str
    low_bpm: float
    high_bpm: float
    meter: int
    starts: str | None
    count: int

    @property
    def rate(self) -> FrameRate:
        """The picture's. Raises: RateUnreadableError."""
        return FrameRate.parse(self.fps)

    def aims(self) -> tuple[Aim, ...]:
        """The hits in order of time. Raises: BriefError, TimeUnreadableError."""
        return tuple(sorted((aim_of(text, self.rate, _RATE_HZ) for text in self.hits), key=lambda aim: aim.at_samples))

    def answers(self) -> tuple[Steady, ...]:
        """The tempi that meet them best. Raises: BriefError, TimeUnreadableError."""
        struck = [_struck(aim) for aim in self.aims()]
        starts_s = None if self.starts is None else float(parse_time(self.starts, self.rate))
        return find_steady(struck, self.low_bpm, self.high_bpm, self.meter or None, starts_s, self.count)


def reported(answers: Sequence[Steady], rate: FrameRate) -> list[dict[str, Any]]:
    """The answers for JSON; how far each hit is off in frames of the picture."""
    return [
        {
            "bpm": one.bpm,
            "meter": one.meter,
            "starts_s": round(one.starts_s, 6),
            "also_bpm": list(one.also_bpm),
            "hits": [
                {"off_s": round(off, 6), "off_frames": round(float(off * rate.fps), 3), "bar": bar, "beat": beat, "met": met}
                for off, (bar, beat), met in zip(one.off_s, one.places, one.is_met, strict=True)
            ],
        }
        for one in answers
    ]


def in_a_table(answers: Sequence[Steady], rate: FrameRate) -> str:
    """The answers a line each."""
    lines = []
    for one in answers:
        met = f"{sum(one.is_met)} of {len(one.is_met)}"
        off = "  ".join(
            f"{bar}.{beat} {float(o * rate.fps):+.2f}{'' if met else ' missed'}"
            for o, (bar, beat), met in zip(one.off_s, one.places, one.is_met, strict=True)
        )
        also = f"  (also {', '.join(f'{bpm:g}' for bpm in one.also_bpm)})" if one.also_bpm else ""
        lines.append(f"{one.bpm:7.2f} bpm in {one.meter}  bar one at {one.starts_s:.3f} s  met {met}  {off}{also}")
    return "\n".join(lines)


@dataclass(frozen=True, slots=True)
class MapFiles:
    """What is written of a tempo map."""

    midi: Path | None = None
    click: Path | None = None
    bars: Path | None = None
    style: ClickStyle | None = None


def laid_beside(file: Path, wanted: Wanted, files: MapFiles, bend_pct: float | None = None) -> tuple[dict[str, Any], str]:
    """A tempo map beside the hits, for JSON and in one line, bent to them by up to `bend_pct` if that is wanted; and as files.

    Raises: FileRefusedError, SpotError.
    """
    aims, tempo_map = wanted.aims(), _map_of(file)
    if bend_pct is not None:
        tempo_map = bent_to(tempo_map, [_struck(aim) for aim in aims], bend_pct, smooth=True)
    beats = _some_bars_after(tempo_map, max(aim.at_samples for aim in aims) / _RATE_HZ)
    rows = [_on_the_map(beats, aim, wanted.rate) for aim in aims]
    begins = beats.bars()
    at_s, bpm = beats.at_s[begins].tolist(), beats.bpm[begins].tolist()
    if files.midi:
        files.midi.write_bytes(write_tempo_midi(tempo_map, _markers(aims)))
    if files.click:
        n_samples = round((float(beats.at_s[-1]) + 1) * _RATE_HZ)
        write_counted(files.click, beats.at_s * _RATE_HZ, beats.beat_in_bar, n_samples, _RATE_HZ, files.style)
    if files.bars:
        files.bars.write_bytes(write_map_bars(at_s, bpm, wanted.rate, 0))
    told = [{"at_s": round(at, 6), "bpm": round(tempo, 3)} for at, tempo in zip(at_s, bpm, strict=True)]
    return {"hits": rows, "bars": told}, _map_in_words(beats, rows)


def following(brief: Brief, chart: Chart, file: Path) -> Brief:
    """The same, bent so that each bar of the track lands on one of a MIDI file.

    Raises: FileRefusedError, SpotError, BriefError.
    """
    beats = _map_of(file).beats(brief.target_samples / chart.rate)
    return replace(brief, method="bend", held_bars=followed(chart, beats.at_s[beats.bars()], brief.target_samples))


def _map_of(file: Path) -> TempoMap:
    try:
        data = file.read_bytes()
    except OSError as error:
        raise FileRefusedError(f"{file} cannot be read: {error.strerror}.") from None
    return read_tempo_midi(data)


def _some_bars_after(tempo_map: TempoMap, last_s: float) -> MapBeats:
    """The beats of a map until some bars after the last hit."""
    beats = tempo_map.beats(last_s)
    bars_s = beats.at_s[beats.bars()]
    return tempo_map.beats(last_s + _AFTER_BARS * float(np.diff(bars_s).max(initial=0)))


def _struck(aim: Aim) -> Struck:
    return Struck.by_kind(aim.at_samples / _RATE_HZ, aim.tolerance_samples / _RATE_HZ, aim.weight, aim.kind, aim.label)


def _markers(aims: Sequence[Aim]) -> tuple[tuple[float, str], ...]:
    return tuple((aim.at_samples / _RATE_HZ, aim.label or f"Hit {k}") for k, aim in enumerate(aims, 1))


def _on_the_map(beats: MapBeats, aim: Aim, rate: FrameRate) -> dict[str, Any]:
    """The beat nearest to a hit, and by how much it is late."""
    hit = _struck(aim)
    place = beats.nearest(hit.at_s, hit.on_downbeat)
    off = {"off_s": round(place.off_s, 6), "off_frames": round(float(place.off_s * rate.fps), 3)}
    return {**off, "bar": place.bar, "beat": place.beat, "met": abs(place.off_s) <= hit.tolerance_s + 1e-9}


def _map_in_words(beats: MapBeats, rows: Sequence[dict[str, Any]]) -> str:
    slowest, fastest = float(beats.bpm.min()), float(beats.bpm.max())
    range_bpm = f"{slowest:.2f}" if fastest - slowest < _SAME_BPM else f"{slowest:.2f} to {fastest:.2f}"
    off = "  ".join(f"{r['bar']}.{r['beat']} {r['off_frames']:+.2f}{'' if r['met'] else ' missed'}" for r in rows)
    return f"{range_bpm} bpm, {beats.bars().size} bars  met {sum(r['met'] for r in rows)} of {len(rows)}  {off}"


def write_midi(path: Path, answer: Steady, aims: Sequence[Aim]) -> None:
    """The tempo map of an answer, with the hits as markers."""
    path.write_bytes(write_tempo_midi(TempoMap.steady(answer.bpm, answer.meter, answer.starts_s), _markers(aims)))


def write_click(path: Path, answer: Steady, aims: Sequence[Aim], style: ClickStyle | None = None) -> int:
    """A click from bar one to some bars after the last hit, to the sample, whose file starts with the picture.

    Returns: by how many seconds the file starts earlier, for its count-in.
    """
    last_s = max(aim.at_samples for aim in aims) / _RATE_HZ + _AFTER_BARS * answer.meter * 60 / answer.bpm
    return clicked(path, answer.bpm, answer.meter, answer.starts_s, last_s, _RATE_HZ, style)
