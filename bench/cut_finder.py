"""Whether a small classifier can tell the seams of fits from the beats that the piece has itself, leaving one track out.

Usage: cut_finder.py SET [--ratios 0.5 1.6] [--charts FOLDER] [--careless]   (recordings; charts are kept as by seams.py)
Prints the area under the curve: 0.5 is chance, so a cut that cannot be told from any other beat. What it sees: how level,
timbre, harmony and flux change across a beat over 50 ms to 2 s. With --careless, seams are at any places that keep the bar:
those it has to find, or it is blind.
"""

import argparse
import pathlib
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
from sklearn.ensemble import GradientBoostingClassifier
from sklearn.metrics import roc_auc_score
from sklearn.preprocessing import StandardScaler

from evenseam.core.audio.decode import decode
from evenseam.core.errors import NoPlanError
from evenseam.core.listen.features.intake import take_in
from evenseam.core.listen.features.spectra import Spectra, spectra
from evenseam.core.plan import Brief, Plan
from evenseam.core.plan.planner import Planner
from evenseam.core.render import Renderer
from other_joins import CarelessJoins, PlannerOf
from seams import chart_of

REACHES_S = (0.05, 0.2, 0.5, 2.0)
Described = tuple[np.ndarray, np.ndarray]


def described(path: pathlib.Path, ratios: tuple[float, ...], charts: pathlib.Path | None, careless: bool) -> Described:
    """What is seen at every beat of the fits of a track, (beats, features), and which of them are seams."""
    audio = decode(path)
    chart = chart_of(path, charts)
    planner = PlannerOf(chart, audio.samples, CarelessJoins(chart)) if careless else Planner(chart, audio.samples)
    found = []
    for ratio in ratios:
        try:
            plan = planner.plan(Brief(round((chart.music_end_samples - chart.music_start_samples) * ratio)))
        except NoPlanError:
            continue
        if plan.seams:
            found.append(_described(plan, chart.beats, audio.samples))
    if not found:
        return np.empty((0, 4 * len(REACHES_S))), np.empty(0, dtype=bool)
    seen, is_seam = (np.concatenate(part) for part in zip(*found, strict=True))
    return StandardScaler().fit_transform(seen), is_seam


def _described(plan: Plan, beats: np.ndarray, samples: np.ndarray) -> Described:
    taken = take_in(Renderer(plan, samples).block(0, plan.target_samples), plan.rate)
    spec = spectra(taken.mono, taken.samples_per_mono)
    at = []
    for passage in plan.passages:
        inside = beats[(beats >= passage.source_in_samples) & (beats < passage.source_out_samples)]
        at.append(passage.time_map().out_at(inside))
    places = np.concatenate(at)
    seams = np.array([seam.out_samples for seam in plan.seams])
    is_seam = np.zeros(places.size, dtype=bool)
    is_seam[[int(np.argmin(np.abs(places - seam) + 1e9 * (places < seam))) for seam in seams]] = True  # the beat after each cut
    return _changes(spec, places, plan.rate), is_seam


def _changes(spec: Spectra, places: np.ndarray, rate: int) -> np.ndarray:
    """How much is other after each place than before it, over each reach."""
    hops_per_s, n = rate / float(spec.samples_per_hop), spec.n_hops
    hops = np.clip(np.rint(places / float(spec.samples_per_hop)).astype(int), 0, n - 1)
    level = spec.bands.mean(axis=1, keepdims=True)
    columns = []
    harmony = spec.chroma / (np.linalg.norm(spec.chroma, axis=1, keepdims=True) + 1e-6)
    for values in (level, spec.bands - level, harmony, spec.rise[:, None]):
        total = np.concatenate([np.zeros((1, values.shape[1])), np.cumsum(values, axis=0, dtype=np.float64)])
        for reach_s in REACHES_S:
            width = max(2, round(reach_s * hops_per_s))
            low, high = np.maximum(0, hops - width), np.minimum(n, hops + width)
            before = (total[hops] - total[low]) / np.maximum(1, hops - low)[:, None]
            after = (total[high] - total[hops]) / np.maximum(1, high - hops)[:, None]
            columns.append(np.linalg.norm(after - before, axis=1))
    return np.stack(columns, axis=1)


def judged(tracks: list[Described], left_out: int) -> np.ndarray:
    """How likely each beat of one track is a seam, by what was learnt from all others."""
    others = [track for k, track in enumerate(tracks) if k != left_out]
    model = GradientBoostingClassifier(n_estimators=60, max_depth=3, subsample=0.7, random_state=0)
    model.fit(np.concatenate([s for s, _ in others]), np.concatenate([y for _, y in others]))
    told: np.ndarray = model.predict_proba(tracks[left_out][0])[:, 1]
    return told


def main() -> None:
    """Judge every track by what was learnt from the others, and print the area."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("set", type=pathlib.Path, nargs="+")
    parser.add_argument("--ratios", type=float, nargs="+", default=(0.5, 1.6))
    parser.add_argument("--charts", type=pathlib.Path)
    parser.add_argument("--careless", action="store_true")
    wanted = parser.parse_args()
    one = partial(described, ratios=tuple(wanted.ratios), charts=wanted.charts, careless=wanted.careless)
    paths = [path for folder in wanted.set for path in sorted(folder.rglob("*")) if path.suffix in (".flac", ".ogg")]
    with ProcessPoolExecutor() as pool:
        tracks = [track for track in pool.map(one, paths) if track[1].any()]
    with ProcessPoolExecutor() as pool:
        told = list(pool.map(partial(judged, tracks), range(len(tracks))))
    seams, scores = np.concatenate([is_seam for _, is_seam in tracks]), np.concatenate(told)
    area = roc_auc_score(seams, scores)
    print(f"area under the curve {area:.3f}: {seams.sum()} seams among {seams.size} beats of {len(tracks)} tracks")


if __name__ == "__main__":
    main()
