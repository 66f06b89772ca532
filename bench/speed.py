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

from evenseam.core.audio.decode import Audio, decode
from evenseam.core.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Brief, Plan
from evenseam.core.plan.planner import Planner
from evenseam.core.render import Preview, Shelf, render_blocks
from evenseam.core.render.runs import runs_of
from evenseam.demo.load import MUSIC
from evenseam.demo.scores import SCORES

LIMITS: dict[str, dict] = {
    "at most 3 seams": {"max_seams": 3},
    "at most 1 seam": {"max_seams": 1},
    "no seam": {"max_seams": 0},
    "give 1": {"give_pct": 1.0},
    "no give": {"give_pct": 0.0},
    "hold 16": {"hold_bars": 16},
}


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

    print(f"\n{'planning (warm)':34s} {'plans':>8s} {'p50':>9s} {'p95':>9s} {'worst':>9s} {'refused':>8s} {'p95':>9s}")
    medley = one_after_the_other(tracks)
    planners = [(name, Planner(chart, audio.samples), audio.rate) for (name, audio), chart in zip(tracks, charts, strict=True)]
    planners.append((f"medley of {clock(medley)}", Planner(listen(medley), medley.samples), medley.rate))
    for name, planner, rate in planners:
        for low_s, high_s in ((15, 120), (120, 600), (600, 1200)):
            print(plan_row(f"{name} {low_s}-{high_s} s", planner, rate, (low_s, high_s), args.plans, {}))
    name, planner, rate = planners[-1]
    for words, limits in LIMITS.items():
        print(plan_row(f"{name} 15-1200 s, {words}", planner, rate, (15, 1200), args.plans, limits))

    print(f"\n{'rendering 72 s':28s} {'speed change':>14s} {'way':>10s} {'times real time':>16s} {'first 2 s':>10s}")
    for (name, audio), chart in zip(tracks, charts, strict=True):
        plan = Planner(chart, audio.samples).plan(Brief(72 * audio.rate))
        spent_s = timed(lambda plan=plan, audio=audio: list(render_blocks(plan, audio.samples)))
        first_s = timed(lambda plan=plan, audio=audio: preview_of(plan, audio).block(0, 2 * audio.rate))
        ways = "/".join(sorted({run.way for run in runs_of(plan)}))
        print(f"{name:28s} {plan.max_speed_change_pct():12.2f} % {ways:>10s} {72 / spent_s:16.0f} {first_s * 1000:7.0f} ms")
    for name, audio, chart in ((tracks[2][0], tracks[2][1], charts[2]), (tracks[5][0], tracks[5][1], charts[5])):
        print(hour_row(name, audio, chart))


def clock(audio: Audio) -> str:
    """Its length in minutes and seconds."""
    seconds = audio.n_samples // audio.rate
    return f"{seconds // 60}:{seconds % 60:02d}"


def one_after_the_other(tracks: list[tuple[str, Audio]]) -> Audio:
    """A recording as long as symphonic ones are: tracks of one rate in a row, cut to 9:17."""
    rate = tracks[0][1].rate
    parts = [audio.samples for _, audio in tracks if audio.rate == rate and audio.samples.shape[0] == 2]
    return Audio(np.concatenate(parts, axis=1)[:, : 557 * rate], rate)


def preview_of(plan: Plan, audio: Audio) -> Preview:
    """A preview that keeps what it makes in memory."""
    return Preview(plan, audio.samples, 0, Shelf(lambda channels, n: np.zeros((channels, n), dtype=np.float32)))


def hour_row(name: str, audio: Audio, chart: Chart) -> str:
    """How long the first two seconds take anywhere in an hour, with nothing made before."""
    planner = Planner(chart, audio.samples)
    plans = (planner.plan(Brief(seconds * audio.rate)) for seconds in range(3600, 3660))
    plan = next((p for p in plans if any(run.way == "sweep" for run in runs_of(p))), planner.plan(Brief(3600 * audio.rate)))
    spent = []
    for start in np.random.default_rng(5).integers(0, 3500 * audio.rate, 40).tolist():
        preview, began = preview_of(plan, audio), time.perf_counter()
        preview.block(start, start + 2 * audio.rate)
        spent.append((time.perf_counter() - began) * 1000)
    p50, p95, worst = np.percentile(spent, [50, 95, 100])
    change = plan.max_speed_change_pct()
    return f"{name}, an hour, {change:+.2f} %: first 2 s anywhere p50 {p50:.0f} ms, p95 {p95:.0f} ms, worst {worst:.0f} ms"


def plan_row(words: str, planner: Planner, rate: int, within_s: tuple[float, float], count: int, limits: dict) -> str:
    """Milliseconds of the plans that were found, and of the refusals."""
    found, refused = [], []
    for seconds in (60.0, *np.exp(np.random.default_rng(3).uniform(*np.log(within_s), count))):
        began = time.perf_counter()
        try:
            planner.plan(Brief(int(seconds * rate), **limits))
            answers = found
        except NoPlanError:
            answers = refused
        answers.append((time.perf_counter() - began) * 1000)
    del found[:1]  # the first one weighs the track
    p50, p95, worst = np.percentile(found, [50, 95, 100]) if found else (0, 0, 0)
    late = f"{np.percentile(refused, 95):6.1f} ms" if refused else ""
    return f"{words:44s} {len(found):6d} {p50:6.1f} ms {p95:6.1f} ms {worst:6.1f} ms {len(refused):6d} {late}"


if __name__ == "__main__":
    main()
