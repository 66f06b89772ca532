"""Numeric kernels of planning: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numpy as np

from evenseam.core.jit import kernel
from evenseam.core.plan.search._kernels_shape import block_of, counted_elsewhere, still_strays, strays


@kernel
def cheapest_labels(  # type: ignore[no-untyped-def]
    bars, edges, starts, end, limits, quantum, bound, layers, room, shape, still, known_cost
):
    """Cheapest way to every (time, bar, seams taken) by label setting in order of time.

    bars: (samples from each downbeat to the next, what they cost), int64 (nodes,) and float32 (rows, nodes). edges: (first, to,
    samples, bar entered, order, cost); those of node k are order[row, first[k] to first[k+1]], cheapest first, as their costs
    are, (rows, edges). One row holds for all, else there is one for every number of seams. starts: (node, samples, seams
    taken) int64 and cost float32, parallel arrays (starts,) of where ways begin. Times are exact int64 samples; of all ways
    that reach a node within the same `quantum` of time the cheapest is kept (the earlier found on a tie). Every step, and every
    edge but those to `end`, must play at least `quantum` samples. limits: (samples, samples), up to which ways are kept, and up
    to which they are followed. Ways that cost more than `bound` are left. With `layers` above 0, ways of different numbers of
    seams are kept apart, up to layers - 1 of them; with 0 they are not counted. room: (least, most, first, last): what may be
    played on from each node, int64 (layers, nodes), and when ways may end, in the time of the starts; ways that cannot are
    left, none where there are no layers. shape, still: as `Shape.for_kernel` and `ShapeAhead.for_kernel` make them, for times
    that count like the starts'; costs count what straying still costs as well. known_cost: of ways that are known, float32
    (states,) or empty; only cheaper ones are followed.

    Returns, as (buckets * nodes * max(1, layers),) arrays, cost (inf: not reached; of those, the others say nothing), exact
    samples, the state it came from (-1 minus the number of the start where a way begins), the edge taken (-1: played on) and
    the number of the start.
    """
    steps, step_cost = bars
    edge_first, edge_to, edge_samples, edge_enters, edge_order, edge_cost = edges
    start_node, start_samples, start_layer, start_cost = starts
    limit, followed = limits
    least_left, most_left, first_end, last_end = room
    is_counted = least_left.size > 0
    nodes = steps.size
    buckets = limit // quantum + 1
    width = max(1, layers)
    states = buckets * nodes * width
    cost = np.full(states, np.inf, dtype=np.float32)
    at = np.empty(states, dtype=np.int64)
    came = np.full(states, -1, dtype=np.int32)
    taken = np.empty(states, dtype=np.int32)
    began = np.empty(states, dtype=np.int32)
    is_known, after_edge = known_cost.size > 0, still[1]
    # Half a sample keeps every time off the edges of its bucket, so that multiplying finds the one that dividing would.
    inverse = 1.0 / quantum
    n_nodes, n_layers = np.uint64(nodes), np.uint64(width)  # unsigned: what might be below zero is looked at twice
    is_shaped, has_rows = shape[0].size > 0, edge_cost.shape[0] > 1
    earliest = states
    for k in range(start_node.size):
        if start_samples[k] > limit:
            continue
        first = ((start_samples[k] // quantum) * nodes + start_node[k]) * width + (start_layer[k] if layers > 0 else 0)
        if start_cost[k] < cost[first] and not (is_known and known_cost[first] <= start_cost[k]):
            cost[first] = start_cost[k]
            at[first] = start_samples[k]
            came[first] = -1 - k
            taken[first] = -1
            began[first] = k
            earliest = min(earliest, first)
    for state in range(earliest // (nodes * width) * (nodes * width), states):
        here = cost[state]
        if here == np.inf:
            continue
        layer = state % width
        node = (state // width) % nodes
        if node == end:
            continue
        row = layer if has_rows else 0
        now = at[state]
        paid = here - np.float32(still_strays(still, node, layer, now)) if is_shaped else here
        if is_counted and (now + least_left[layer, node] > last_end or now + most_left[layer, node] < first_end):
            cost[state] = np.float32(np.inf)
            continue
        if here > bound or now > followed:
            continue
        then = now + steps[node]
        if then <= limit:
            other = (int((then + 0.5) * inverse) * nodes + node + 1) * width + layer
            value = paid + step_cost[row, node]
            if is_shaped:
                strayed = strays(shape, node, node + 1, now, then)
                value += np.float32(strayed + still_strays(still, node + 1, layer, then))
            if value < cost[other] and not (is_known and known_cost[other] <= value):
                cost[other] = value
                at[other] = then
                came[other] = state
                taken[other] = -1
                began[other] = began[state]
        above, start = layer, began[state]
        if layers > 0:
            above = layer + 1
            if above == layers:
                continue
        block = block_of(still, now) if is_shaped else -1
        enough, after_any = bound, np.float32(0.0)
        if block >= 0:
            enough, after_any = bound - paid + np.float32(counted_elsewhere(still, node, layer, now)), still[2][block]
        for k in range(edge_first[node], edge_first[node + 1]):
            value = paid + edge_cost[row, k]
            if value + after_any > bound:
                break
            e = edge_order[row, k]
            if block >= 0 and after_edge[block, e] > enough:
                continue
            then = now + edge_samples[e]
            if then > limit:
                continue
            other = (np.uint64((then + 0.5) * inverse) * n_nodes + np.uint64(edge_to[e])) * n_layers + np.uint64(above)
            if is_shaped:
                value += np.float32(still_strays(still, edge_to[e], above, then))
                if value > bound:
                    continue
                value += np.float32(strays(shape, edge_enters[e], edge_to[e], now, then))
            if value < cost[other] and not (is_known and known_cost[other] <= value):
                cost[other] = value
                at[other] = then
                came[other] = state
                taken[other] = e
                began[other] = start
    return cost, at, came, taken, began


@kernel
def places_met(  # type: ignore[no-untyped-def]
    labels, base, buckets, bars, edges, places, end, since, asked, speed, bounds, shape, still, most_debt, missed, table
):
    """Of all ways of a table, the cheapest that have one of some places of the track sound within a window of time.

    labels: (cost, at, began), of the states of `cheapest_labels`, shaped (buckets, nodes, width); their times count from
    `base`. buckets: (first, last) of them that are near enough to the window. bars: (sample, steps, what they cost) and edges:
    (first, to, sample left, sample entered, bar entered, order, cost), in rows as of `cheapest_labels`. places: (samples from
    the downbeat of their bar, samples of the track, where each bar's begin), int64 (places,) twice and (nodes + 1,). since:
    int64 (starts,), from when on the ways of each may change their speed. asked: (sample, tolerance, give, by what costs have
    been reduced a sample). speed: (last sample asked for, least share, cost of any change, cost by the square of its per
    cents); within the tolerance none is needed, and it counts by the share of the whole that it lasts.
    bounds: ways that are dearer than the first are left, and what it costs to meet a place above the second. shape, still: as
    of `cheapest_labels`, for times of the output. missed, table: what ways have passed over in this table, and its number.

    Returns the cheapest by the bar they go on from, the bars that are played on until then (`most_debt` at most), and the seams
    taken: what each costs with what was missed, float32 (starts,), and int64 (8, starts): node, samples and seams
    taken, the sample on which it landed, the table, its state and edge, and the sample of the track that sounds. Of a place
    that sounds before the seam of its edge, the edge is written as edges.size plus its number.
    """
    cost, at, began = labels
    bar_at, steps, step_cost = bars
    edge_first, edge_to, left, entered, bar_entered, edge_order, edge_cost = edges
    place_into, place_at, place_first = places
    asked_at, tolerance, give, _ = asked
    bound, most = bounds
    _, nodes, width = cost.shape
    has_rows = edge_cost.shape[0] > 1
    best_cost = np.full((nodes, most_debt + 1, width), np.float32(np.inf), dtype=np.float32)
    best = best_cost, np.empty((nodes, most_debt + 1, width, 5), dtype=np.int64)
    for bucket in range(buckets[0], buckets[1]):
        for node in range(nodes):
            for layer in range(width):
                here = cost[bucket, node, layer]
                if here == np.inf or here > bound:
                    continue
                row = layer if has_rows else 0
                now = at[bucket, node, layer] + base
                state = (bucket * nodes + node) * width + layer
                span = max(1, asked_at - since[began[bucket, node, layer]])
                reach = tolerance + np.int64(give * span)
                low, high = asked_at - reach, asked_at + reach
                if now > high:
                    continue
                paid = here - still_strays(still, node, layer, now)
                for p in range(place_first[node], place_first[node + 1]):
                    into = place_into[p]
                    if low <= now + into <= high:
                        if into == 0:
                            _offer(best, still, node, 0, layer, paid, now, 0, p, state, -1, span, asked, speed)
                        elif into < steps[node]:
                            value = paid + step_cost[row, node] + strays(shape, node, node + 1, now, now + steps[node])
                            rest = steps[node] - into
                            _offer(best, still, node + 1, 1, layer, value, now + into, rest, p, state, -1, span, asked, speed)
                above = layer + 1 if width > 1 else 0
                if node == end or above == width:
                    continue
                block = block_of(still, now)
                enough = bound - paid + counted_elsewhere(still, node, layer, now)
                after_any = still[2][block] if block >= 0 else 0.0
                for k in range(edge_first[node], edge_first[node + 1]):
                    value = paid + edge_cost[row, k]
                    if value + after_any > bound:
                        break
                    e = edge_order[row, k]
                    if block >= 0 and still[1][block, e] > enough:
                        continue
                    to, before = edge_to[e], left[e] - bar_at[node]
                    enters = now + before - entered[e]
                    ends = enters + bar_at[to]
                    if now + before > high or ends < low:
                        continue
                    value += strays(shape, bar_entered[e], to, now, ends)
                    for p in range(place_first[node], place_first[node + 1]):
                        into = place_into[p]
                        if 0 < into < before and low <= now + into <= high:
                            rest = ends - now - into
                            debt = min(most_debt, to - bar_entered[e] + 1)
                            sounds, before_edge = now + into, edge_to.size + e
                            _offer(best, still, to, debt, above, value, sounds, rest, p, state, before_edge, span, asked, speed)
                    for bar in range(bar_entered[e], to):
                        for p in range(place_first[bar], place_first[bar + 1]):
                            source = bar_at[bar] + place_into[p]
                            if source >= entered[e] and low <= enters + source <= high:
                                debt, rest = min(most_debt, to - bar), bar_at[to] - source
                                sounds = enters + source
                                _offer(best, still, to, debt, above, value, sounds, rest, p, state, e, span, asked, speed)
    return _starts(best, place_at, most, missed, table)


@kernel
def _offer(  # type: ignore[no-untyped-def]
    best, still, goes, debt, layer, value, sounds, rest, place, state, edge, span, asked, speed
):
    """Keep a place that is met where nothing cheaper goes on from the same bar."""
    best_cost, best_of = best
    at, tolerance, _, per_sample = asked
    last_at, least_share, any_change, per_pct2 = speed
    landed = sounds if abs(sounds - at) <= tolerance else at
    total = value + per_sample * (sounds - landed) + still_strays(still, goes, layer, landed + rest)
    if landed != sounds:
        share = max(least_share, span / max(span, last_at))
        total += share * (any_change + per_pct2 * (100.0 * (sounds - landed) / span) ** 2)
    if total < best_cost[goes, debt, layer]:
        best_cost[goes, debt, layer] = total
        of = best_of[goes, debt, layer]
        of[0], of[1], of[2], of[3], of[4] = landed, landed + rest, place, state, edge


@kernel
def _starts(best, place_at, most, missed, table):  # type: ignore[no-untyped-def]
    """What was kept, as `places_met` returns it."""
    best_cost, best_of = best
    nodes, debts, width = best_cost.shape
    n = 0
    for value in best_cost.flat:
        n += value <= most and value < np.inf
    cost, rows = np.empty(n, dtype=np.float32), np.empty((8, n), dtype=np.int64)
    k = 0
    for node in range(nodes):
        for debt in range(debts):
            for layer in range(width):
                value = best_cost[node, debt, layer]
                if value <= most and value < np.inf:
                    landed, goes_on, place, state, edge = best_of[node, debt, layer]
                    cost[k] = value + np.float32(missed)
                    rows[0, k], rows[1, k], rows[2, k], rows[3, k] = node, goes_on, layer, landed
                    rows[4, k], rows[5, k], rows[6, k], rows[7, k] = table, state, edge, place_at[place]
                    k += 1
    return cost, rows


@kernel
def gone_beyond(cost, at, first_bucket, followed, end, most):  # type: ignore[no-untyped-def]
    """The states of a table, int64, whose ways have come further than `followed`; none at `end`, nor above a cost.

    cost, at: as of `places_met`. Buckets before the first are not looked at.
    """
    buckets, nodes, width = cost.shape
    found = np.empty(max(0, buckets - first_bucket) * nodes * width, dtype=np.int64)
    n = 0
    for bucket in range(first_bucket, buckets):
        for node in range(nodes):
            for layer in range(width):
                here = cost[bucket, node, layer]
                if here <= most and here < np.inf and at[bucket, node, layer] > followed and node != end:
                    found[n] = (bucket * nodes + node) * width + layer
                    n += 1
    return found[:n]


@kernel
def broken_off(labels, base, buckets, steps, since, moment, inside_bar_cost, layers, ahead, still):  # type: ignore[no-untyped-def]
    """Cost and state of the cheapest way of a table that plays at a moment, in a bar; infinite and -1 where there is none.

    labels, base, buckets, since: as of `places_met`. steps: int64 (nodes,). moment: (sample, least span, longest step): ways
    that began less than so long before do not count, nor do bars that last longer. inside_bar_cost: by the share of a bar to
    the nearest bar line. layers: of so many seams the ways may be. ahead: (cost a sample, of each node in rows, sample), what
    the costs of the labels have counted for what comes until then; the one that is returned has not. still: as of
    `places_met`, and counted likewise.
    """
    at_moment, least_span, longest_step = moment
    per_sample, to_end, until = ahead
    cost, at, began = labels
    _, nodes, width = cost.shape
    least, found = np.inf, -1
    for bucket in range(buckets[0], buckets[1]):
        for node in range(nodes):
            step = steps[node]
            if step <= 0 or step > longest_step:
                continue
            for layer in range(layers):
                here = np.float64(cost[bucket, node, layer])
                if here == np.inf:
                    continue
                here -= to_end[layer if to_end.shape[0] > 1 else 0, node] + per_sample * (
                    until - at[bucket, node, layer] - base
                )
                here -= still_strays(still, node, layer, base + at[bucket, node, layer])
                if here >= least:
                    continue
                if at_moment - since[began[bucket, node, layer]] < least_span:
                    continue
                into = at_moment - at[bucket, node, layer] - base
                if 0 <= into < step:
                    value = here + inside_bar_cost * min(into, step - into) / step
                    if value < least:
                        least, found = value, (bucket * nodes + node) * width + layer
    return least, found


@kernel
def walked_back(came, taken, state):  # type: ignore[no-untyped-def]
    """Where a state of `cheapest_labels` goes back to: the number of the start, and the edges on the way, the last one first.

    came, taken: as it returns them. Below 0 a state is a start itself, -1 minus its number. Returns: int, and int64 (edges,).
    """
    edges = np.empty(came.size, dtype=np.int64)
    n = 0
    while state >= 0:
        if taken[state] >= 0:
            edges[n] = taken[state]
            n += 1
        state = np.int64(came[state])
    return -1 - state, edges[:n].copy()


@kernel
def along_ways(came, taken, percentiles):  # type: ignore[no-untyped-def]
    """The seams on the way to every state of `cheapest_labels`, and the lowest percentile among them.

    came, taken: as it returns them; percentiles: float32 (edges,). A state comes from earlier ones only. Returns: int32 and
    float32 (states,), 0 and 100 where there is no seam.
    """
    seams = np.zeros(came.size, dtype=np.int32)
    worst = np.full(came.size, np.float32(100.0), dtype=np.float32)
    for state in range(came.size):
        before, edge = came[state], taken[state]
        if before >= 0:
            seams[state] = seams[before]
            worst[state] = worst[before]
            if edge >= 0:
                seams[state] += 1
                worst[state] = min(worst[state], percentiles[edge])
    return seams, worst
