"""Seams against the notes that were really played, at five lengths of every recording: shorter and longer.

Usage: seams.py SET TOOLS [--ratios 0.25 0.5 ...] [--charts FOLDER] [--known] [-v]   (SET and TOOLS as of practice.py)
Prints the shares of seams in time and at the same place of the bar, sounding notes cut off a seam, harmony and players as due:
of all, by ratio, and by grade, which tells whether the grades mean anything. With --charts, charts are kept there and not
heard again. With --known, joins are weighed by the notes themselves, within the same limits: what could be had at best.
-v: by track as well.
"""

import argparse
import json
import pathlib
import sys
from collections import Counter
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np

from evenseam.core.audio.decode import decode
from evenseam.core.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Brief
from evenseam.core.plan.planner import Planner
from other_joins import KnownJoins, PlannerOf

RATIOS = (0.25, 0.5, 0.75, 1.5, 2.0)
FIGURES = {"in_time": "beat_ok", "bar_true": "bar_ok", "lost": "lost", "harmony": "harmony", "players": "players"}
Row = dict[str, float | str]


def seams_of(
    path: pathlib.Path, tools: pathlib.Path, ratios: tuple[float, ...], charts: pathlib.Path | None, known: bool
) -> list[Row]:
    """A row a seam: what the notes say of it, and what the plan said."""
    sys.path.insert(0, str(tools))
    from seam_truth import judge  # the practice tools are on the path only now

    truth = json.loads(path.with_suffix(".json").read_text())
    audio = decode(path)
    chart = chart_of(path, charts)
    planner = PlannerOf(chart, audio.samples, KnownJoins(chart, truth)) if known else Planner(chart, audio.samples)
    rows: list[Row] = []
    music = chart.music_end_samples - chart.music_start_samples
    for ratio in ratios:
        try:
            plan = planner.plan(Brief(round(music * ratio)))
        except NoPlanError as error:
            rows.append({"track": path.stem, "ratio": str(ratio), "refused": error.detail})
            continue
        passages = [[p.source_in_samples / chart.rate, p.source_out_samples / chart.rate] for p in plan.passages]
        for judged, seam in zip(judge(passages, truth), plan.seams, strict=True):
            told = {"grade": seam.grade, "percentile": seam.percentile, "out_s": seam.out_samples / chart.rate}
            rows.append({"track": path.stem, "ratio": str(ratio), "method": plan.method, **told, **judged})
    return rows


def chart_of(path: pathlib.Path, folder: pathlib.Path | None) -> Chart:
    """The chart of a recording, kept in a folder if there is one."""
    kept = folder / f"{path.stem}.chart" if folder else None
    if kept and kept.exists():
        return Chart.from_bytes(kept.read_bytes())
    chart = listen(decode(path))
    if kept:
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.write_bytes(chart.to_bytes())
    return chart


def told(name: str, rows: list[Row]) -> str:
    """The figures of some seams, in one line."""
    means = "  ".join(f"{figure} {np.mean([float(r[key]) for r in rows]):.3f}" for figure, key in FIGURES.items())
    return f"{name:28} {len(rows):4} seams  {means}"


def by(key: Callable[[Row], str], rows: list[Row]) -> Iterable[tuple[str, list[Row]]]:
    """Rows that have something in common, in the order in which it first comes."""
    for name in dict.fromkeys(key(r) for r in rows):
        yield name, [r for r in rows if key(r) == name]


def main() -> None:
    """Judge and print."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("set", type=pathlib.Path)
    parser.add_argument("tools", type=pathlib.Path)
    parser.add_argument("--ratios", type=float, nargs="+", default=RATIOS)
    parser.add_argument("--charts", type=pathlib.Path)
    parser.add_argument("--known", action="store_true")
    parser.add_argument("-v", action="store_true", dest="verbose")
    wanted = parser.parse_args()
    one = partial(seams_of, tools=wanted.tools, ratios=tuple(wanted.ratios), charts=wanted.charts, known=wanted.known)
    with ProcessPoolExecutor() as pool:
        found = [row for rows in pool.map(one, sorted(wanted.set.glob("*.flac"))) for row in rows]
    seams = [row for row in found if "refused" not in row]
    if wanted.verbose:
        for name, rows in by(lambda r: str(r["track"]), seams):
            print(told(name, rows))
    for key in ("ratio", "grade"):
        for name, rows in by(lambda r, key=key: str(r[key]), seams):
            print(told(f"{key} {name}", rows))
    print(told("all", seams))
    for row, n in Counter(f"{r['track']} x {r['ratio']}: {r['refused']}" for r in found if "refused" in r).items():
        print(f"refused {row}" + (f" ({n})" if n > 1 else ""))


if __name__ == "__main__":
    main()
