"""What is seen of every key at some places, and what small networks of our own say of it there.

A network sees the tones of all keys and the bands in so many rows around a place. Of each key it looks at how its tone goes, at
its neighbours, its partials and the keys of which it may be a partial, then twice at what it made of those keys themselves, so
that what one note explains is not taken for another; and at the bands in which its lowest partials lie, which move faster than
tones do. Networks of this kind were taught on scores written by our own code (bench/ear/keys.py).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.features.describe import Tones
from evenseam.core.listen.features.networks import network

_PLACES_AT_ONCE = 128

FloatArray = NDArray[np.float32]
Places = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """What is seen around places: `tones` float32 (places, rows, 60), `bands` float32 (places, rows, 48)."""

    tones: FloatArray
    bands: FloatArray


def said_of_keys(name: str, n_places: int, see: Callable[[slice], Seen]) -> FloatArray:
    """How likely it is what the network of this name says, of every key at every place: float32 (places, 60).

    `see`: what there is around some of the places, so that long pieces take no more memory than short ones.
    """
    said = np.zeros((n_places, N_TONES), dtype=np.float32)
    for start in range(0, n_places, _PLACES_AT_ONCE):
        part = slice(start, min(start + _PLACES_AT_ONCE, n_places))
        seen = see(part)
        said[part] = network(name).run(None, {"tones": seen.tones, "bands": seen.bands})[0]
    return said


def rows_at(values: Tones, at: Places) -> FloatArray:
    """`values` (rows, d) at places that may lie between rows, float32 (*at, d); beyond an end they are as at the end."""
    inside = np.clip(at, 0, values.shape[0] - 1)
    low = np.minimum(inside.astype(np.int64), max(0, values.shape[0] - 2))
    high = np.minimum(low + 1, values.shape[0] - 1)
    share = (inside - low).astype(np.float32)[..., None]
    return np.asarray(values[low] * (1 - share) + values[high] * share, dtype=np.float32)


def means_between(values: Tones, start: Places, end: Places) -> FloatArray:
    """Means of `values` (rows, d) from places to others, in parts of rows, float32 (*start, d); nothing beyond the ends."""
    first = int(np.clip(np.floor(start.min()), 0, values.shape[0]))
    last = int(np.clip(np.ceil(end.max()) + 1, first, values.shape[0]))
    sums = np.zeros((last - first + 1, values.shape[1]))
    np.cumsum(values[first:last], axis=0, dtype=np.float64, out=sums[1:])
    # A row is what sounds half a row before and after its place.
    low, high = (np.clip(at + 0.5 - first, 0, last - first) for at in (start, end))
    widths = np.maximum(high - low, 0.01)[..., None]
    return np.asarray((_sum_before(sums, high) - _sum_before(sums, low)) / widths, dtype=np.float32)


def _sum_before(sums: NDArray[np.float64], at: Places) -> NDArray[np.float64]:
    low = np.minimum(at.astype(np.int64), max(0, sums.shape[0] - 2))
    share = (at - low)[..., None]
    return np.asarray(sums[low] * (1 - share) + sums[np.minimum(low + 1, sums.shape[0] - 1)] * share)
