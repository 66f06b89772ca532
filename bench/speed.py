"""How fast: listening beside librosa's plain pass, planning, rendering. All on one core, in one run, on the demo tracks.

Usage: speed.py [--plans N]
"""

import argparse
import os

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS"):
    os.environ[name] = "1"
if hasattr(os, "sched_setaffinity"):
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})

import time
from collections.abc import Callable
from pathlib import Path

import librosa
import numpy as np

from evenseam.core.audio import decode
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Brief
from evenseam.core.plan.planner import Planner
from evenseam.core.render import Renderer, render_blocks
from evenseam.demo.load import MUSIC
from evenseam.demo.scores import SCORES


def timed(work: Callable[[], object], times: int = 3) -> float:
    """The fastest of several runs, in seconds."""
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        spent.append(time.perf_counter() - began)
    return min(spent)


def librosa_plain_pass(path: Path) -> None:
    """What a program would do with the usual library: beats, harmony and timbre, decode included."""
    sound, rate = librosa.load(path, sr=22_050)
    librosa.beat.beat_track(y=sound, sr=rate)
    librosa.feature.chroma_cqt(y=sound, sr=rate)
    librosa.feature.mfcc(y=sound, sr=rate)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--plans", type=int, default=200)
    args = parser.parse_args()
    paths = [MUSIC / f"{score.slug}.ogg" for score in SCORES]
    tracks = [(p.stem, decode(p)) for p in paths]
    charts = [listen(audio) for _, audio in tracks]
    librosa_plain_pass(paths[2])  # both sides compiled before anything is timed

    print(f"{'listening, decode included':28s} {'length':>8s} {'ours':>18s} {'librosa':>18s} {'ratio':>6s}")
    for path, (name, audio) in zip(paths, tracks, strict=True):
        seconds = audio.n_samples / audio.rate
        ours = timed(lambda path=path: listen(decode(path)))
        theirs = timed(lambda path=path: librosa_plain_pass(path), 2)
        both = f"{ours:7.2f} s {seconds / ours:5.0f} x rt {theirs:7.2f} s {seconds / theirs:5.0f} x rt"
        print(f"{name:28s} {seconds:6.0f} s {both} {theirs / ours:5.1f}")

    print(f"\n{'planning (warm)':28s} {'plans':>8s} {'p50':>9s} {'p95':>9s} {'worst':>9s} {'refused':>8s}")
    for (name, audio), chart in zip(tracks, charts, strict=True):
        planner = Planner(chart, audio.samples)
        for low_s, high_s in ((15, 120), (120, 600)):
            row = plan_times_ms(planner, audio.rate, low_s, high_s, args.plans)
            spent, refused = row
            p50, p95, worst = np.percentile(spent, [50, 95, 100])
            label = f"{name} {low_s}-{high_s} s"
            print(f"{label:28s} {len(spent):8d} {p50:6.1f} ms {p95:6.1f} ms {worst:6.1f} ms {refused:8d}")

    print(f"\n{'rendering 72 s':28s} {'speed change':>14s} {'times real time':>16s} {'first 2 s':>10s}")
    for (name, audio), chart in zip(tracks, charts, strict=True):
        plan = Planner(chart, audio.samples).plan(Brief(72 * audio.rate))
        spent_s = timed(lambda plan=plan, audio=audio: list(render_blocks(plan, audio.samples)))
        first_s = timed(lambda plan=plan, audio=audio: Renderer(plan, audio.samples).block(0, 2 * audio.rate))
        print(f"{name:28s} {plan.max_speed_change_pct():12.2f} % {72 / spent_s:16.0f} {first_s * 1000:7.0f} ms")


def plan_times_ms(planner: Planner, rate: int, low_s: float, high_s: float, count: int) -> tuple[list[float], int]:
    """Milliseconds of each plan that was found, and how many lengths were refused."""
    planner.plan(Brief(int(60 * rate)))
    spent, refused = [], 0
    for seconds in np.exp(np.random.default_rng(3).uniform(np.log(low_s), np.log(high_s), count)):
        began = time.perf_counter()
        try:
            planner.plan(Brief(int(seconds * rate)))
        except NoPlanError:
            refused += 1
            continue
        spent.append((time.perf_counter() - began) * 1000)
    return spent, refused


if __name__ == "__main__":
    main()
