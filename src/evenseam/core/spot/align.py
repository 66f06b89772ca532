"""Which shot of a new version is which of the old one, where no reel says so: by their order and their lengths.

A pair hidden Markov model (Durbin et al. 1998, chapter 4) over both lists: a shot stays as long as it was, or is trimmed, or
goes, or is new. Its forward and backward sums give how probable each pair is among all ways of laying the lists side by side.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.spot.sheet import Shot

_STAYS, _TRIMMED, _GOES, _MOVES = 0.6, 0.3, 0.1, 0.03
_TRIM_SHARE, _TRIM_FRAMES = 0.15, 4.0  # a trim is usually this share of the shot, and some frames
_LEAST_SURE = 0.4
_SURE_OF_MOVED = 0.7  # about as many are right in bench/recuts.py

Matrix = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Pair:
    """Shot `old_index` of the old version is shot `new_index` of the new one. `sure`: how probable that is, 0 to 1."""

    old_index: int
    new_index: int
    sure: float


def aligned(old: tuple[Shot, ...], new: tuple[Shot, ...]) -> tuple[Pair, ...]:
    """The most probable pairs of shots, in the order of the new version.

    Shots that changed places are paired when both are left over and no other left-over shot has their length. Lengths that
    many shots share say little, and do not make a pair sure.
    """
    in_order = _in_order(old, new, range(len(old)), range(len(new)))
    moved = _moved(old, new, in_order)
    if moved:  # without them the others lie side by side more plainly
        rest_old = sorted(set(range(len(old))) - {p.old_index for p in moved})
        rest_new = sorted(set(range(len(new))) - {p.new_index for p in moved})
        in_order = _in_order(old, new, rest_old, rest_new)
    return tuple(sorted([*in_order, *moved], key=lambda p: p.new_index))


def _in_order(old: tuple[Shot, ...], new: tuple[Shot, ...], of_old: Sequence[int], of_new: Sequence[int]) -> list[Pair]:
    """Pairs of some of the shots, neither side of which changed places."""
    if not of_old or not of_new:
        return []
    before, after = (
        np.array([shots[k].length_frames for k in of], dtype=np.float64) for shots, of in ((old, of_old), (new, of_new))
    )
    score = _score(before, after)
    gone, come = (_alone(score, before[:, None] == after[None, :], axis) for axis in (1, 0))
    forward = _sums(score, gone, come)
    backward = _sums(score[::-1, ::-1], gone[::-1], come[::-1])[::-1, ::-1]
    inner = forward[:-1, :-1] + score + backward[1:, 1:] - forward[-1, -1]
    return [Pair(of_old[p.old_index], of_new[p.new_index], p.sure) for p in _most_probable(np.exp(np.minimum(inner, 0.0)))]


def _score(before: Matrix, after: Matrix) -> Matrix:
    """Log odds that two shots are one, against two that only happen to be as long as they are."""
    usual = 1 / (2 * float(np.median(np.concatenate([before, after]))))
    alike = {float(length): count - 1 for length, count in Counter(before.tolist()).items()}
    chance = np.maximum(usual, np.array([alike.get(length, 0) / len(before) for length in after.tolist()]))
    away = np.abs(before[:, None] - after[None, :])
    spread = _TRIM_SHARE * before[:, None] + _TRIM_FRAMES
    trimmed = np.log(_TRIMMED / (2 * spread)) - away / spread - np.log(usual)
    return np.where(away == 0, np.log(_STAYS / chance)[None, :], trimmed)


def _alone(score: Matrix, is_as_long: NDArray[np.bool_], axis: int) -> Matrix:
    """Log weight of every shot of one side being beside none: it went, or lies where a shot of its length does out of order.

    What speaks for a move is shared between the place that it left and the one that it came to.
    """
    moved = np.where(is_as_long, _MOVES * np.exp(score), 0.0).max(axis=axis)
    return np.asarray(np.log(_GOES + np.sqrt(moved)))


def _sums(score: Matrix, gone: Matrix, come: Matrix) -> Matrix:
    """Log of the summed weight of all ways to lay the first i shots beside the first j, for every i and j.

    Along a row new shots only come, one after the other: with their weights taken off it is a running sum.
    """
    n, m = score.shape
    all_come = np.append(0.0, np.cumsum(come))
    sums = np.empty((n + 1, m + 1))
    sums[0] = all_come
    for i in range(n):
        ends = sums[i] + gone[i]
        ends[1:] = np.logaddexp(ends[1:], sums[i, :-1] + score[i])
        sums[i + 1] = all_come + np.logaddexp.accumulate(ends - all_come)
    return sums


def _most_probable(sure: Matrix) -> list[Pair]:
    """The pairs in order whose probabilities come to most."""
    n, m = sure.shape
    worth = np.where(sure >= _LEAST_SURE, sure, 0.0)
    best = np.zeros((n + 1, m + 1))
    for i in range(n):
        best[i + 1, 1:] = np.maximum.accumulate(np.maximum(best[i, 1:], best[i, :-1] + worth[i]))
    pairs, i, j = [], n, m
    while i and j:
        if best[i, j] == best[i - 1, j]:
            i -= 1
        elif best[i, j] == best[i, j - 1]:
            j -= 1
        else:
            i, j = i - 1, j - 1
            pairs.append(Pair(i, j, float(sure[i, j])))
    return pairs


def _moved(old: tuple[Shot, ...], new: tuple[Shot, ...], pairs: list[Pair]) -> list[Pair]:
    """Left-over shots of a length that one of either side has."""
    out = sorted(set(range(len(old))) - {p.old_index for p in pairs})
    come = sorted(set(range(len(new))) - {p.new_index for p in pairs})
    of_length: dict[int, tuple[list[int], list[int]]] = {}
    for side, (shots, left) in enumerate(((old, out), (new, come))):
        for index in left:
            of_length.setdefault(shots[index].length_frames, ([], []))[side].append(index)
    return [Pair(a[0], b[0], _SURE_OF_MOVED) for a, b in of_length.values() if len(a) == len(b) == 1]
