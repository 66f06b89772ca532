"""From each form a plan was kept in to the next one. None of this ever changes: what was kept has to open for ever."""

from collections.abc import Callable
from itertools import pairwise
from typing import Any

Stored = dict[str, Any]


def from_1(stored: Stored) -> Stored:
    """Seams came to be of two kinds; before that all were on beats."""
    return {**stored, "version": 2, "seams": [{"kind": "beat", **s} for s in stored["seams"]]}


def from_2(stored: Stored) -> Stored:
    """Anchors were places of the renderer's joins as well; only those where the speed changes hold anything.

    What the renderer did by itself is said now: a short fade at a head that is cut, and one at the end.
    """
    rate, passages = stored["rate"], stored["passages"]
    pins = [[{"source_samples": s, "out_samples": o} for s, o in _bends(anchors)] for anchors in passages]
    last_hit = round(passages[-1][-2][1] + 0.018 * rate) if len(passages[-1]) > 2 else None
    head = round(0.002 * rate) if passages[0][0][0] > 0 else 0
    return {
        **stored,
        "version": 3,
        "passages": [{"pins": p} for p in pins],
        "rests": [],
        "hits": [],
        "opening": {"kind": "own"},
        "landing": {"kind": "ring_out", "last_hit_samples": last_hit},
        "fade_in": {"n_samples": head, "shape": "linear"},
        "fade_out": {"n_samples": round(0.010 * rate), "shape": "linear"},
        "gain_db": 0.0,
    }


UPGRADES: tuple[Callable[[Stored], Stored], ...] = (from_1, from_2)


def _bends(anchors: list[list[int]]) -> list[list[int]]:
    """The first and the last anchor, and those of the others that lie off the line between their neighbours."""
    kept = [anchors[0]]
    for at, after in pairwise(anchors[1:]):
        (s0, o0), (s, o), (s1, o1) = kept[-1], at, after
        if abs(s0 + (o - o0) * (s1 - s0) / (o1 - o0) - s) > 2:  # anchors were rounded to the sample, both ways
            kept.append(at)
    return [*kept, anchors[-1]]
