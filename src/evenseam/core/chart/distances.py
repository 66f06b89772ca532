"""How far apart beats, bars and other described things are: plain Euclidean distance of their rows."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]


def all_apart(a: Floats, b: Floats) -> Floats:
    """Distance of each row of `a` from each row of `b`, float32 (rows of a, rows of b)."""
    square = np.square(a).sum(axis=1)[:, None] + np.square(b).sum(axis=1) - 2 * a @ b.T
    return np.asarray(np.sqrt(np.maximum(square, 0)), dtype=np.float32)
