"""Where a sweep looks in its source: along its map, but at the music's own speed around everything that is struck."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.attacks import find_attacks
from evenseam.core.audio.sound import Sound
from evenseam.core.timebase.time_map import TimeMap

_CHUNK_S, _MARGIN_S = 8.0, 0.5  # looked for chunk by chunk, so that every place has the same attacks however it is asked for
_LEAST_RISE = 0.5  # of log energy: an attack is about three times what was there before
_APART_S = 0.045
_BACK_ON_MAP_S = 0.25  # after an attack the music has this long to be back on the map
_AROUND_S = 2.0  # attacks further away than this change nothing

Read = Callable[[int, int], Sound]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Source:
    """Sound to be played along a map: `read(start, stop)` gives float32 (channels, stop - start), silence outside it."""

    read: Read
    channels: int
    rate: int


class Places:
    """Source places of output frames whose windows are `window_samples` long. Attacks lie exactly where the map says."""

    def __init__(self, source: Source, time_map: TimeMap, window_samples: int) -> None:
        self._source, self._map, self._half = source, time_map, window_samples // 2
        self._back, self._around = (round(s * source.rate) for s in (_BACK_ON_MAP_S, _AROUND_S))
        self._pins = np.array([k.out_samples for k in time_map.knots], dtype=np.int64)
        self._attacks: dict[int, Ints] = {}

    def under(self, out_samples: Ints) -> tuple[Ints, NDArray[np.bool_]]:
        """The source sample under each of these output samples, which rise, and whether something is struck near it."""
        low, high = self._map.source_at(out_samples[[0, -1]])
        attacks = self._attacks_between(int(low) - self._around, int(high) + self._around)
        knots_out, knots_source = self._knots(attacks, int(out_samples[0]), int(out_samples[-1]))
        places = np.rint(np.interp(out_samples, knots_out, knots_source)).astype(np.int64)
        first, after = (np.searchsorted(attacks, places + side) for side in (-self._half, self._half))
        return places, after > first

    def _knots(self, attacks: Ints, first_out: int, last_out: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The map, with a stretch of the music's own speed around every attack, as output and source places."""
        at = np.rint(self._map.out_at(attacks)).astype(np.int64)
        room = np.minimum(np.diff(attacks), np.diff(at)) // 3
        width = np.minimum(np.minimum(np.append(room, self._half), np.insert(room, 0, self._half)), self._half)
        ends = (first_out - 2 * self._around, last_out + 2 * self._around)
        edges = np.concatenate([ends[:1], np.stack([at - width, at + width], axis=1).ravel(), ends[1:]])
        plain = np.unique([*ends, *(p for a, b in zip(edges[::2], edges[1::2], strict=True) for p in self._between(a, b))])
        out = np.concatenate([edges[1:-1], plain])
        source = np.concatenate([np.stack([attacks - width, attacks + width], axis=1).ravel(), self._map.source_at(plain)])
        order = np.argsort(out, kind="stable")
        return out[order].astype(np.float64), source[order]

    def _between(self, a: int, b: int) -> list[int]:
        """Output places between two attacks that lie on the map: its own knots, and where an attack is over."""
        inside = self._pins[(self._pins > a) & (self._pins < b)].tolist()
        return [*inside, a + self._back, b - self._back] if b - a > 2 * self._back else inside

    def _attacks_between(self, low: int, high: int) -> Ints:
        size = round(_CHUNK_S * self._source.rate)
        found = np.concatenate([self._attacks_of(c, size) for c in range(low // size, high // size + 1)])
        return found[(found >= low) & (found < high)]

    def _attacks_of(self, chunk: int, size: int) -> Ints:
        if chunk not in self._attacks:
            margin = round(_MARGIN_S * self._source.rate)
            start = chunk * size - margin
            found = start + clear_attacks(self._source.read(start, start + size + 2 * margin), self._source.rate)
            self._attacks[chunk] = found[(found >= chunk * size) & (found < (chunk + 1) * size)]
        return self._attacks[chunk]


def clear_attacks(sound: Sound, rate: int, least_rise: float = _LEAST_RISE) -> Ints:
    """Samples where something is struck: the highest rises of log energy, none nearer than 45 ms to a higher one."""
    attacks = find_attacks(np.ascontiguousarray(sound.mean(axis=0)), rate)
    near = max(1, round(_APART_S * rate / attacks.step))
    highest = np.lib.stride_tricks.sliding_window_view(np.pad(attacks.rise, near), 2 * near + 1).max(axis=1)
    return np.flatnonzero((attacks.rise >= highest) & (attacks.rise > least_rise)).astype(np.int64) * attacks.step
