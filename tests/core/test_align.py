"""Shots known again by order and length: equal to counting all ways on small cases, and right on cuts whose truth is known."""

from collections.abc import Iterator
from math import exp, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from evenseam.core.spot import Shot, aligned
from evenseam.core.spot.align import _sums
from evenseam.demo.film.cuts import FILM, RECUT


def laid_out(lengths: list[int]) -> tuple[Shot, ...]:
    shots, at = [], 0
    for length in lengths:
        shots.append(Shot(at, at + length))
        at += length
    return tuple(shots)


def ways(n: int, m: int) -> Iterator[tuple[tuple[int, int], ...]]:
    """Every way to step from (0, 0) to (n, m): both on, one on, or the other."""
    if n == m == 0:
        yield ()
    for a, b in ((1, 1), (1, 0), (0, 1)):
        if n >= a and m >= b:
            for rest in ways(n - a, m - b):
                yield ((a, b), *rest)


@given(st.integers(1, 4), st.integers(1, 4), st.randoms(use_true_random=False))
def test_the_sums_are_those_of_all_ways_counted_one_by_one(n: int, m: int, chance: object) -> None:
    random = np.random.default_rng(chance.randint(0, 10**6))  # type: ignore[attr-defined]
    score, gone, come = random.normal(size=(n, m)), random.normal(size=n), random.normal(size=m)
    total = 0.0
    for way in ways(n, m):
        i = j = 0
        weight = 0.0
        for a, b in way:
            weight += score[i, j] if a and b else gone[i] if a else come[j]
            i, j = i + a, j + b
        total += exp(weight)
    assert _sums(score, gone, come)[-1, -1] == pytest.approx(log(total))


@given(st.lists(st.integers(1, 400), min_size=1, max_size=30))
def test_an_unchanged_list_is_itself_and_no_shot_is_two(lengths: list[int]) -> None:
    pairs = aligned(laid_out(lengths), laid_out(lengths))
    assert all(0 <= p.sure <= 1 for p in pairs)
    assert len({p.old_index for p in pairs}) == len({p.new_index for p in pairs}) == len(pairs)
    if len(set(lengths)) == len(lengths):
        assert [(p.old_index, p.new_index) for p in pairs] == [(k, k) for k in range(len(lengths))]


@given(st.lists(st.integers(1, 200), min_size=0, max_size=12), st.lists(st.integers(1, 200), min_size=0, max_size=12))
def test_any_two_lists_give_pairs_that_are_there(old: list[int], new: list[int]) -> None:
    pairs = aligned(laid_out(old), laid_out(new))
    assert [p.new_index for p in pairs] == sorted({p.new_index for p in pairs})
    assert all(p.old_index < len(old) and p.new_index < len(new) for p in pairs)


def test_the_recut_of_the_demo_film_is_known_again_shot_by_shot() -> None:
    names = [s.name for s in FILM.sheet.shots]
    pairs = aligned(laid_out([s.length_frames for s in FILM.sheet.shots]), RECUT.sheet.shots)
    assert [names[p.old_index] for p in pairs] == [s.name for s in RECUT.sheet.shots]


def test_shots_of_one_length_say_less() -> None:
    same, different = ([50] * 12, [41, 53, 67, 59, 73, 47, 61, 83, 71, 43, 79, 89])
    sure = [np.mean([p.sure for p in aligned(laid_out(x), laid_out(x[:5] + x[6:]))]) for x in (same, different)]
    assert sure[0] < 0.8 < sure[1]
