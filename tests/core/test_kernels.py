"""Kernels against plain Python twins on small cases; run with bounds checked as well (see ./check)."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.listen._kernels import best_bar_places, best_bars
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
def test_the_best_bars_are_the_best_of_all(seed: int) -> None:
    """Against every chain of beats there is, in a space small enough to try them all."""
    rng = np.random.default_rng(seed)
    n, shortest, longest, slip, other = 14, 2, 4, 1.3, 0.7
    beat, downbeat = rng.normal(0, 1.5, (2, n)).astype(np.float32)
    meters, bonus = np.array([2, 3]), np.array([0.2, -0.1], np.float32)
    first_of = np.array([0, 2, 5])
    change = (0.8 * np.abs(np.subtract.outer(np.arange(3), np.arange(3)))).astype(np.float32)

    def worth(t: int, s: int) -> float:
        return float(downbeat[t] + bonus[0 if s == 0 else 1]) if s in (0, 2) else float(beat[t])

    def after(s: int) -> list[tuple[int, float]]:
        m = 0 if s < 2 else 1
        head, size = first_of[m], meters[m]
        onward = [(s + 1, 0.0)] if s + 1 < head + size else [(int(head), 0.0)]
        return onward + [(int(first_of[k]), slip + (other if k != m else 0.0)) for k in range(2)]

    def best_from(t: int, j: int, s: int) -> float:
        value = 0.0 if t >= n - longest else -1e9
        for k in range(3):
            u = t + shortest + k
            if u < n:
                for s2, cost in after(s):
                    value = max(value, worth(u, s2) - cost - float(change[k, j]) + best_from(u, k, s2))
        return value

    starts = [(t, j, s) for t in range(longest) for j in range(3) for s in range(5) if t - shortest - j < 0]
    truth = max(worth(t, s) + best_from(t, j, s) for t, j, s in starts)
    free = np.array([-1, 0, 0], dtype=np.int64)
    found = best_bars(
        beat, downbeat, shortest, longest, change, first_of, bonus, np.float32(slip), np.float32(other), np.float32(1e9), free
    )
    total = worth(int(found[0, 0]), int(found[0, 2]))
    for (_, j, s), (u, k, s2) in itertools.pairwise(found):
        total += worth(int(u), int(s2)) - float(change[k, j]) - min(c for x, c in after(int(s)) if x == s2)
    assert total == pytest.approx(truth, abs=1e-3)
