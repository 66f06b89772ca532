"""Kernels against plain Python twins on small cases; run with bounds checked as well (see ./check)."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.listen._kernels import best_bar_places, best_beats
from evenseam.core.plan._kernels import cheapest_labels

pytestmark = pytest.mark.kernels


@settings(deadline=None, max_examples=60)
@given(st.lists(st.floats(-2, 4, width=32), min_size=1, max_size=60), st.integers(2, 6), st.integers(0, 6))
def test_beats_are_in_range_and_evenly_spaced(strength: list[float], shortest: int, more: int) -> None:
    hops, _ = best_beats(np.array(strength, dtype=np.float32), shortest, shortest + more, 5.0)
    assert hops.size >= 1
    assert hops[0] >= 0
    assert hops[-1] < len(strength)
    assert all(shortest <= b - a <= shortest + more for a, b in itertools.pairwise(hops.tolist()))


def test_beats_find_the_pulses() -> None:
    strength = np.zeros(400, dtype=np.float32)
    strength[7::20] = 3
    hops, _ = best_beats(strength, 12, 30, 100.0)
    assert set(range(27, 380, 20)) <= set(hops.tolist())


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
