"""Kernels against plain Python twins on small cases; run with bounds checked as well (see ./check)."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.listen.beats._kernels_beats import best_bar_places, best_beats
from evenseam.core.plan.search._kernels_ways import cheapest_labels
from evenseam.core.render._kernels_sound import interpolate, turn_frames
from evenseam.core.render.varispeed import kernel

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
    edges = sorted(draw(st.lists(edge, max_size=8)), key=lambda e: (e[0], e[3]))
    return steps, [(k, to, samples, float(cost)) for k, to, samples, cost in edges]


Shape = tuple[list[float], list[float]]  # what is wished at every sample, below 0 for nothing, and the level of every node


def _strays(shape: Shape, steps: list[int], bars: range, start: int, end: int) -> float:
    wished, levels = shape
    middle = (start + end) // 2
    if middle >= len(wished) or wished[middle] < 0:
        return 0.0
    return sum(steps[bar] * (levels[bar] - wished[middle]) ** 2 for bar in bars)


def _all_ways(
    steps: list[int], edges: list, limit: int, bound: float, most_seams: int, shape: Shape = ([], [])
) -> dict[tuple[int, int], float]:
    """Cheapest cost for every exact time and number of seams at the last node, by trying every way."""
    best: dict[tuple[int, int], float] = {}
    frontier = [(0, 0, 0.0, 0)]
    end = len(steps) - 1
    while frontier:
        node, at, cost, seams = frontier.pop()
        if at > limit or cost > bound or seams > most_seams:
            continue
        if node == end:
            best[at, seams] = min(cost, best.get((at, seams), np.inf))
            continue
        then = at + steps[node]
        frontier.append((node + 1, then, cost + _strays(shape, steps, range(node, node + 1), at, then), seams))
        for k, to, samples, c in edges:
            if k == node:
                then = at + samples
                more = _strays(shape, steps, range(max(0, to - 1), to), at, then)  # the bar before plays on after a seam
                frontier.append((to, then, cost + c + more, seams + 1))
    return best


def _found(steps: list[int], edges: list, limit: int, bound: float, layers: int, shape: Shape) -> dict[tuple[int, int], float]:
    """What the kernel says of the same."""
    n = len(steps)
    first = np.searchsorted([e[0] for e in edges], np.arange(n + 1)).astype(np.int64)
    columns = list(zip(*edges, strict=True)) if edges else [(), (), (), ()]
    to, samples = (np.array(column, dtype=np.int64) for column in columns[1:3])
    wished, levels = (np.array(values, dtype=np.float64) for values in shape)
    seconds = np.array(steps, dtype=np.float64)
    sums, nothing = np.zeros((3, n + 1)), np.empty(0, dtype=np.float32)
    if levels.size:
        sums[:, 1:] = np.cumsum([seconds, seconds * levels, seconds * levels**2], axis=1)
    zero = np.zeros(1, dtype=np.int64)
    bars = np.array(steps, dtype=np.int64), np.zeros((1, n), dtype=np.float32)
    order, seam_cost = np.arange(to.size, dtype=np.int32)[None], np.array(columns[3], dtype=np.float32)[None]
    seams = first, to, samples, np.maximum(0, to - 1), order, seam_cost
    cost, at, _, _, _ = cheapest_labels(
        bars, seams, (zero, zero, zero, np.zeros(1, dtype=np.float32)), n - 1, (limit, limit), 1, np.float32(bound), layers,
        (np.empty((0, 0), dtype=np.int64), np.empty((0, 0), dtype=np.int64), 0, limit), (wished.astype(np.float32), 1.0, 0, sums, 1.0),
        (nothing.reshape(0, n), nothing.reshape(0, n), nothing, 1.0, 1.0, 0, np.zeros((1, n)), 0.0, 0), nothing,
    )  # fmt: skip
    states = [s for s in np.flatnonzero(np.isfinite(cost)).tolist() if s // max(1, layers) % n == n - 1]
    return {(int(at[s]), s % max(1, layers)): float(cost[s]) for s in states}


@settings(deadline=None, max_examples=40)
@given(graphs(), st.integers(20, 45), st.data())
def test_labels_follow_a_shape_as_cheaply_as_trying_every_way(graph: Graph, limit: int, data: st.DataObject) -> None:
    steps, edges = graph
    level = st.sampled_from([0.0, 0.25, 0.5, 1.0])
    wished = data.draw(st.lists(st.one_of(level, st.just(-1.0)), min_size=1, max_size=limit + 5))
    levels = data.draw(st.lists(level, min_size=len(steps), max_size=len(steps)))
    found = _found(steps, edges, limit, np.inf, 0, (wished, levels))
    truth = _all_ways(steps, edges, limit, np.inf, 99, (wished, levels))
    assert {time for time, _ in found} == {time for time, _ in truth}
    for time, _ in found:
        assert found[time, 0] == pytest.approx(min(c for (t, _), c in truth.items() if t == time), abs=1e-4)


@settings(deadline=None, max_examples=60)
@given(graphs(), st.integers(20, 45), st.sampled_from([np.inf, 4.0, 9.0]), st.sampled_from([0, 1, 2, 3]))
def test_labels_are_as_cheap_as_trying_every_way(graph: Graph, limit: int, bound: float, layers: int) -> None:
    steps, edges = graph
    found = _found(steps, edges, limit, bound, layers, ([], []))
    truth = _all_ways(steps, edges, limit, bound, layers - 1 if layers else 99)
    if layers == 0:
        times = {t for t, _ in truth}
        truth = {(t, 0): min(c for (u, _), c in truth.items() if u == t) for t in times}
    assert found == truth


@settings(deadline=None, max_examples=40)
@given(st.integers(0, 1000), st.integers(1, 2))
def test_frames_at_the_tracks_own_speed_are_given_back_as_they_are(seed: int, channels: int) -> None:
    rng = np.random.default_rng(seed)
    frames = (rng.normal(size=(4, channels, 33)) + 1j * rng.normal(size=(4, channels, 33))).astype(np.complex64)
    before = np.concatenate([frames[:1], frames[:-1]])
    turned, last = frames.copy(), before[0].copy()
    turn_frames(turned, before, last, rng.random(4) < 0.5)
    np.testing.assert_allclose(turned, frames, rtol=0, atol=2e-5)
    np.testing.assert_allclose(np.abs(turned), np.abs(frames), rtol=1e-4)
    assert np.array_equal(last, turned[-1])


@settings(deadline=None)
@given(st.floats(0, 40), st.integers(1, 2))
def test_values_between_samples_are_those_of_the_wave(start: float, channels: int) -> None:
    t = np.arange(200)
    sound = np.tile(np.sin(0.7 * t + 0.3).astype(np.float32), (channels, 1))
    at = start + 80 + np.linspace(0, 30, 17)
    out = np.empty((channels, at.size), dtype=np.float32)
    interpolate(sound, 0, at, kernel(), out)
    np.testing.assert_allclose(out[0], np.sin(0.7 * at + 0.3), rtol=0, atol=2e-5)


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
