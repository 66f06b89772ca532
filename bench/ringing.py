"""What rings across beats and which notes sound between them, against the notes that were played.  Usage: ringing.py SET...

For every beat and every cell of pitch class and register: is a note that is held across the beat told from one that is not
(area under the curve), and do beats where much is held stand out (rank correlation of how much)? For every beat and every
pitch class: is one that sounds until the next beat told from one that does not (area under the curve)?
"""

import json
import pathlib
import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import scipy.stats

from evenseam.core.audio.decode import decode
from evenseam.core.chart.description import N_CELLS, N_PITCH_CLASSES
from evenseam.core.listen.features.intake import take_in
from evenseam.core.listen.features.spectra import spectra
from evenseam.core.listen.harmony.pitches import pitches
from evenseam.core.listen.harmony.ringing import ringing

HELD_BEFORE_S, HELD_AFTER_S = 0.03, 0.08  # a note that lasts so long on both sides of a beat goes on across it
INSTANT_S = 0.03  # a note that lasts no longer into a beat does not sound in it


def held_notes(notes: np.ndarray, at_s: np.ndarray) -> np.ndarray:
    """Number of notes held across each beat by cell, (beats, 36)."""
    out = np.zeros((at_s.size, N_CELLS))
    for on, off, channel, pitch in notes:
        if channel == 9:
            continue
        inside = (at_s > on + HELD_BEFORE_S) & (at_s < off - HELD_AFTER_S)
        out[inside, 12 * int(np.searchsorted((48, 65), pitch, side="right")) + int(pitch) % 12] += 1
    return out


def sounding_notes(notes: np.ndarray, at_s: np.ndarray) -> np.ndarray:
    """Whether each pitch class sounds from each beat to the next, bool (beats, 12)."""
    out = np.zeros((at_s.size, N_PITCH_CLASSES), dtype=bool)
    ends_s = np.append(at_s[1:], 2 * at_s[-1] - at_s[-2])
    for on, off, channel, pitch in notes:
        if channel != 9:
            out[(on < ends_s - INSTANT_S) & (off > at_s + INSTANT_S), int(pitch) % 12] = True
    return out


def area(true: np.ndarray, found: np.ndarray) -> float:
    """Under the curve: how often one that is true is rated above one that is not."""
    ranks, n = scipy.stats.rankdata(found.ravel()), int(true.sum())
    if n in (0, true.size):
        return float("nan")
    return float((ranks[true.ravel()].sum() - n * (n + 1) / 2) / (n * (true.size - n)))


def judged(path: pathlib.Path) -> tuple[str, float, float, float]:
    """Name, area under the curve over cells, rank correlation over beats, and area over pitch classes."""
    truth = json.loads(path.with_suffix(".json").read_text())
    audio = decode(path)
    intake = take_in(audio.samples, audio.rate)
    spec = spectra(intake.mono, intake.samples_per_mono)
    beats_s, notes = np.array(truth["beats"]), np.array(truth["notes"])
    beat_hops = beats_s * audio.rate / float(spec.samples_per_hop)
    inside = (beats_s > truth["first"]) & (beats_s < truth["end"])
    held, rings = held_notes(notes, beats_s)[inside], ringing(spec.tones, spec.bands, beat_hops)[inside]
    sounds = area(sounding_notes(notes, beats_s)[inside], pitches(spec.tones, spec.bands, beat_hops)[inside])
    rank = float(scipy.stats.spearmanr(held.sum(axis=1), rings.sum(axis=1)).statistic) if held.any() else float("nan")
    return path.stem, area(held > 0, rings), rank, sounds


def main() -> None:
    for folder in sys.argv[1:]:
        with ProcessPoolExecutor(2) as pool:
            rows = list(pool.map(judged, sorted(pathlib.Path(folder).glob("*.flac"))))
        for name, cells, beats, classes in rows:
            print(f"  {name:44s} cells {cells:.3f}  beats {beats:.3f}  pitch classes {classes:.3f}")
        means = np.nanmean([figures for _, *figures in rows], axis=0)
        print("{}: {} recordings, cells {:.3f}, beats {:.3f}, pitch classes {:.3f}".format(folder, len(rows), *means))


if __name__ == "__main__":
    main()
