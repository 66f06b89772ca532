"""The curve of speed through held places: as smooth as can be, within a range.

How long each beat lasts, beside what it lasts on the track, is to change as little as can be from beat to beat, while the
beats between two held places last as long as they must. That is least squares with linear conditions, and has one answer,
from one linear system (for instance Boyd and Vandenberghe 2004, 10.1.1).
"""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from evenseam.core.tempo.landing import Held

_TOWARDS_OWN = 1e-3  # of what a change from beat to beat counts: the track's own speed, where nothing else decides

_STEADY = 1e-6

Floats = NDArray[np.float64]


def bent(beats: NDArray[np.int64], held: Sequence[Held], give: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Samples of the track and of the output that belong together, from the first of the held places to the last.

    beats: int64, rising; held: in order, each between two of which the speed changes by no more than `give` on average. What
    comes after the last has its own speed. Returns: int64 (n,) each, with every held place among them, exact, and no beat where
    the speed stays as it is. No stretch changes its speed by more than `give`.
    """
    first, last = held[0].source_samples, held[-1].source_samples
    inside = beats[(beats > first) & (beats < last)]
    source = np.union1d(inside, [h.source_samples for h in held])
    lasts = np.diff(source)
    spans = np.searchsorted(source, [h.source_samples for h in held])
    wanted = np.diff([h.out_samples for h in held])
    even = np.concatenate([np.full(b - a, out / lasts[a:b].sum()) for (a, b), out in zip(pairwise(spans), wanted, strict=True)])
    ratios = _within(_smooth(lasts, spans, wanted), even, give)
    out = held[0].out_samples + np.concatenate([[0.0], np.cumsum(ratios * lasts)])
    rounded = np.rint(out).astype(np.int64)
    rounded[spans] = [h.out_samples for h in held]
    turns = np.abs(np.diff(ratios)) > _STEADY
    kept = np.concatenate([[True], turns, [True]])
    kept[spans] = True
    return source[kept], rounded[kept]


def _smooth(lasts: NDArray[np.int64], spans: NDArray[np.int64], wanted: NDArray[np.int64]) -> Floats:
    """Output for each sample of the track, beat by beat, that changes least; (beats,)."""
    n, share = lasts.size, lasts / lasts.mean()
    # The last step is the one to what follows, which has its own speed.
    from scipy.sparse import bmat, csr_matrix, diags  # loaded where a curve is wanted
    from scipy.sparse.linalg import spsolve

    step = diags([np.ones(n), -np.ones(n - 1)], [0, 1], shape=(n, n))
    last = np.append(np.zeros(n - 1), 1.0)
    hessian = step.T @ step + _TOWARDS_OWN * diags([share], [0])
    rows = np.repeat(np.arange(wanted.size), np.diff(spans))
    conditions = csr_matrix((share, (rows, np.arange(n))), shape=(wanted.size, n))
    right = np.concatenate([last + _TOWARDS_OWN * share, wanted / lasts.mean()])
    solved = spsolve(bmat([[hessian, conditions.T], [conditions, None]], format="csc"), right)
    return np.asarray(solved[:n], dtype=np.float64)


def _within(smooth: Floats, even: Floats, give: float) -> Floats:
    """The smooth curve, brought so near to one speed a span that it stays within range; both last as long as they must."""
    low, high = 1 / (1 + give), 1 / (1 - give)
    room = np.where(smooth > even, high - even, even - low)
    over = np.abs(smooth - even)
    share = np.divide(np.maximum(room, 0), over, out=np.ones_like(over), where=over > 0)
    return even + min(1.0, float(share.min(initial=1.0))) * (smooth - even)
