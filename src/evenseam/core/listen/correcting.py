"""The chart as it is used: what was heard, with what a person put right."""

from dataclasses import replace
from typing import Any

import numpy as np

from evenseam.core.audio.attacks import snap_to_attacks
from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import Corrections, Point
from evenseam.core.chart.grid import Grid, grid_of
from evenseam.core.errors import CorrectionError
from evenseam.core.listen.beats.ear import STEP_HOPS
from evenseam.core.listen.beats.tracking import follow_tempo, near_steps
from evenseam.core.listen.features.describe import beat_features, beat_intensity, mean_between
from evenseam.core.listen.form.sections import parts_of
from evenseam.core.listen.harmony.pitches import pitches
from evenseam.core.listen.harmony.ringing import ringing
from evenseam.core.listen.heard import Heard

_FEWEST_TAPS, _LEAST_TAPPED_S = 4, 1.0
_FIELDS: dict[Point, str] = {
    "opening": "opening_samples",
    "last_hit": "last_hit_samples",
    "ring_out_end": "ring_out_end_samples",
    "trim_start": "trim_start_samples",
    "trim_end": "trim_end_samples",
}


def corrected(chart: Chart, heard: Heard, corrections: Corrections) -> Chart:
    """The chart with corrections. Beats that were set are described anew from what was heard; O(beats), milliseconds.

    Raises: CorrectionError when the points contradict each other.
    """
    changed = chart if corrections.grid is None else _on_grid(chart, heard, grid_of(chart, corrections))
    changed = _with_points(changed, dict(corrections.points), anew=corrections.grid is not None)
    return changed if corrections.sections is None else replace(changed, sections=corrections.sections)


def tapped(grid: Grid, taps: list[int], heard: Heard) -> Grid:
    """Beats at the tempo of taps (samples, one a beat, the first on beat one), followed through the whole piece.

    A hand gives tempo and place only roughly: the beats themselves are those most likely heard near it, on their attacks.
    Raises: CorrectionError with fewer than four taps, or when they are not even.
    """
    at = np.unique(np.array(taps, dtype=np.float64))
    if at.size < _FEWEST_TAPS or at[-1] - at[0] < _LEAST_TAPPED_S * grid.rate:
        raise CorrectionError(f"Tap at least {_FEWEST_TAPS} beats in a row, while the track plays.")
    usual = float(np.median(np.diff(at)))
    steps = np.cumsum(np.concatenate([[0], np.maximum(1, np.rint(np.diff(at) / usual))]))
    interval, start = np.polyfit(steps, at, 1)
    if float(np.abs(start + interval * steps - at).max()) > 0.3 * interval:
        raise CorrectionError("The taps are too uneven to read a tempo from. Tap once on every beat.")
    hops_per_s = grid.rate / float(heard.samples_per_hop)
    hops = follow_tempo(heard.beat, hops_per_s, 60 * grid.rate / float(interval), at / float(heard.samples_per_hop))
    mono = snap_to_attacks((hops * float(heard.samples_per_hop / heard.samples_per_mono)).astype(np.float64), heard.attacks)
    beats = np.unique(np.rint(mono * float(heard.samples_per_mono)).astype(np.int64))
    beats = beats[(beats >= 0) & (beats < grid.n_samples)]
    if beats.size < _FEWEST_TAPS:
        raise CorrectionError("The track is too short to follow a tempo in it.")
    one = int(np.abs(beats - start).argmin())
    place = (np.arange(beats.size) - one) % grid.beats_per_bar
    return replace(grid, beats=beats, place=place, pins=())


def _on_grid(chart: Chart, heard: Heard, grid: Grid) -> Chart:
    hops = grid.beats / float(heard.samples_per_hop)
    features = beat_features(heard.bands, heard.chroma, heard.tones, hops)
    sections, loops = parts_of(features, grid.beats, grid.place, grid.beats_per_bar, chart.ring_out_end_samples)
    return replace(
        chart,
        free_time=False,
        meter=grid.meter,
        tempo_bpm=grid.tempo_bpm,
        other_tempo_bpm=0.0,
        beats=grid.beats,
        beat_in_bar=grid.place,
        features=features,
        beat_sure=near_steps(heard.beat, hops, 2),
        intensity=beat_intensity(heard.bands, heard.rise, hops),
        voice=mean_between(heard.voice, hops / STEP_HOPS),
        lead=mean_between(heard.lead, hops / STEP_HOPS),
        rings=ringing(heard.tones, heard.bands, hops),
        pitches=pitches(heard.tones, heard.bands, hops),
        sections=sections,
        loops=loops,
    )


def _with_points(chart: Chart, points: dict[Point, int], anew: bool) -> Chart:
    """The points set by hand, and those that follow from them. `anew`: the opening is looked for among new beats.

    A trim that was set is where the music that is used begins or ends: what lies outside is not played.
    """
    by_field: dict[str, Any] = {_FIELDS[name]: at for name, at in points.items()}
    near = chart.rate // 20
    start, end = points.get("trim_start", chart.music_start_samples), points.get("trim_end", chart.n_samples)
    by_field["music_start_samples"] = min(start, points.get("opening", start))
    if "opening" not in points and (anew or "trim_start" in points):
        begin = points.get("trim_start", chart.trim_start_samples)
        downbeats = chart.downbeats[chart.downbeats >= begin - near]
        by_field["opening_samples"] = int(downbeats[0]) if downbeats.size else begin
    if "ring_out_end" not in points:
        by_field["ring_out_end_samples"] = min(chart.ring_out_end_samples, end)
    if "last_hit" not in points and chart.last_hit_samples >= end - near:
        before = chart.beats[chart.beats < end - near]
        by_field["last_hit_samples"] = int(before[-1]) if before.size else max(0, end - near)
    if "trim_end" in points:
        by_field["music_end_samples"] = end
    changed = replace(chart, **by_field)
    _check_points(changed)
    return changed


def _check_points(chart: Chart) -> None:
    order = (0, chart.trim_start_samples, chart.trim_end_samples, chart.n_samples)
    if not order[0] <= order[1] < order[2] <= order[3]:
        raise CorrectionError("The trimmed track must begin before it ends, inside the recording.")
    if not chart.opening_samples < chart.last_hit_samples <= chart.ring_out_end_samples <= chart.n_samples:
        raise CorrectionError("Opening, last hit and the end of the ring-out must come in this order.")
