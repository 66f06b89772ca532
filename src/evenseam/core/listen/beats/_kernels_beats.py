"""Numeric kernels of listening: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numpy as np

from evenseam.core.jit import kernel

NEVER = np.float32(-1e30)


@kernel
def best_beats(worth, shortest, longest, change_cost, beam, start):  # type: ignore[no-untyped-def]
    """Most likely beats over (tick, interval) by Viterbi.

    The beats of a bar-pointer model (Whiteley, Cemgil and Godsill 2006) in segment form: one state per beat instead of one
    per tick. worth: float32 (n,), what a beat at each tick is worth, against none. Intervals run from `shortest` to
    `longest` ticks; going from interval j to k costs change_cost[k, j] (none where infinite). Of the beats that may be at
    one tick, intervals whose score falls behind the best of all by more than `beam` are not followed. start: int64 (2,),
    the (tick, interval index) to go on from, tick -1 for a free start.
    Returns: int64 (beats, 2) of tick and interval index, in order.
    """
    n = worth.size
    n_intervals = longest - shortest + 1
    ring = longest + 1
    score = np.full((ring, n_intervals), NEVER, dtype=np.float32)
    came_from = np.zeros((n, n_intervals), dtype=np.int8)  # how much longer the interval before was; -128: nothing before
    tick_top = np.full(ring, NEVER, dtype=np.float32)
    low = np.empty(n_intervals, dtype=np.int64)
    high = np.empty(n_intervals, dtype=np.int64)
    for k in range(n_intervals):
        near = np.flatnonzero(np.isfinite(change_cost[k]))
        low[k] = near[0]
        high[k] = near[-1] + 1
    fixed = start[0] >= 0
    first = start[0] if fixed else 0
    end_tick = first
    end_k = start[1] if fixed else 0
    end_score = NEVER
    if fixed:
        score[start[0] % ring, start[1]] = 0.0
        tick_top[start[0] % ring] = 0.0
    for t in range(first + 1 if fixed else 0, n):
        row = score[t % ring]
        top = NEVER
        for k in range(n_intervals):
            back = t - shortest - k
            if back < first:
                row[k] = NEVER if fixed else worth[t]
                came_from[t, k] = -128
            else:
                before = score[back % ring]
                least = tick_top[back % ring] - beam
                best = NEVER
                best_j = k
                for j in range(low[k], high[k]):
                    if before[j] >= least and before[j] - change_cost[k, j] > best:
                        best = before[j] - change_cost[k, j]
                        best_j = j
                row[k] = best + worth[t]
                came_from[t, k] = best_j - k
            top = max(top, row[k])
            if t >= n - longest and row[k] > end_score:
                end_score = row[k]
                end_tick = t
                end_k = k
        tick_top[t % ring] = top
    found = np.empty((n // shortest + 2, 2), dtype=np.int64)
    count = 0
    t = end_tick
    k = end_k
    while True:
        found[count, 0] = t
        found[count, 1] = k
        count += 1
        if (fixed and t == first) or came_from[t, k] == -128:
            break
        j = k + came_from[t, k]
        t -= shortest + k
        k = j
    return found[:count][::-1].copy()


@kernel
def best_bar_places(worth, meters, slip):  # type: ignore[no-untyped-def]
    """Most likely place in the bar of every beat (Viterbi over metre and place).

    worth: float64 (n_meters, n_beats), log-likelihood gain of each beat being a downbeat in each metre
    against not being one. A bar may slip
    (start early, or change metre at a downbeat) at cost `slip`. Returns: int64 (n_beats,) metre index and place.
    """
    n = worth.shape[1]
    n_meters = meters.size
    widest = meters.max()
    score = np.full((n_meters, widest), -1e30)
    came = np.zeros((n, n_meters, widest, 2), dtype=np.int16)
    for m in range(n_meters):
        for p in range(meters[m]):
            score[m, p] = worth[m, 0] if p == 0 else 0.0
    for b in range(1, n):
        fresh = np.full((n_meters, widest), -1e30)
        top = -1e30
        top_m = 0
        top_p = 0
        for m in range(n_meters):
            for p in range(meters[m]):
                if score[m, p] > top:
                    top = score[m, p]
                    top_m = m
                    top_p = p
        for m in range(n_meters):
            for p in range(meters[m]):
                before = p - 1 if p > 0 else meters[m] - 1
                value = score[m, before]
                from_m = m
                from_p = before
                if top - slip > value:
                    value = top - slip
                    from_m = top_m
                    from_p = top_p
                fresh[m, p] = value + (worth[m, b] if p == 0 else 0.0)
                came[b, m, p, 0] = from_m
                came[b, m, p, 1] = from_p
        score = fresh
    m = 0
    p = 0
    top = -1e30
    for i in range(n_meters):
        for j in range(meters[i]):
            if score[i, j] > top:
                top = score[i, j]
                m = i
                p = j
    meter_of = np.empty(n, dtype=np.int64)
    place_of = np.empty(n, dtype=np.int64)
    for b in range(n - 1, -1, -1):
        meter_of[b] = m
        place_of[b] = p
        m, p = came[b, m, p, 0], came[b, m, p, 1]
    return meter_of, place_of
