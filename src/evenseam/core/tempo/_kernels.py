"""Numeric kernels of tempo: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def best_starts(periods, at, tolerance, unit, missed, weight, meter, fixed):  # type: ignore[no-untyped-def]
    """Where bar one has to start at every tempo so that hits are met best, and what that costs.

    periods: float64 (tempi,), seconds a beat. at, tolerance: float64 (hits,), seconds. unit: int64 (hits,), the beats from one
    place that does to the next: 1 for any beat, `meter` for downbeats. missed, weight: float64 (hits,), the cost of missing
    each, and of each second that it is off. fixed: where bar one starts, below 0 for anywhere. As a function of the start the
    cost has its least values where a hit is met exactly or just within its tolerance: those are tried. Returns: float64
    (tempi,) cost and start, the earliest of equals.
    """
    n_tempi, n_hits = periods.size, at.size
    best_cost, best_start = np.full(n_tempi, np.inf), np.zeros(n_tempi)
    some_downbeats = unit.max() > 1
    for t in range(n_tempi):
        period = periods[t]
        bar = period * meter
        for k in range(n_hits):
            turns = meter if unit[k] == 1 and some_downbeats else 1
            for turn in range(turns):
                for edge in range(-1, 2):
                    start = (at[k] + edge * tolerance[k] + turn * period) % bar
                    if fixed >= 0:
                        start = fixed
                    cost = 0.0
                    for h in range(n_hits):
                        step = period * unit[h]
                        off = (at[h] - start) / step
                        off = abs(off - np.rint(off)) * step
                        cost += weight[h] * off + (missed[h] if off > tolerance[h] + 1e-9 else 0.0)
                        if cost > best_cost[t] + 1e-12:
                            break
                    if cost < best_cost[t] - 1e-12 or (abs(cost - best_cost[t]) <= 1e-12 and start < best_start[t]):
                        best_cost[t], best_start[t] = cost, start
                    if fixed >= 0:
                        break
                if fixed >= 0:
                    break
            if fixed >= 0:
                break
    return best_cost, best_start
