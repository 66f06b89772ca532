"""Charts and seams against recordings whose beats, bars and notes are known.

Usage: practice.py SET TOOLS [--only NAME] [--seams]   (SET made by TOOLS/make.py, TOOLS the folder of the practice tools)
Prints beat and downbeat figures by track; with --seams also in-time and bar-true shares of the seams of three fits each.
"""

import argparse
import json
import pathlib
import subprocess
import sys
import tempfile
import time

from evenseam.core.audio.decode import decode
from evenseam.core.listen import listen


def main() -> None:
    args = _arguments()
    sys.path.insert(0, str(args.tools))
    charts, spent, heard = {}, 0.0, 0.0
    for path in sorted(args.set.glob("*.flac")):
        if args.only and args.only not in path.stem:
            continue
        began = time.perf_counter()
        audio = decode(path)
        chart = listen(audio)
        spent += time.perf_counter() - began
        heard += audio.n_samples / audio.rate
        charts[path.stem] = (audio, chart)
    estimates = {
        name: {"beats": [b / c.rate for b in c.beats.tolist()], "downbeats": [b / c.rate for b in c.downbeats.tolist()]}
        for name, (_, c) in charts.items()
    }
    with tempfile.TemporaryDirectory() as folder:
        file = pathlib.Path(folder, "estimates.json")
        file.write_text(json.dumps(estimates))
        subprocess.run([sys.executable, str(args.tools / "eval_beats.py"), str(args.set), str(file), "-v"], check=True)
    print(f"listening: {heard / spent:.0f} times real time, decode included")
    if args.seams:
        _judge_seams(charts, args.set)


def _judge_seams(charts: dict, folder: pathlib.Path) -> None:
    from seam_truth import judge, summary  # the practice tools are on the path only now

    from evenseam.core.errors import NoPlanError
    from evenseam.core.plan import Brief
    from evenseam.core.plan.planner import Planner

    rows = []
    for name, (audio, chart) in charts.items():
        truth = json.loads((folder / f"{name}.json").read_text())
        planner = Planner(chart, audio.samples)
        mine = []
        for target_s in (30, 72, 150):
            try:
                plan = planner.plan(Brief(target_samples=target_s * chart.rate))
            except NoPlanError as error:
                print(f"{name}: no plan for {target_s} s: {error.detail}")
                continue
            passages = [[p.source_in_samples / chart.rate, p.source_out_samples / chart.rate] for p in plan.passages]
            mine += judge(passages, truth)
        rows += mine
        if mine:
            s = summary(mine)
            shares = f"in time {s['in_time']:.2f}  bar-true {s['bar_true']:.2f}  lost {s['lost_notes']:.2f}"
            print(f"{name:28s} {s['seams']:3d} seams  {shares}")
    print({k: round(v, 3) for k, v in summary(rows).items()})


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path)
    parser.add_argument("tools", type=pathlib.Path)
    parser.add_argument("--only", default="")
    parser.add_argument("--seams", action="store_true")
    return parser.parse_args()


if __name__ == "__main__":
    main()
