"""What keeping only the best joins of each beat costs: plain lengths and hits, planned with them and with every join there is.

Usage: pruning.py [--lengths N]   (demo tracks)
Prints how many plans cost the same, how much more the others cost, and the time that all of them took.
"""

import argparse
import time

import numpy as np

from evenseam.core.audio.decode import decode
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Aim, Brief
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search import graph, joins
from evenseam.demo.load import MUSIC

SAME_COST = 0.01
EVERY = 1_000_000
SOME_HITS_S = (11.0, 23.5)


def briefs(rate: int, count: int) -> list[Brief]:
    """Lengths of 15 s to ten minutes, each alone and past two hits."""
    lengths = np.exp(np.random.default_rng(5).uniform(np.log(15), np.log(600), count))
    aims = tuple(Aim(round(s * rate), tolerance_samples=rate // 50) for s in SOME_HITS_S)
    plain = [Brief(round(s * rate)) for s in lengths]
    return plain + [Brief(b.target_samples, aims=aims) for b in plain if b.target_samples > 40 * rate]


def costs(planner: Planner, asked: list[Brief]) -> np.ndarray:
    """What the plan of each brief costs; NaN where there is none."""
    found = []
    for brief in asked:
        try:
            found.append(planner.plan(brief).score)
        except NoPlanError:
            found.append(np.nan)
    return np.array(found)


def main() -> None:
    """Plan and print."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--lengths", type=int, default=20)
    wanted = parser.parse_args()
    usual = joins._KEPT_MOVES, joins._KEPT_SHORT_MOVES, graph._EDGES_PER_BAR, graph._SHORT_EDGES_PER_BAR
    kept, every, spent_s = [], [], [0.0, 0.0]
    for path in sorted(MUSIC.glob("*.ogg")):
        audio = decode(path)
        chart = listen(audio)
        asked, beats = briefs(audio.rate, wanted.lengths), chart.beats.size
        for number, (found, limits) in enumerate(((kept, usual), (every, (beats, beats, EVERY, EVERY)))):
            joins._KEPT_MOVES, joins._KEPT_SHORT_MOVES, graph._EDGES_PER_BAR, graph._SHORT_EDGES_PER_BAR = limits
            began = time.perf_counter()
            found.append(costs(Planner(chart, audio.samples), asked))
            spent_s[number] += time.perf_counter() - began
    some, all_ = np.concatenate(kept), np.concatenate(every)
    more = (some - all_)[~np.isnan(all_) & ~np.isnan(some)]
    dearer = more[more > SAME_COST]
    print(f"{more.size} plans, {np.isnan(some).sum()} refused ({np.isnan(all_).sum()} with every join)")
    mean = float(np.mean(dearer)) if dearer.size else 0.0
    same, usual_cost = np.mean(np.abs(more) <= SAME_COST), np.nanmean(all_)
    print(f"{same:.1%} cost the same; {dearer.size} cost more, by {mean:.2f} of {usual_cost:.1f}")
    print(f"{np.sum(more < -SAME_COST)} cost less: those that go past hits are not looked for to the last")
    print(f"{spent_s[0]:.0f} s with the best, {spent_s[1]:.0f} s with all")


if __name__ == "__main__":
    main()
