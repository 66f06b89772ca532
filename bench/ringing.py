"""What rings across beats and half beats, against the notes that were played.  Usage: ringing.py SET...

For every place and every cell of pitch class and register: is a note that is held across the place told from one that is
not (area under the curve), and do places where much is held stand out (rank correlation of how much)?
"""

import json
import pathlib
import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import scipy.stats

from evenseam.core.audio import decode
from evenseam.core.chart.description import N_CELLS
from evenseam.core.listen.intake import take_in
from evenseam.core.listen.ringing import ringing
from evenseam.core.listen.spectra import spectra

HELD_BEFORE_S, HELD_AFTER_S = 0.03, 0.08  # a note that lasts so long on both sides of a place goes on across it


def held_notes(notes: np.ndarray, at_s: np.ndarray) -> np.ndarray:
    """Number of notes held across each place by cell, (places, 36)."""
    out = np.zeros((at_s.size, N_CELLS))
    for on, off, channel, pitch in notes:
        if channel == 9:
            continue
        inside = (at_s > on + HELD_BEFORE_S) & (at_s < off - HELD_AFTER_S)
        out[inside, 12 * int(np.searchsorted((48, 65), pitch, side="right")) + int(pitch) % 12] += 1
    return out


def judged(path: pathlib.Path) -> tuple[str, float, float]:
    """Name, area under the curve over cells, and rank correlation over places."""
    truth = json.loads(path.with_suffix(".json").read_text())
    audio = decode(path)
    intake = take_in(audio.samples, audio.rate)
    spec = spectra(intake.mono, intake.samples_per_mono)
    hops_per_s = audio.rate / float(spec.samples_per_hop)
    beats_s = np.array(truth["beats"])
    rings, _ = ringing(spec.tones, beats_s * hops_per_s, hops_per_s)
    halves_s = np.stack([beats_s, beats_s + np.diff(beats_s, append=2 * beats_s[-1] - beats_s[-2]) / 2], axis=1).ravel()
    held, found = held_notes(np.array(truth["notes"]), halves_s), rings.reshape(-1, N_CELLS)
    sounding = (halves_s > truth["first"]) & (halves_s < truth["end"])
    held, found = held[sounding], found[sounding]
    is_held = held.ravel() > 0
    if is_held.all() or not is_held.any():
        return path.stem, np.nan, np.nan
    ranks = scipy.stats.rankdata(found.ravel())
    n = is_held.sum()
    area = (ranks[is_held].sum() - n * (n + 1) / 2) / (n * (is_held.size - n))
    return path.stem, float(area), float(scipy.stats.spearmanr(held.sum(axis=1), found.sum(axis=1)).statistic)


def main() -> None:
    for folder in sys.argv[1:]:
        with ProcessPoolExecutor(2) as pool:
            rows = list(pool.map(judged, sorted(pathlib.Path(folder).glob("*.flac"))))
        for name, area, rank in rows:
            print(f"  {name:44s} cells {area:.3f}  places {rank:.3f}")
        means = np.nanmean([[a, r] for _, a, r in rows], axis=0)
        print("{}: {} recordings, cells {:.3f}, places {:.3f}".format(folder, len(rows), *means))


if __name__ == "__main__":
    main()
