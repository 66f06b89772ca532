"""Shots of a new version of a film, known again in the old one by how they look."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from evenseam.core.spot.sheet import Shot

_LEAST_OVERLAP_FRAMES = 6
_MOST_DIFFERENCE = 4.0  # of 255, mean over the squares of the frames compared
_PROBES = 24
_STILL = 0.25
_MOVED = 0.1
_CANDIDATES = 12

Likeness = NDArray[np.uint8]


def matched_shots(old: tuple[Shot, ...], old_seen: Likeness, new: tuple[Shot, ...], new_seen: Likeness) -> tuple[Shot, ...]:
    """The new shots with reel and source frames of the old ones whose picture they show; others keep their own.

    Parameters: old_seen, new_seen: uint8 (frames, 9, 16), see `Scan.likeness`. Shots lie on their frames.
    Notes: a new shot is slid along each of the old ones that look most like it, and lies where the frames that both show
    differ least. A shot that stands still looks the same wherever it lies; then its start is laid on the old one's start.
    """
    if not old:
        return new
    usual = np.stack([_usual(old_seen, shot) for shot in old])
    matched = []
    for shot in new:
        away = np.abs(usual - _usual(new_seen, shot)).mean(axis=1)
        nearest = sorted(np.argsort(away, kind="stable")[:_CANDIDATES].tolist())
        matched.append(_matched(shot, tuple(old[i] for i in nearest), old_seen, new_seen))
    return tuple(matched)


def _usual(seen: Likeness, shot: Shot) -> NDArray[np.float64]:
    """What a shot looks like in the middle of all of it, flat."""
    at = np.unique(np.linspace(shot.start_frames, shot.end_frames - 1, _PROBES).astype(int))
    return np.median(seen[at], axis=0).ravel()


def _matched(shot: Shot, old: tuple[Shot, ...], old_seen: Likeness, new_seen: Likeness) -> Shot:
    here = new_seen[shot.start_frames : shot.end_frames].astype(np.int16)
    best: tuple[float, int] | None = None
    heir: Shot | None = None
    for before in old:
        there = old_seen[before.start_frames : before.end_frames].astype(np.int16)
        found = _slide(here, there)
        if found is not None and (best is None or found[0] < best[0] - _STILL):
            best, heir = found, before
    if heir is None or best is None:
        return shot
    return replace(shot, reel=heir.reel, source_start_frames=heir.source_start_frames + best[1], name=heir.name)


def _slide(here: NDArray[np.int16], there: NDArray[np.int16]) -> tuple[float, int] | None:
    """Where `here` lies along `there`: mean difference, and the frame of `there` on which it starts (may be below zero)."""
    least = min(_LEAST_OVERLAP_FRAMES, len(here), len(there))
    offsets = sorted(range(least - len(here), len(there) - least + 1), key=lambda o: (abs(o), o))
    best: tuple[float, int] | None = None
    for offset in offsets:
        first, last = max(0, -offset), min(len(here), len(there) - offset)
        at = np.unique(np.linspace(first, last - 1, _PROBES).astype(int))
        difference = float(np.abs(here[at] - there[at + offset]).mean())
        # Between places that look the same, the old start decides, and how much is shown of the old shot.
        difference += _STILL * (1 - (last - first) / min(len(here), len(there))) + _MOVED * (offset != 0)
        if difference <= _MOST_DIFFERENCE and (best is None or difference < best[0] - 1e-6):
            best = difference, offset
    return best
