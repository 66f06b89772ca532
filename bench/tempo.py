"""The finder of steady tempi beside exhaustive search, and how long it takes: python bench/tempo.py [--lists N]

Each list has 2 to 12 hits at random frames of a picture at 25 fps, of all kinds and weights. Exhaustive: every tempo from 40
to 220 bpm by 0.01, from every start of bar one by a millisecond. What the finder answers may cost no more than what that finds.
"""

import argparse
import time

import numba
import numpy as np

from evenseam.core.tempo.steady import _MISSED, _OFF_A_SECOND, STEP_BPM, Struck, find_steady

FPS, LOW_BPM, HIGH_BPM, METER = 25, 40.0, 220.0, 4
START_STEP_S = 0.001


@numba.njit(cache=True, nogil=True)
def exhaustive(bpm, at, tolerance, unit, missed, weight, step_s):  # type: ignore[no-untyped-def]
    """The least cost of all tempi and starts, and its tempo."""
    best, best_bpm = np.inf, 0.0
    for tempo in bpm:
        period = 60.0 / tempo
        for k in range(int(METER * period / step_s)):
            start, cost = k * step_s, 0.0
            for h in range(at.size):
                step = period * unit[h]
                off = (at[h] - start) / step
                off = abs(off - np.rint(off)) * step
                cost += weight[h] * off + (missed[h] if off > tolerance[h] + 1e-9 else 0.0)
                if cost > best:
                    break
            if cost < best:
                best, best_bpm = cost, tempo
    return best, best_bpm


def some_hits(rng: np.random.Generator, count: int) -> list[Struck]:
    """Random frames within two minutes."""
    frames = np.sort(rng.choice(np.arange(25, 120 * FPS), count, replace=False))
    weights = rng.choice(["must", "should", "nice"], count)
    return [
        Struck(float(f) / FPS, (0.5 + int(rng.integers(0, 3))) / FPS, str(w), bool(rng.random() < 0.5))  # type: ignore[arg-type]
        for f, w in zip(frames, weights, strict=True)
    ]


def main() -> None:
    """Print a line a list."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--lists", type=int, default=20)
    lists = parser.parse_args().lists
    rng, bpm = np.random.default_rng(16), np.round(np.arange(LOW_BPM, HIGH_BPM + STEP_BPM / 2, STEP_BPM), 2)
    print("hits  the finder: bpm, cost, met, ms   exhaustive: bpm, cost")
    twelve_ms = []
    for _ in range(lists):
        hits = some_hits(rng, int(rng.integers(2, 13)))
        find_steady(hits, LOW_BPM, HIGH_BPM, METER)
        began = time.perf_counter()
        found = find_steady(hits, LOW_BPM, HIGH_BPM, METER)[0]
        spent_ms = (time.perf_counter() - began) * 1000
        columns = (
            np.array([h.at_s for h in hits]),
            np.array([h.tolerance_s for h in hits]),
            np.array([METER if h.on_downbeat else 1 for h in hits]),
            np.array([_MISSED[h.weight] for h in hits]),
            np.array([_OFF_A_SECOND[h.weight] for h in hits]),
        )
        cost, tempo = exhaustive(bpm, *columns, START_STEP_S)
        worse = "  WORSE" if found.cost > cost + 1e-9 else ""
        print(
            f"{len(hits):4}  {found.bpm:7.2f} {found.cost:12.4f} {sum(found.is_met):3}/{len(hits):<3} {spent_ms:6.1f}"
            f"      {tempo:7.2f} {cost:12.4f}{worse}"
        )
        twelve = some_hits(rng, 12)
        spent = []
        for _ in range(7):  # the machine has other things to do: the usual one counts
            began = time.perf_counter()
            find_steady(twelve, LOW_BPM, HIGH_BPM, METER)
            spent.append((time.perf_counter() - began) * 1000)
        twelve_ms.append(np.median(spent))
    print(f"12 hits: {np.median(twelve_ms):.0f} ms, p95 {np.percentile(twelve_ms, 95):.0f} ms")


if __name__ == "__main__":
    main()
