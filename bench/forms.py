"""Sections against the forms of songs of our own: boundaries within 3 s, and which bars belong together (mir_eval).

    .venv/bin/python bench/forms.py [--first SEED] [--songs N] [--true-bars] [-v]

Seeds below 100000 are for looking at; those above are kept aside. With --true-bars the sections are found in the true bars,
which tells what is wrong with the sections from what is wrong with the bars.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction
from functools import lru_cache, partial

import mir_eval
import numpy as np

from ear.piece import Piece, make_song
from ear.render import RATE_HZ, Band, hear
from evenseam.core.audio.decode import Audio
from evenseam.core.chart.chart import Section
from evenseam.core.listen import listen
from evenseam.core.listen.features.describe import beat_features
from evenseam.core.listen.features.intake import ANALYSIS_RATE_HZ
from evenseam.core.listen.features.spectra import spectra
from evenseam.core.listen.form.sections import parts_of

WINDOW_S = 3.0
_band = lru_cache(maxsize=1)(Band)


def song(seed: int) -> tuple[Piece, np.ndarray]:
    """A song and its sound, mono at 22.05 kHz."""
    piece = make_song(seed)
    return piece, hear(piece, _band(), np.random.default_rng(seed), []).sound


def truth_of(piece: Piece, end_s: float) -> tuple[np.ndarray, list[str]]:
    """Spans (s) and letters; two of a letter in a row are one each, as they begin anew. The intro is a letter of its own."""
    starts = [float(piece.beat_s[round(piece.bars[first].start)]) for _, first, _ in piece.sections]
    return np.array([starts, [*starts[1:], end_s]]).T, [letter for letter, _, _ in piece.sections]


def heard_in(piece: Piece, sound: np.ndarray, true_bars: bool) -> tuple[np.ndarray, list[str]]:
    """Spans (s) and letters as they are heard."""
    if not true_bars:
        chart = listen(Audio(sound[None], RATE_HZ))
        return _spans(chart.sections, chart.rate)
    assert RATE_HZ == ANALYSIS_RATE_HZ
    spec = spectra(sound.astype(np.float32), Fraction(1))
    n = piece.downbeat.size
    beats = np.rint(piece.beat_s[:n] * RATE_HZ).astype(np.int64)
    place = np.concatenate([np.arange(b.n_beats) for b in piece.bars])[:n]
    features = beat_features(spec.bands, spec.chroma, spec.tones, beats / float(spec.samples_per_hop))
    return _spans(parts_of(features, beats, place, piece.bars[0].n_beats, sound.size)[0], RATE_HZ)


def _spans(sections: tuple[Section, ...], rate: int) -> tuple[np.ndarray, list[str]]:
    return np.array([[s.start_samples / rate, s.end_samples / rate] for s in sections]), [s.label for s in sections]


def judge(truth: tuple[np.ndarray, list[str]], heard: tuple[np.ndarray, list[str]]) -> tuple[float, float]:
    """F of boundaries within 3 s, and of pairs of moments that have one letter."""
    start = truth[0][0, 0]
    spans, letters = truth[0] - start, truth[1]
    found, labels = mir_eval.util.adjust_intervals(heard[0] - start, heard[1], t_min=0.0, t_max=float(spans[-1, 1]))
    boundary = mir_eval.segment.detection(spans, found, window=WINDOW_S, trim=True)[2]
    return boundary, mir_eval.segment.pairwise(spans, letters, found, labels)[2]


def judged(seed: int, true_bars: bool) -> tuple[str, tuple[float, float], list[str], int]:
    """A song's label, both figures, the letters that were heard, and how many sections there are."""
    piece, sound = song(seed)
    truth, heard = truth_of(piece, sound.size / RATE_HZ), heard_in(piece, sound, true_bars)
    return piece.label, judge(truth, heard), heard[1], len(truth[1])


def main() -> None:
    """Print both figures, song by song if wanted, and their means."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--songs", type=int, default=24)
    parser.add_argument("--true-bars", action="store_true")
    parser.add_argument("-v", action="store_true")
    wanted = parser.parse_args()
    rows, counts = [], []
    seeds = range(wanted.first, wanted.first + wanted.songs)
    with ProcessPoolExecutor(2) as pool:
        for seed, (label, figures, letters, n_true) in zip(
            seeds, pool.map(partial(judged, true_bars=wanted.true_bars), seeds), strict=True
        ):
            rows.append(figures)
            counts.append((len(letters), len(set(letters)), n_true))
            if wanted.v:
                print(f"{seed:6} {label:14} boundaries {figures[0]:.2f} pairs {figures[1]:.2f}  {' '.join(letters)}")
    boundary, pairs = np.mean(rows, axis=0)
    found, letters, true = np.mean(counts, axis=0)
    print(f"boundaries {boundary:.3f}  pairs {pairs:.3f}  sections {found:.1f} of {letters:.1f} letters (true: {true:.1f})")


if __name__ == "__main__":
    main()
