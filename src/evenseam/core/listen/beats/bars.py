"""Beats, metre and downbeats: what the ear heard, decoded, counted, and put into bars.

The ear says for each moment how likely a beat is; beats are decoded from that. The count then says which of their half
beats are the true ones, and the metre and beat one are decided over the whole piece by all signs together.
"""

from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.beats.counting import BeatGrid, Counted, choose_grid, count_along
from evenseam.core.listen.beats.ear import Hearing
from evenseam.core.listen.beats.halves import half_beat_features, half_beat_hops
from evenseam.core.listen.beats.places import find_places, written_meter
from evenseam.core.listen.beats.sureness import Sureness, sureness_signs
from evenseam.core.listen.beats.tracking import by_hop, decode_beats, near_peak
from evenseam.core.listen.features.spectra import Spectra

_HEARD_FROM = 0.25  # likelihood of beats by the ear under which the count is asked whether there are any
_TEMPO_CLEAR_FROM = 0.85  # likelihood of a tempo from which half and double are not spoken of

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class BarTrack:
    """`hops`: float64 (beats,); `place`: int64 (beats,), 0 on downbeats; `meter`: as written, (6, 8) has two beats.

    `beat_sure`: float32 (beats,), how clearly each beat is one; `grid`: by which of the half beats they are the beats; `signs`:
    of how far all of this can be trusted, and `sure`: what follows from them (see `sureness`).
    """

    hops: NDArray[np.float64]
    place: NDArray[np.int64]
    meter: tuple[int, int]
    beat_sure: FloatArray
    grid: BeatGrid
    signs: NDArray[np.float64]

    @property
    def sure(self) -> Sureness:
        """How sure this is of itself."""
        return Sureness.of(self.signs)

    @property
    def beats_per_bar(self) -> int:
        """Beats to the bar, as felt: dotted quarters in compound metres."""
        return self.meter[0] // 3 if self.meter[1] == 8 else self.meter[0]

    @property
    def other_tempo(self) -> float:
        """How many times as fast one might count as well: half or twice, or 0 where that is out of the question."""
        return self.grid.times if self.grid.share < _TEMPO_CLEAR_FROM else 0.0

    def from_to(self, first_hop: float, last_hop: float) -> Self:
        """The same beats, and those before and after them up to where music starts and the last hit falls.

        At the edges the ear has heard too little to be sure, but a listener counts on.
        """
        before = _counted_on(self.hops[:2], -1, first_hop)
        after = _counted_on(self.hops[-2:], 1, last_hop)
        usual = self.beats_per_bar
        place = [
            (self.place[0] - 1 - np.arange(before.size))[::-1] % usual,
            self.place,
            (self.place[-1] + 1 + np.arange(after.size)) % usual,
        ]
        pad = (before.size, after.size)
        hops = np.concatenate([before[::-1], self.hops, after])
        sure = np.pad(self.beat_sure, pad, mode="edge")
        return replace(self, hops=hops, place=np.concatenate(place), beat_sure=sure)


def _counted_on(pair: NDArray[np.float64], way: int, limit: float) -> NDArray[np.float64]:
    """Beats on from the outer one of a pair, at their distance, up to a limit (give or take a seventh of a beat)."""
    step = float(pair[1] - pair[0])
    outer = pair[0] if way < 0 else pair[1]
    room = (limit - outer) * way + 0.15 * step
    return outer + way * step * np.arange(1, max(0, int(room // step)) + 1)


def find_bars(spec: Spectra, heard: Hearing, hops_per_s: float, opening_hop: float) -> BarTrack | None:
    """Decode beats and bars; `opening_hop` is where the music starts. Returns None for recordings too short to have any."""
    decoded = decode_beats(heard, hops_per_s, opening_hop)
    if decoded is None:
        return None
    halves = half_beat_hops(decoded)
    counted = count_along(half_beat_features(spec, heard, halves, hops_per_s))
    grid = choose_grid(counted, halves, hops_per_s, opening_hop)
    at, odds = halves[grid.halves], counted.odds(grid)
    found = find_places(spec, heard, at, opening_hop, hops_per_s, odds, counted.meters)
    meter = written_meter(found.beats_per_bar, spec, heard, at, hops_per_s)
    ear = near_peak(by_hop(heard.beat), halves)
    return BarTrack(
        at.astype(np.float64),
        found.place,
        meter,
        beat_sure=_beat_sure(ear, counted, grid),
        grid=grid,
        signs=sureness_signs(float(ear[::2].mean()), at, counted, grid, found),
    )


def _beat_sure(ear: FloatArray, counted: Counted, grid: BeatGrid) -> FloatArray:
    """How clearly each beat is one: by the ear, or by the count where the ear hears next to nothing.

    Music without drums can have a beat that only its figures tell; the count hears those, and does not find one in music
    that has none: there it is as unsure of every half beat.
    """
    if float(ear[::2].mean()) >= _HEARD_FROM:
        return _with_neighbours(ear)[grid.halves]
    return np.clip(1 - 2 * np.exp(counted.kinds[grid.halves, 0]), 0, 1).astype(np.float32)


def _with_neighbours(sure: FloatArray) -> FloatArray:
    """The highest of each half beat and those beside it: a beat may be clear and have been named half a beat off."""
    padded = np.pad(sure, 1, mode="edge")
    return np.maximum(sure, np.maximum(padded[:-2], padded[2:]))
