"""Numeric kernels of planning: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numba
import numpy as np


@numba.njit(cache=True)
def cheapest_labels(steps, edge_first, edge_to, edge_samples, edge_cost, start, start_samples, end, limit, quantum):  # type: ignore[no-untyped-def]
    """Cheapest way to every (time, bar) by label setting in order of time.

    steps: int64 (nodes,), samples from each downbeat to the next. Edges of node k are edge_first[k] to edge_first[k+1] in
    the three parallel edge arrays: node reached, samples played, cost. Times are exact int64 samples; of all ways that
    reach a node within the same `quantum` of time the cheapest is kept (the earlier found on a tie). Every step, and
    every edge but those to `end` (the last node), must play at least `quantum` samples. Returns, as (buckets * nodes,)
    arrays, cost (inf: not reached), exact samples, the state it came from and the edge taken (-1: played on).
    """
    nodes = steps.size
    buckets = limit // quantum + 1
    cost = np.full(buckets * nodes, np.inf, dtype=np.float32)
    at = np.zeros(buckets * nodes, dtype=np.int64)
    came = np.full(buckets * nodes, -1, dtype=np.int32)
    taken = np.full(buckets * nodes, -1, dtype=np.int32)
    first = (start_samples // quantum) * nodes + start
    if start_samples > limit:
        return cost, at, came, taken
    cost[first] = 0.0
    at[first] = start_samples
    for state in range(first - start, buckets * nodes):
        here = cost[state]
        if here == np.inf:
            continue
        node = state % nodes
        if node == end:
            continue
        now = at[state]
        then = now + steps[node]
        if node < end and then <= limit:
            other = (then // quantum) * nodes + node + 1
            if here < cost[other]:
                cost[other] = here
                at[other] = then
                came[other] = state
                taken[other] = -1
        for e in range(edge_first[node], edge_first[node + 1]):
            then = now + edge_samples[e]
            if then > limit:
                continue
            value = here + edge_cost[e]
            other = (then // quantum) * nodes + edge_to[e]
            if value < cost[other]:
                cost[other] = value
                at[other] = then
                came[other] = state
                taken[other] = e
    return cost, at, came, taken
