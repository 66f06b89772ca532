"""Numeric kernels of planning: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def cheapest_labels(  # type: ignore[no-untyped-def]
    steps, edge_first, edge_to, edge_samples, edge_cost, start, start_samples, end, limit, quantum, bound, layers
):
    """Cheapest way to every (time, bar, seams taken) by label setting in order of time.

    steps: int64 (nodes,), samples from each downbeat to the next. Edges of node k are edge_first[k] to edge_first[k+1] in
    the three parallel edge arrays, cheapest first: node reached, samples played, cost. Times are exact int64 samples; of
    all ways that reach a node within the same `quantum` of time the cheapest is kept (the earlier found on a tie). Every
    step, and every edge but those to `end` (the last node), must play at least `quantum` samples. Ways that cost more than
    `bound` are left. With `layers` above 0, ways of different numbers of seams are kept apart, up to layers - 1 of them;
    with 0 they are not counted. Returns, as (buckets * nodes * max(1, layers),) arrays, cost (inf: not reached), exact samples,
    the state it came from and the edge taken (-1: played on).
    """
    nodes = steps.size
    buckets = limit // quantum + 1
    width = max(1, layers)
    states = buckets * nodes * width
    cost = np.full(states, np.inf, dtype=np.float32)
    at = np.zeros(states, dtype=np.int64)
    came = np.full(states, -1, dtype=np.int32)
    taken = np.full(states, -1, dtype=np.int32)
    if start_samples > limit:
        return cost, at, came, taken
    # Half a sample keeps every time off the edges of its bucket, so that multiplying finds the one that dividing would.
    inverse = 1.0 / quantum
    first = ((start_samples // quantum) * nodes + start) * width
    cost[first] = 0.0
    at[first] = start_samples
    for state in range(first - start * width, states):
        here = cost[state]
        if here == np.inf:
            continue
        layer = state % width
        node = (state // width) % nodes
        if node == end:
            continue
        now = at[state]
        then = now + steps[node]
        if then <= limit:
            other = (int((then + 0.5) * inverse) * nodes + node + 1) * width + layer
            if here < cost[other]:
                cost[other] = here
                at[other] = then
                came[other] = state
                taken[other] = -1
        above = layer
        if layers > 0:
            above = layer + 1
            if above == layers:
                continue
        for e in range(edge_first[node], edge_first[node + 1]):
            value = here + edge_cost[e]
            if value > bound:
                break
            then = now + edge_samples[e]
            if then > limit:
                continue
            other = (int((then + 0.5) * inverse) * nodes + edge_to[e]) * width + above
            if value < cost[other]:
                cost[other] = value
                at[other] = then
                came[other] = state
                taken[other] = e
    return cost, at, came, taken
