"""Numeric kernels of what lies between a bar and the end: arrays and scalars only, no checks, as in `_kernels_ways.py`."""

import numpy as np

from evenseam.core.jit import kernel


@kernel
def cheapest_to_end(steps, edge_first, edge_to, edge_cost, end, per_sample, longest_step, sweeps):  # type: ignore[no-untyped-def]
    """What the cheapest way from each node to `end` costs, by Bellman and Ford, playing on costing `-per_sample`.

    Arrays as of `cheapest_labels`; steps that are longer than `longest_step` or of nothing are none. Returns: float64 (nodes,),
    infinite where there is no way, and whether that is settled after so many sweeps: it never is where a loop costs less than
    nothing.
    """
    nodes = steps.size
    cost = np.full(nodes, np.inf)
    cost[end] = 0.0
    for _ in range(sweeps):
        is_settled = True
        for node in range(nodes - 1, -1, -1):
            if node == end:
                continue
            least = cost[node]
            if 0 < steps[node] < longest_step:
                least = min(least, cost[node + 1] - per_sample * steps[node])
            for e in range(edge_first[node], edge_first[node + 1]):
                least = min(least, edge_cost[e] + cost[edge_to[e]])
            if least < cost[node] - 1e-9:
                cost[node] = least
                is_settled = False
        if is_settled:
            return cost, True
    return cost, False


@kernel
def cheapest_to_end_counted(  # type: ignore[no-untyped-def]
    steps, edges, end, layers, per_sample, longest_step, jumps, ends_anew
):
    """What the cheapest way from each node to `end` costs by the seams that were taken before, as in `cheapest_to_end`.

    edges: (first, to, samples, cost). jumps: (to, cost, samples), where a way that breaks off in any bar may go on, at what
    cost, and how long it then plays until there. ends_anew: what it costs to break off and end there, infinite where none may.
    Jumps count like seams, of which layers - 1 may be taken in all. Returns: float64 (layers, nodes), and how many samples
    those ways play, int64, as if every jump were taken after a whole bar of the longest.
    """
    edge_first, edge_to, edge_samples, edge_cost = edges
    jump_to, jump_cost, jump_samples = jumps
    nodes, longest = steps.size, 0
    for step in steps:
        if longest < step < longest_step:
            longest = step
    cost, plays = np.full((layers, nodes), np.inf), np.zeros((layers, nodes), dtype=np.int64)
    for layer in range(layers - 1, -1, -1):
        cost[layer, end] = 0.0
        may_take, broken, broken_plays = layer + 1 < layers, np.inf, 0
        if may_take:
            broken = ends_anew
            for k in range(jump_to.size):
                value = jump_cost[k] - per_sample * jump_samples[k] + cost[layer + 1, jump_to[k]]
                if value < broken:
                    broken, broken_plays = value, jump_samples[k] + plays[layer + 1, jump_to[k]]
            broken, broken_plays = broken - per_sample * longest, broken_plays + longest
        for node in range(nodes - 1, -1, -1):
            if node == end:
                continue
            least, lasts = np.inf, 0
            if 0 < steps[node] < longest_step:
                least, lasts = cost[layer, node + 1] - per_sample * steps[node], plays[layer, node + 1] + steps[node]
                if broken < least:
                    least, lasts = broken, broken_plays
            if may_take:
                for e in range(edge_first[node], edge_first[node + 1]):
                    value = edge_cost[e] - per_sample * edge_samples[e] + cost[layer + 1, edge_to[e]]
                    if value < least:
                        least, lasts = value, edge_samples[e] + plays[layer + 1, edge_to[e]]
            cost[layer, node], plays[layer, node] = least, lasts
    return cost, plays


@kernel
def music_left(steps, edges, end, layers, longest_step, jumps, ends_anew):  # type: ignore[no-untyped-def]
    """The least and the most that can be played from each node to `end`, by the seams that were taken before.

    steps, end: as of `cheapest_labels`; steps that are longer than `longest_step` or of nothing are none. edges: (first, to,
    samples). jumps: (to, samples, rest), where a way that breaks off in any bar may go on, how long it then plays until there,
    and the silence that may come before. ends_anew: what a way that breaks off to end there plays, `longest_step` where none
    may. Jumps count like seams, of which layers - 1 may be taken in all. Returns: int64 (layers, nodes) twice, some
    `longest_step` and -`longest_step` where the end cannot be reached.
    """
    edge_first, edge_to, edge_samples = edges
    jump_to, jump_samples, rest = jumps
    nodes = steps.size
    least, most = np.full((layers, nodes), longest_step), np.full((layers, nodes), -longest_step)
    for layer in range(layers - 1, -1, -1):
        least[layer, end] = most[layer, end] = 0
        may_take = layer + 1 < layers
        soonest, latest = longest_step, -longest_step
        if may_take:
            if ends_anew < longest_step:
                soonest, latest = ends_anew, ends_anew
            for k in range(jump_to.size):
                soonest = min(soonest, jump_samples[k] + least[layer + 1, jump_to[k]])
                latest = max(latest, rest + jump_samples[k] + most[layer + 1, jump_to[k]])
        for node in range(nodes - 1, -1, -1):
            if node == end:
                continue
            low, high = longest_step, -longest_step
            if 0 < steps[node] < longest_step:
                low = min(soonest, steps[node] + least[layer, node + 1])
                high = max(latest, most[layer, node + 1]) + steps[node]
            if may_take:
                for e in range(edge_first[node], edge_first[node + 1]):
                    low = min(low, edge_samples[e] + least[layer + 1, edge_to[e]])
                    high = max(high, edge_samples[e] + most[layer + 1, edge_to[e]])
            least[layer, node], most[layer, node] = low, high
    return least, most
