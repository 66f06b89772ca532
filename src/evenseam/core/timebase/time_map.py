"""A time map: which place of one timeline sounds at which place of another."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True)
class Knot:
    """A sample of the output, and the sample of the source that sounds there."""

    out_samples: int
    source_samples: int


@dataclass(frozen=True, slots=True)
class TimeMap:
    """Piecewise linear through its knots, which rise strictly on both sides; beyond its ends it goes on as it ends."""

    knots: tuple[Knot, ...]

    def __post_init__(self) -> None:
        if len(self.knots) < 2:
            raise ValueError("a time map needs two knots")
        for a, b in pairwise(self.knots):
            if b.out_samples <= a.out_samples or b.source_samples <= a.source_samples:
                raise ValueError(f"the knots of a time map must rise: {a} is followed by {b}")

    def speeds(self) -> NDArray[np.float64]:
        """Source samples per output sample between any two knots; (knots - 1,)."""
        out, source = self._columns()
        return np.diff(source) / np.diff(out)

    def source_at(self, out_samples: NDArray[np.int64]) -> NDArray[np.float64]:
        """Where in the source each of these output samples is; float64, same shape."""
        out, source = self._columns()
        return _through(np.asarray(out_samples, dtype=np.float64), out, source)

    def out_at(self, source_samples: NDArray[np.int64]) -> NDArray[np.float64]:
        """Where in the output each of these source samples sounds; float64, same shape."""
        out, source = self._columns()
        return _through(np.asarray(source_samples, dtype=np.float64), source, out)

    def _columns(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        out = np.array([k.out_samples for k in self.knots], dtype=np.float64)
        return out, np.array([k.source_samples for k in self.knots], dtype=np.float64)


def _through(x: NDArray[np.float64], xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.float64]:
    """Each point on the line of its own stretch: exact to far less than a sample wherever the map may start."""
    left = np.minimum(np.maximum(np.searchsorted(xs, x, side="right") - 1, 0), xs.size - 2)
    slope = (ys[left + 1] - ys[left]) / (xs[left + 1] - xs[left])
    return ys[left] + (x - xs[left]) * slope
