"""Numeric kernels of listening: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numba
import numpy as np


@numba.njit(cache=True)
def best_beats(strength, shortest, longest, stiffness):  # type: ignore[no-untyped-def]
    """Best chain of beats by dynamic programming over (hop, interval) (after Ellis 2007, with the interval as a state).

    strength: float32 (n,), what a beat at each hop is worth. Intervals from `shortest` to `longest` hops; a change of
    interval by a factor r costs stiffness * log(r)^2. Returns: int64 hops of the beats, in order, and the score.
    """
    n = strength.size
    m = longest - shortest + 1
    score = np.full((n, m), -1e30, dtype=np.float32)
    came = np.full((n, m), -1, dtype=np.int16)
    log_interval = np.log(np.arange(shortest, longest + 1).astype(np.float64))
    for t in range(n):
        for k in range(m):
            interval = shortest + k
            back = t - interval
            if back < 0:
                score[t, k] = strength[t]
                continue
            best = np.float32(-1e30)
            best_from = -1
            for j in range(max(0, k - 4), min(m, k + 5)):
                change = log_interval[k] - log_interval[j]
                value = score[back, j] - np.float32(stiffness * change * change)
                if value > best:
                    best = value
                    best_from = j
            score[t, k] = best + strength[t]
            came[t, k] = best_from
    end_t = n - 1
    end_k = 0
    best = np.float32(-1e30)
    for t in range(max(0, n - longest), n):
        for k in range(m):
            if score[t, k] > best:
                best = score[t, k]
                end_t = t
                end_k = k
    out = np.empty(n // shortest + 2, dtype=np.int64)
    count = 0
    t = end_t
    k = end_k
    while t >= 0:
        out[count] = t
        count += 1
        j = came[t, k]
        t -= shortest + k
        if j < 0:
            break
        k = j
    return out[:count][::-1].copy(), best


@numba.njit(cache=True)
def best_bar_places(worth, meters, slip):  # type: ignore[no-untyped-def]
    """Most likely place in the bar of every beat (Viterbi over metre and place).

    worth: float64 (n_meters, n_beats), log-likelihood gain of each beat being a downbeat in each metre. A bar may slip
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
