"""The grid of beats and bars as something to be put right: every function takes a grid and gives a new one."""

from dataclasses import dataclass, replace
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import Corrections
from evenseam.core.errors import CorrectionError

METERS = ((2, 4), (3, 4), (4, 4), (5, 4), (6, 4), (7, 4), (6, 8), (9, 8), (12, 8))
SLOWEST_BPM, FASTEST_BPM = 20.0, 400.0
_NEAR_S = 0.06  # a beat that is named by its place may be off by so much

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """Beats (samples, rising) with their place in the bar, the metre as written, and the bar lines that were pinned.

    `n_samples` and `rate` are the recording's. `pins` are samples of beats that stay where they are, each a downbeat.
    """

    beats: Ints
    place: Ints
    meter: tuple[int, int]
    n_samples: int
    rate: int
    pins: tuple[int, ...] = ()

    @property
    def beats_per_bar(self) -> int:
        """As felt: dotted quarters in compound metres."""
        return beats_per_bar(self.meter)

    @property
    def tempo_bpm(self) -> float:
        """From the median distance of beats; 0 with fewer than two."""
        return float(60 * self.rate / np.median(np.diff(self.beats))) if self.beats.size > 1 else 0.0

    def to_dict(self) -> dict[str, Any]:
        """Stored form (JSON)."""
        return {
            "beats": self.beats.tolist(),
            "place": self.place.tolist(),
            "meter": list(self.meter),
            "pins": list(self.pins),
        }

    @classmethod
    def from_dict(cls, stored: dict[str, Any], n_samples: int, rate: int) -> Self:
        """Inverse of `to_dict`."""
        beats, place = (np.array(stored[name], dtype=np.int64) for name in ("beats", "place"))
        return cls(beats, place, (stored["meter"][0], stored["meter"][1]), n_samples, rate, tuple(stored["pins"]))


def grid_of(chart: Chart, corrections: Corrections | None = None) -> Grid:
    """The grid to go on correcting: the corrected one if there is one, else what was heard (nothing in free time)."""
    if corrections is not None and corrections.grid is not None:
        return Grid.from_dict(corrections.grid, chart.n_samples, chart.rate)
    if chart.free_time:
        nothing = np.empty(0, dtype=np.int64)
        return Grid(nothing, nothing, (4, 4), chart.n_samples, chart.rate)
    return Grid(chart.beats, chart.beat_in_bar, chart.meter, chart.n_samples, chart.rate)


def beats_per_bar(meter: tuple[int, int]) -> int:
    """Beats to the bar as felt: dotted quarters in compound metres."""
    return meter[0] // 3 if meter[1] == 8 else meter[0]


def halved(grid: Grid) -> Grid:
    """Every other beat, downbeats among them; the metre stays, so that bars are twice as long."""
    first = _anchor(grid)
    kept = np.arange(grid.beats.size) % 2 == first % 2
    return _counted(replace(grid, beats=_beats(grid)[kept], pins=()), int(grid.beats[first]))


def doubled(grid: Grid) -> Grid:
    """A beat between every two; the metre stays, so that bars are half as long."""
    between = np.rint((_beats(grid)[1:] + grid.beats[:-1]) / 2).astype(np.int64)
    return _counted(replace(grid, beats=np.sort(np.concatenate([grid.beats, between]))), int(grid.beats[_anchor(grid)]))


def in_meter(grid: Grid, meter: tuple[int, int]) -> Grid:
    """The same beats in another metre, counted from the first downbeat, and anew from every pinned one."""
    if meter not in METERS:
        raise CorrectionError(f"{meter[0]}/{meter[1]} is not a metre that can be set. Choose one of the list.")
    _beats(grid)
    return _counted(replace(grid, meter=meter), int(grid.beats[_anchor(grid)]))


def beat_one_at(grid: Grid, sample: int) -> Grid:
    """Make the beat at a place the first of its bar, and pin it. Bars are counted on from it to the next pin."""
    beat = _beat_near(grid, sample)
    return _counted(replace(grid, pins=tuple(sorted({*grid.pins, beat}))), beat)


def shifted(grid: Grid, samples: int) -> Grid:
    """All beats earlier or later by so many samples; those that leave the recording are dropped."""
    return _inside(replace(grid, beats=_beats(grid) + samples, pins=tuple(p + samples for p in grid.pins)))


def moved_bar(grid: Grid, from_sample: int, to_sample: int) -> Grid:
    """Put a bar line on another place and pin it.

    The beats up to the pinned bar lines on both sides follow evenly; beyond the outermost pin everything moves along.
    Raises: CorrectionError when it would pass a pinned bar line.
    """
    beat = _beat_near(grid, from_sample)
    if grid.place[np.searchsorted(grid.beats, beat)]:
        raise CorrectionError("Only bar lines can be moved. Take hold of the first beat of a bar.")
    pins = [p for p in grid.pins if p != beat]
    before, after = max((p for p in pins if p < beat), default=None), min((p for p in pins if p > beat), default=None)
    least = grid.rate // 50
    too_early = before is not None and to_sample < before + least * max(1, _count(grid, before, beat))
    too_late = after is not None and to_sample > after - least * max(1, _count(grid, beat, after))
    if too_early or too_late or not 0 <= to_sample < grid.n_samples:
        raise CorrectionError("A bar line cannot be moved past one that is pinned. Move or free that one first.")
    known = sorted(p for p in (before, beat, after) if p is not None)
    away = np.array([to_sample - beat if p == beat else 0 for p in known])
    beats = grid.beats + np.rint(np.interp(grid.beats, known, away)).astype(np.int64)
    moved = _inside(replace(grid, beats=beats, pins=tuple(pins)))
    return replace(moved, pins=tuple(sorted({*moved.pins, to_sample})))


def unpinned(grid: Grid, sample: int) -> Grid:
    """Let go of the pinned bar line near a place; its beats stay where they are."""
    beat = _beat_near(grid, sample)
    return replace(grid, pins=tuple(p for p in grid.pins if p != beat))


def in_tempo(grid: Grid, bpm: float, music: tuple[int, int]) -> Grid:
    """An even grid at a tempo through the first pinned bar line, or the first downbeat, over the music (samples)."""
    if not SLOWEST_BPM <= bpm <= FASTEST_BPM:
        raise CorrectionError(f"A tempo between {SLOWEST_BPM:g} and {FASTEST_BPM:g} bpm can be set.")
    anchor = grid.pins[0] if grid.pins else int(grid.beats[_anchor(grid)]) if grid.beats.size else music[0]
    step = 60 * grid.rate / bpm
    ahead = int(max(0, (anchor - music[0]) // step))
    beats = np.rint(anchor + step * np.arange(-ahead, max(1, (music[1] - anchor) // step + 1))).astype(np.int64)
    return _counted(replace(_inside(replace(grid, beats=beats, place=np.zeros_like(beats), pins=())), pins=(anchor,)), anchor)


def _beats(grid: Grid) -> Ints:
    if grid.beats.size < 2:
        raise CorrectionError("There are no beats to change yet. Set a tempo, or tap along, first.")
    return grid.beats


def _beat_near(grid: Grid, sample: int) -> int:
    beats = _beats(grid)
    nearest = int(beats[np.abs(beats - sample).argmin()])
    if abs(nearest - sample) > max(_NEAR_S * grid.rate, 0.5 * float(np.median(np.diff(beats)))):
        raise CorrectionError("There is no beat near that place.")
    return nearest


def _anchor(grid: Grid) -> int:
    """Index of the first downbeat; 0 when there is none."""
    downbeats = np.flatnonzero(grid.place == 0)
    return int(downbeats[0]) if downbeats.size else 0


def _count(grid: Grid, low: int, high: int) -> int:
    return int(np.count_nonzero((grid.beats > low) & (grid.beats <= high)))


def _counted(grid: Grid, one: int) -> Grid:
    """Places counted on from the pinned bar lines, or from `one`; before the first of them counted back."""
    n = beats_per_bar(grid.meter)
    heads = np.searchsorted(grid.beats, sorted(p for p in grid.pins if p in set(grid.beats.tolist())) or [one])
    index = np.arange(grid.beats.size)
    head = heads[np.clip(np.searchsorted(heads, index, side="right") - 1, 0, None)]
    return replace(grid, place=(index - head) % n)


def _inside(grid: Grid) -> Grid:
    kept = (grid.beats >= 0) & (grid.beats < grid.n_samples)
    if np.count_nonzero(kept) < 2:
        raise CorrectionError("That would move the beats out of the recording.")
    beats = grid.beats[kept]
    return replace(grid, beats=beats, place=grid.place[kept], pins=tuple(p for p in grid.pins if p in set(beats.tolist())))
