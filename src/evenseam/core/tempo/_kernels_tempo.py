"""Numeric kernels of tempo: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numpy as np

from evenseam.core.jit import kernel


@kernel
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
    # What costs most when it is missed is looked at first: most starts are given up after a hit or two.
    order = np.argsort(-missed, kind="mergesort")
    at, tolerance, unit, missed, weight = at[order], tolerance[order], unit[order], missed[order], weight[order]
    steps, a_second = np.empty(n_hits), np.empty(n_hits)
    for t in range(n_tempi):
        period = periods[t]
        bar = period * meter
        a_bar = 1.0 / bar
        for h in range(n_hits):
            steps[h] = period * unit[h]
            a_second[h] = 1.0 / steps[h]
        least, earliest = np.inf, 0.0
        for k in range(n_hits):
            turns = meter if unit[k] == 1 and some_downbeats else 1
            for turn in range(turns):
                for edge in range(-1, 2):
                    start = at[k] + edge * tolerance[k] + turn * period
                    start = fixed if fixed >= 0 else start - np.floor(start * a_bar) * bar
                    cost, most = 0.0, least + 1e-12
                    for h in range(n_hits):
                        off = (at[h] - start) * a_second[h]
                        off = abs(off - np.rint(off)) * steps[h]
                        cost += weight[h] * off + (missed[h] if off > tolerance[h] + 1e-9 else 0.0)
                        if cost > most:
                            break
                    if cost < least - 1e-12 or (abs(cost - least) <= 1e-12 and start < earliest):
                        least, earliest = cost, start
                    if fixed >= 0:
                        break
                if fixed >= 0:
                    break
            if fixed >= 0:
                break
        best_cost[t], best_start[t] = least, earliest
    return best_cost, best_start
