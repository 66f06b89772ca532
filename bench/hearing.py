"""Beats, bars, and how far the charts' own sureness can be trusted, on sets of recordings whose beats are known.

Usage: hearing.py SET... [-v] [--signs OUT.npz]   (each SET a folder of .flac and .json as the practice tools and scores.py
make them, or of .npz as ear.dataset makes them). Beats count as found within 70 ms (F-measure); needs mir_eval.
With --signs, what tells right charts from wrong ones is kept for bench/ear/sure_fit.py.
"""

import argparse
import json
import pathlib
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import mir_eval
import numpy as np

from evenseam.core.audio.decode import decode
from evenseam.core.audio.levels import sounding_span
from evenseam.core.listen.beats.bars import find_bars
from evenseam.core.listen.beats.ear import hear
from evenseam.core.listen.beats.sureness import SIGNS
from evenseam.core.listen.features.intake import take_in
from evenseam.core.listen.features.spectra import Spectra, _rise, spectra

FOUND, BARS_FOUND = 0.85, 0.7  # F-measures from which beats and bars count as heard
SURE = 0.7  # charts that give beats and beat one so much call themselves sure
BINS = (0.0, 0.25, 0.5, 0.6, 0.7, 0.8, 0.9, 1.01)
FROM_S = 5.0


@dataclass(frozen=True)
class Row:
    """What was heard of one recording, F-measures against its truth; `kind`: right, or what went wrong."""

    name: str
    beat: float
    octave: float
    bar: float
    bar_octave: float
    kind: str
    sure: float
    free: bool
    truly_free: bool

    @property
    def is_wrong(self) -> bool:
        """Whether beats or bars are wrong, octaves forgiven."""
        return self.truly_free != self.free or (not self.free and (self.octave < FOUND or self.bar_octave < BARS_FOUND))


def _row_of(path: pathlib.Path) -> tuple[Row, np.ndarray]:
    """What was heard of one recording, and the signs of how far it can be trusted."""
    if path.suffix == ".npz":
        spec, start_hop, end_hop, hops_per_s, truth = _stored(path)
    else:
        truth = json.loads(path.with_suffix(".json").read_text())
        audio = decode(path)
        intake = take_in(audio.samples, audio.rate)
        spec = spectra(intake.mono, intake.samples_per_mono)
        hops_per_s = audio.rate / float(spec.samples_per_hop)
        start, end = sounding_span(intake.mono, intake.mono_rate_hz)
        start_hop, end_hop = (float(v / intake.mono_rate_hz * hops_per_s) for v in (start, end))
    track = find_bars(spec, hear(spec), hops_per_s, start_hop)
    if track is None:
        return _judged(path.stem, truth, np.empty(0), np.empty(0), 0.0, True), np.zeros(len(SIGNS))
    counted = track.from_to(start_hop, end_hop)
    beats = counted.hops / hops_per_s
    row = _judged(path.stem, truth, beats, beats[counted.place == 0], track.sure.bar, track.sure.is_free_time)
    return row, track.signs


def _stored(path: pathlib.Path) -> tuple[Spectra, float, float, float, dict]:
    with np.load(path) as d:
        bands = d["bands"].astype(np.float32)
        spec = Spectra(bands, bands[:, :12], _rise(bands), d["tones"].astype(np.float32), Fraction(220))
        loud = np.flatnonzero(bands.mean(axis=1) > 0.3)
        has_beat = int(d["n_beats"]) > 0
        truth = {name: d[f"{name}_s"].tolist() if has_beat else [] for name in ("beats", "downbeats")}
        truth |= {"first": float(d["beats_s"][0]), "end": float(d["beats_s"][-1])} if has_beat else {"first": 0.0, "end": 0.0}
    return spec, float(loud[0]), float(loud[-1]), 22_050 / 220, truth


def _judged(name: str, truth: dict, beats: np.ndarray, downs: np.ndarray, sure: float, free: bool) -> Row:
    if not truth["beats"]:
        return Row(name, np.nan, np.nan, np.nan, np.nan, "right" if free else "a beat where none is", sure, free, True)
    low, high = max(FROM_S, truth["first"]), truth["end"] - 1
    true_beats, true_downs, beats, downs = (
        np.array([x for x in v if low <= x <= high]) for v in (truth["beats"], truth["downbeats"], beats, downs)
    )
    score = mir_eval.beat.f_measure
    beat, bar = score(true_beats, beats), score(true_downs, downs)
    octave = max(score(v, beats) for v in (true_beats, true_beats[::2], true_beats[1::2], _parts(true_beats, 2)))
    bar_octave = max(score(v, downs) for v in (true_downs, true_downs[::2], true_downs[1::2], _parts(true_downs, 2)))
    kind = _kind(score, true_beats, beats, (beat, octave, bar_octave), free)
    return Row(name, beat, octave, bar, bar_octave, kind, sure, free, False)


def _kind(score, true: np.ndarray, beats: np.ndarray, figures: tuple[float, float, float], free: bool) -> str:  # type: ignore[no-untyped-def]
    beat, octave, bar = figures
    if free:
        return "free time that is none"
    if octave >= FOUND:
        octaves = "" if beat >= FOUND else ", an octave off"
        return ("right" if bar >= BARS_FOUND else "bars wrong") + octaves
    if score((true[1:] + true[:-1]) / 2, beats) >= FOUND:
        return "half a beat off"
    halves = [_parts(true, 3)[k::2] for k in range(2)] + [_parts(true, 2)[k::3] for k in range(3)]
    thirds = [true[k::3] for k in range(3)] + [_parts(true, 3), _parts(true, 4)[::3]]
    if max(score(v, beats) for v in halves + thirds) >= FOUND:
        return "three halves, thirds"
    return "otherwise"


def _parts(at: np.ndarray, n: int) -> np.ndarray:
    """Every beat in n parts."""
    return np.interp(np.arange((at.size - 1) * n + 1) / n, np.arange(at.size), at)


def _rows(folder: pathlib.Path) -> Iterator[tuple[Row, np.ndarray]]:
    with ProcessPoolExecutor(2) as pool:
        yield from pool.map(_row_of, sorted([*folder.glob("*.flac"), *folder.glob("*.npz")]))


def _print(folder: pathlib.Path, rows: list[Row], verbose: bool) -> None:
    if verbose:
        for r in rows:
            figures = f"beat {r.beat:.2f} {r.octave:.2f}  bar {r.bar:.2f} {r.bar_octave:.2f}  sure {r.sure:.2f}"
            print(f"  {r.name:44s} {figures}  {r.kind}")
    means = np.nanmean([[r.beat, r.octave, r.bar, r.bar_octave] for r in rows], axis=0)
    print(f"{folder}: {len(rows)} recordings")
    print("  beat F {:.3f}, any octave {:.3f}; downbeat F {:.3f}, any octave {:.3f}".format(*means))
    for kind in sorted({r.kind for r in rows}):
        print(f"  {kind}: {sum(r.kind == kind for r in rows)}")
    heard = [r for r in rows if not r.free]
    for low, high in pairwise(BINS):
        some = [r for r in heard if low <= r.sure < high]
        if some:
            print(f"  sure {low:.2f} to {min(high, 1):.2f}: {len(some):3d}, wrong {sum(r.is_wrong for r in some)}")
    sure = [r for r in heard if r.sure >= SURE]
    print(f"  sure and wrong: {sum(r.is_wrong for r in sure)} of {len(sure)}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path, nargs="+")
    parser.add_argument("-v", action="store_true")
    parser.add_argument("--signs", type=pathlib.Path)
    args = parser.parse_args()
    everything: list[Row] = []
    signs: list[np.ndarray] = []
    for folder in args.set:
        rows, of_each = zip(*_rows(folder), strict=True)
        everything += rows
        signs += of_each
        _print(folder, list(rows), args.v)
    if args.signs:
        beats = [r.octave >= FOUND for r in everything]
        bars = [r.octave >= FOUND and r.bar_octave >= BARS_FOUND for r in everything]
        pulse = [not r.truly_free for r in everything]
        np.savez(args.signs, signs=np.array(signs), pulse=pulse, beats=beats, bars=bars)
    free, pulse = ([r for r in everything if r.truly_free is k] for k in (True, False))
    if free:
        told = np.mean([np.mean([r.free for r in free]), np.mean([not r.free for r in pulse])])
        print(f"free time against pulse: balanced accuracy {told:.3f} ({len(free)} free, {len(pulse)} with a pulse)")


if __name__ == "__main__":
    main()
