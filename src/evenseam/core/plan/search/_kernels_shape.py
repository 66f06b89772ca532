"""Numeric kernels of what straying from a shape costs: arrays and scalars only, no checks, as in `_kernels_ways.py`."""

import numpy as np

from evenseam.core.jit import kernel

BLOCK = 14  # steps of time; with two more a power of two


@kernel
def strays(shape, first, last, start, end):  # type: ignore[no-untyped-def]
    """What it costs that the bars from `first` to before `last` are as full as they are, over a span of the output.

    shape: (wished, steps a sample, sample of the output from which times count, sums, cost); the wish is that of the middle.
    """
    wished, per_sample, base, sums, cost = shape
    # Half a sample keeps the middle off the edges of its step, so that multiplying finds the one that dividing would.
    at = int((base + (start + end) // 2 + 0.5) * per_sample)
    if at < 0 or at >= wished.size or wished[at] < 0:
        return 0.0
    level = np.float64(wished[at])
    seconds, full = sums[0, last] - sums[0, first], sums[1, last] - sums[1, first]
    squared = sums[2, last] - sums[2, first]
    return cost * max(0.0, squared - 2 * level * full + level * level * seconds)


@kernel
def more_ahead(more, node, steps):  # type: ignore[no-untyped-def]
    """What more is ahead of a node after so many steps of time and a part of one; nothing after the last."""
    step = int(steps)
    if step + 1 >= more.shape[0]:
        return 0.0
    before, after = np.float64(more[step, node]), np.float64(more[step + 1, node])
    if before == np.inf or after == np.inf:
        return min(before, after)
    return before + (after - before) * (steps - step)


@kernel
def still_strays(still, node, layer, now):  # type: ignore[no-untyped-def]
    """What straying still costs from a node at a moment, beyond what is counted as ahead of ways of so many seams.

    still: as `ShapeAhead.for_kernel` makes it, for times that count like this one.
    """
    more, _, _, per_step, _, base, _, _, _ = still
    if more.shape[0] == 0:
        return 0.0
    value = more_ahead(more, node, max(0, base + now) * per_step)
    return max(0.0, value - counted_elsewhere(still, node, layer, now))


@kernel
def all_still_strays(still, nodes, layers, times):  # type: ignore[no-untyped-def]
    """The same for some nodes, layers and moments, int64 (n,); float64 (n,)."""
    values = np.empty(nodes.size)
    for k in range(nodes.size):
        values[k] = still_strays(still, nodes[k], layers[k], times[k])
    return values


@kernel
def counted_elsewhere(still, node, layer, now):  # type: ignore[no-untyped-def]
    """By how much what is ahead of ways of so many seams counts for more than that of any; arguments as of `still_strays`."""
    _, _, _, _, _, base, counted, per_sample, until = still
    return counted[layer if counted.shape[0] > 1 else 0, node] + per_sample * (until - base - now)


@kernel
def block_of(still, now):  # type: ignore[no-untyped-def]
    """The block of time of a moment by which edges are told apart, -1 where they are not; arguments as of `still_strays`."""
    _, after_edge, _, _, per_block, base, _, _, _ = still
    block = int(max(0, base + now) * per_block)
    return block if block < after_edge.shape[0] else -1


@kernel
def strays_to_end(bars, edges, end, longest_step, time, shape, jumps, ends_anew):  # type: ignore[no-untyped-def]
    """What comes to what is ahead of each node because of a shape, at equal steps of the output.

    bars: (samples from each downbeat to the next, by how much each makes a way dearer than it had to become, what is ahead of
    each node, what that counts a sample). edges: (first, to, samples, bar entered, order, cost), as of `cheapest_labels`. time:
    (samples a step, number of steps, the first at which ways may end); no move but to `end` may be shorter than a step. shape:
    as of `strays`. jumps: (to, cost, samples, whether later as well) of where ways that break off may go on. ends_anew: what it
    costs to break off and end.

    Returns: float32 (steps, nodes), infinite from where no way ends in time.
    """
    steps, step_cost, to_end, per_sample = bars
    edge_first, edge_to, edge_samples, edge_enters, edge_order, edge_cost = edges
    quantum, n_steps, first_end = time
    per_quantum, nodes, longest = 1.0 / quantum, steps.size, 0
    for step in steps:
        if longest < step < longest_step:
            longest = step
    within = longest // quantum + 2  # steps of time in which a way may break off that begins a bar
    more = np.full((n_steps, nodes), np.float32(np.inf), dtype=np.float32)
    more[first_end:, end] = 0.0
    furthest = edge_samples.max() // quantum + 2
    of_all = np.zeros(n_steps + furthest, dtype=np.float32)
    jump = np.full(n_steps + within, ends_anew)
    jump[:first_end] = np.inf
    for step in range(n_steps + within - 1, -1, -1):
        now = step * quantum
        jump[step] = min(jump[step], _goes_on(more, jumps, to_end, per_sample, step, per_quantum))
        if jumps[3] and step + 1 < jump.size:
            jump[step] = min(jump[step], jump[step + 1])
        if step >= n_steps:
            continue
        broken = jump[step : step + within].min() - per_sample * longest
        of_all[step] = more[step, end]  # the end may be nearer than a step
        after_edge = of_all[step : step + furthest].min()
        for node in range(nodes if step == 0 else nodes - 1):  # the start, which is the last, is left at once
            if node == end:
                continue
            least = max(0.0, broken - to_end[node])
            if 0 < steps[node] < longest_step:
                then = now + steps[node]
                value = step_cost[node] + strays(shape, node, node + 1, now, then)
                least = min(least, value + more_ahead(more, node + 1, step + steps[node] * per_quantum))
            for k in range(edge_first[node], edge_first[node + 1]):
                if edge_cost[k] + after_edge >= least:
                    break
                e = edge_order[k]
                value = edge_cost[k] + more_ahead(more, edge_to[e], step + edge_samples[e] * per_quantum)
                if value < least:
                    least = min(least, value + strays(shape, edge_enters[e], edge_to[e], now, now + edge_samples[e]))
            more[step, node] = least
        of_all[step] = more[step, : nodes - 1].min()
    return more


@kernel
def _goes_on(more, jumps, to_end, per_sample, step, per_quantum):  # type: ignore[no-untyped-def]
    """What is ahead of ways that break off at a moment to go on at once."""
    to, cost, plays, _ = jumps
    least = np.inf
    for k in range(to.size):
        value = cost[k] - per_sample * plays[k] + to_end[to[k]]
        if value < least:
            least = min(least, value + more_ahead(more, to[k], step + plays[k] * per_quantum))
    return least


@kernel
def least_after_edge(more, edges):  # type: ignore[no-untyped-def]
    """The least that comes after each edge that is taken in each block of `BLOCK` steps of time, and what it costs itself.

    more: as of `strays_to_end`. edges: (to, whole steps that it plays, order, cost). Returns: float32 (blocks, edges), and
    float32 (blocks,) the least that comes after any, without its cost.
    """
    edge_to, edge_steps, edge_order, edge_cost = edges
    n_steps, nodes = more.shape
    near = np.zeros((n_steps + 2 * BLOCK + edge_steps.max(), nodes), dtype=np.float32)  # nothing is ahead after the last
    near[:n_steps] = more
    apart = 1
    while apart < BLOCK + 2:  # the least of each and the BLOCK + 1 after it
        for step in range(n_steps):
            for node in range(nodes):
                near[step, node] = min(near[step, node], near[step + apart, node])
        apart *= 2
    least = np.empty((-(-n_steps // BLOCK), edge_to.size), dtype=np.float32)
    of_any = np.full(least.shape[0], np.float32(np.inf), dtype=np.float32)
    for block in range(least.shape[0]):
        for k in range(edge_to.size):
            e = edge_order[k]
            after = near[block * BLOCK + edge_steps[e], edge_to[e]]
            least[block, e] = edge_cost[k] + after
            of_any[block] = min(of_any[block], after)
    return least, of_any
