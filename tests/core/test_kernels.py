"""Kernels against plain Python twins on small cases; run with bounds checked as well (see ./check)."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.listen._kernels import best_bar_places, best_beats
from evenseam.core.plan._kernels import cheapest_labels

pytestmark = pytest.mark.kernels


def _best_places_slowly(worth: np.ndarray, meter: int) -> float:
    return max(sum(worth[b] for b in range(worth.size) if (b - phase) % meter == 0) for phase in range(meter))


@settings(deadline=None, max_examples=60)
@given(st.lists(st.floats(-1, 2), min_size=6, max_size=30), st.sampled_from([2, 3, 4]))
def test_places_without_slips_are_the_best_phase(values: list[float], meter: int) -> None:
    worth = np.array(values)
    _, place = best_bar_places(worth[None, :], np.array([meter], dtype=np.int64), 1e6)
    assert all((b - a) % meter == 1 for a, b in itertools.pairwise(place.tolist()))
    assert worth[place == 0].sum() == pytest.approx(_best_places_slowly(worth, meter), abs=1e-6)


Graph = tuple[list[int], list[tuple[int, int, int, float]]]


@st.composite
def graphs(draw: st.DrawFn) -> Graph:
    n = draw(st.integers(3, 6))
    steps = [*draw(st.lists(st.integers(5, 9), min_size=n - 1, max_size=n - 1)), 0]
    edge = st.tuples(st.integers(0, n - 1), st.integers(1, n - 1), st.integers(5, 20), st.integers(1, 6))
    return steps, [(k, to, samples, float(cost)) for k, to, samples, cost in sorted(draw(st.lists(edge, max_size=8)))]


def _all_ways(steps: list[int], edges: list, limit: int) -> dict[int, float]:
    """Cheapest cost for every exact time at the last node, by trying every way."""
    best: dict[int, float] = {}
    frontier = [(0, 0, 0.0)]
    end = len(steps) - 1
    while frontier:
        node, at, cost = frontier.pop()
        if at > limit:
            continue
        if node == end:
            best[at] = min(cost, best.get(at, np.inf))
            continue
        frontier.append((node + 1, at + steps[node], cost))
        frontier += [(to, at + samples, cost + c) for k, to, samples, c in edges if k == node]
    return best


@settings(deadline=None, max_examples=80)
@given(graphs(), st.integers(20, 45))
def test_labels_are_as_cheap_as_trying_every_way(graph: Graph, limit: int) -> None:
    steps, edges = graph
    n = len(steps)
    first = np.searchsorted([e[0] for e in edges], np.arange(n + 1)).astype(np.int64)
    columns = list(zip(*edges, strict=True)) if edges else [(), (), (), ()]
    cost, at, _, _ = cheapest_labels(
        np.array(steps, dtype=np.int64), first, np.array(columns[1], dtype=np.int64), np.array(columns[2], dtype=np.int64),
        np.array(columns[3], dtype=np.float32), 0, 0, n - 1, limit, 1,
    )  # fmt: skip
    ends = np.arange(n - 1, cost.size, n)
    found = {int(at[e]): float(cost[e]) for e in ends if np.isfinite(cost[e])}
    assert found == _all_ways(steps, edges, limit)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_the_best_beats_are_the_best_of_all(seed: int) -> None:
    """Against every chain of beats there is, in a space small enough to try them all."""
    n, shortest, longest = 14, 2, 4
    worth = np.random.default_rng(seed).normal(0, 1.5, n).astype(np.float32)
    change = (0.8 * np.abs(np.subtract.outer(np.arange(3), np.arange(3)))).astype(np.float32)

    def best_from(t: int, j: int) -> float:
        value = 0.0 if t >= n - longest else -1e9
        for k in range(3):
            u = t + shortest + k
            if u < n:
                value = max(value, float(worth[u] - change[k, j]) + best_from(u, k))
        return value

    starts = [(t, j) for t in range(longest) for j in range(3) if t - shortest - j < 0]
    truth = max(float(worth[t]) + best_from(t, j) for t, j in starts)
    found = best_beats(worth, shortest, longest, change, np.float32(1e9), np.array([-1, 0], dtype=np.int64))
    total = float(worth[found[0, 0]])
    for (t, j), (u, k) in itertools.pairwise(found.tolist()):
        assert u - t == shortest + k
        total += float(worth[u] - change[k, j])
    assert total == pytest.approx(truth, abs=1e-3)
