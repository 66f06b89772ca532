"""Numeric kernels of listening: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numba
import numpy as np

NEVER = np.float32(-1e30)


@numba.njit(cache=True)
def best_bars(beat, downbeat, shortest, longest, change_cost, first_of, bonus, slip_cost, change_metre_cost, beam, start):  # type: ignore[no-untyped-def]
    """Most likely beats, with their places in the bar, over (tick, interval, metre and place) by Viterbi.

    A bar-pointer model (Whiteley, Cemgil and Godsill 2006) in its segment form: one state per beat instead of one per
    tick. beat, downbeat: float32 (n,), what a plain beat and a downbeat at each tick are worth, against none. Intervals
    run from `shortest` to `longest` ticks; going from interval j to k costs change_cost[k, j] (none where infinite).
    first_of: int64 (metres + 1,), where each metre's places start among the states; bonus: float32 (metres,), what a bar
    of each metre is worth in itself.
    A bar cut short costs slip_cost, and another metre from the next bar on change_metre_cost more. Of the beats that may
    be at one tick, intervals whose best falls behind the best of all by more than `beam` are not followed. start: int64 (3,),
    the (tick, interval index, state) to go on from, tick -1 for a free start.
    Returns: int64 (beats, 3) of tick, interval index and state, in order.
    """
    n = beat.size
    n_intervals = longest - shortest + 1
    n_states = first_of[-1]
    n_meters = bonus.size
    ring = longest + 1
    score = np.full((ring, n_intervals, n_states), NEVER, dtype=np.float32)
    from_interval = np.zeros((n, n_intervals, n_states), dtype=np.int8)
    from_state = np.full((n, n_intervals, n_meters), -1, dtype=np.int8)
    row_top = np.full((ring, n_intervals), NEVER, dtype=np.float32)
    tick_top = np.full(ring, NEVER, dtype=np.float32)
    best = np.empty(n_states, dtype=np.float32)
    best_j = np.empty(n_states, dtype=np.int8)
    meter_top = np.empty(n_meters, dtype=np.float32)
    meter_top_s = np.empty(n_meters, dtype=np.int64)
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
    end_state = start[2] if fixed else 0
    end_score = NEVER
    if fixed:
        score[start[0] % ring, start[1], start[2]] = 0.0
        row_top[start[0] % ring, start[1]] = 0.0
        tick_top[start[0] % ring] = 0.0
    for t in range(first + 1 if fixed else 0, n):
        row = t % ring
        tick_top[row] = NEVER
        for k in range(n_intervals):
            row_top[row, k] = NEVER
            back = t - shortest - k
            out = score[row, k]
            if back < first:
                for s in range(n_states):
                    out[s] = NEVER if fixed else beat[t]
                if not fixed:
                    for m in range(n_meters):
                        out[first_of[m]] = downbeat[t] + bonus[m]
                    from_interval[t, k, :] = -128
                    row_top[row, k] = max(downbeat[t] + bonus.max(), beat[t])
                    tick_top[row] = max(tick_top[row], row_top[row, k])
                continue
            before = score[back % ring]
            least = tick_top[back % ring] - beam
            best[:] = NEVER
            best_j[:] = 0
            for j in range(low[k], high[k]):
                if row_top[back % ring, j] < least:
                    continue
                cost = change_cost[k, j]
                for s in range(n_states):
                    value = before[j, s] - cost
                    if value > best[s]:
                        best[s] = value
                        best_j[s] = j - k
            top = NEVER
            top_s = 0
            for m in range(n_meters):
                meter_top[m] = NEVER
                for s in range(first_of[m], first_of[m + 1]):
                    if best[s] > meter_top[m]:
                        meter_top[m] = best[s]
                        meter_top_s[m] = s
                if meter_top[m] > top:
                    top = meter_top[m]
                    top_s = meter_top_s[m]
            for m in range(n_meters):
                head = first_of[m]
                last = first_of[m + 1] - 1
                for s in range(last, head, -1):
                    out[s] = best[s - 1] + beat[t]
                    from_interval[t, k, s] = best_j[s - 1]
                value = best[last]
                source = last
                if meter_top[m] - slip_cost > value:
                    value = meter_top[m] - slip_cost
                    source = meter_top_s[m]
                if top - slip_cost - change_metre_cost > value:
                    value = top - slip_cost - change_metre_cost
                    source = top_s
                out[head] = value + downbeat[t] + bonus[m]
                from_interval[t, k, head] = best_j[source]
                from_state[t, k, m] = source
            for s in range(n_states):
                if out[s] > row_top[row, k]:
                    row_top[row, k] = out[s]
            if row_top[row, k] > tick_top[row]:
                tick_top[row] = row_top[row, k]
            if t >= n - longest:
                for s in range(n_states):
                    if out[s] > end_score:
                        end_score = out[s]
                        end_tick = t
                        end_k = k
                        end_state = s
    found = np.empty((n // shortest + 2, 3), dtype=np.int64)
    count = 0
    t = end_tick
    k = end_k
    s = end_state
    while True:
        found[count, 0] = t
        found[count, 1] = k
        found[count, 2] = s
        count += 1
        if (fixed and t == first) or from_interval[t, k, s] == -128:
            break
        back = t - shortest - k
        j = k + from_interval[t, k, s]
        source = s - 1
        for m in range(n_meters):
            if s == first_of[m]:
                source = from_state[t, k, m]
        t = back
        k = j
        s = source
    return found[:count][::-1].copy()


@numba.njit(cache=True)
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
