"""Make the training set: pieces to feature files.  Usage: python -m ear.dataset OUT PIECES [--first SEED] [--only KIND]

Needs Debian's fluidsynth, fluid-soundfont-gm, timgm6mb-soundfont, musescore-general-soundfont-small, opl3-soundfont and
espeak-ng, and bench/ear/requirements.txt. Run in bench/ with src/ on the path. Makes OUT/SEED.npz; seeds already made are left.
"""

import argparse
import pathlib
import subprocess
import tempfile
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction

import numpy as np
import scipy.signal
import soundfile

from ear.free import make_beatless
from ear.piece import make_piece
from ear.render import RATE_HZ, Band, hear
from ear.scored import make_scored
from evenseam.core.listen.features.spectra import spectra

BEATLESS_SHARE, SCORED_SHARE = 0.08, 0.37
WORDS = ["open"]
_band: Band | None = None
_speech: list[np.ndarray] = []


def speak(n: int) -> list[np.ndarray]:
    """Made-up sentences in different voices, at the analysis rate."""
    rng, out = np.random.default_rng(7), []
    with tempfile.TemporaryDirectory() as folder:
        for k in range(n):
            path = pathlib.Path(folder, f"{k}.wav")
            text = " ".join(rng.choice(WORDS, int(rng.integers(5, 14))))
            voice = str(
                rng.choice(["en", "en-us", "en-gb-scotland", "en+f3", "en+f4", "en+m3", "en+m7", "de", "fr", "es+f2", "it"])
            )
            subprocess.run(
                [
                    "espeak-ng",
                    "-v",
                    voice,
                    "-s",
                    str(int(rng.integers(120, 190))),
                    "-p",
                    str(int(rng.integers(25, 75))),
                    "-w",
                    path,
                    text,
                ],
                check=True,
            )
            sound, rate = soundfile.read(path, dtype="float32")
            out.append(sound if rate == RATE_HZ else scipy.signal.resample_poly(sound, RATE_HZ, rate).astype(np.float32))
    return out


MAKERS = {"free": make_beatless, "scored": make_scored, "band": make_piece}


def kind_of(share: float) -> str:
    """Which of the kinds a share of 0 to 1 falls to: without a beat, scored for picture, a band's."""
    if share < BEATLESS_SHARE:
        return "free"
    return "scored" if share < BEATLESS_SHARE + SCORED_SHARE else "band"


def make_one(job: tuple[int, str, str | None]) -> float:
    """Make one piece's file, of a kind or of any; returns its length (s)."""
    global _band
    seed, folder, only = job
    path = pathlib.Path(folder, f"{seed}.npz")
    if path.exists():
        return 0.0
    if _band is None:
        _band = Band()
        _speech.extend(speak(40))
    rng = np.random.default_rng([seed, 1])
    piece = MAKERS[only or kind_of(rng.random())](seed)
    heard = hear(piece, _band, rng, _speech)
    spec = spectra(heard.sound, Fraction(1))
    np.savez(
        path,
        bands=spec.bands.astype(np.float16),
        tones=spec.tones.astype(np.float16),
        beats_s=heard.beats_s,
        downbeats_s=heard.downbeats_s,
        lead_s=np.array(heard.lead_s).reshape(-1, 2),
        voice_s=np.array(heard.voice_s).reshape(-1, 2),
        n_beats=0 if not piece.downbeat.size else piece.bars[0].n_beats,
        ternary=piece.compound,
        label=piece.label,
    )
    return heard.sound.size / RATE_HZ


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("pieces", type=int)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--only", choices=list(MAKERS))
    parser.add_argument("--workers", type=int, default=2)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    total = 0.0
    with ProcessPoolExecutor(args.workers) as pool:
        for k, length in enumerate(
            pool.map(
                make_one, ((s, str(args.out), args.only) for s in range(args.first, args.first + args.pieces)), chunksize=4
            )
        ):
            total += length
            if k % 50 == 49:
                print(f"{k + 1} pieces, {total / 3600:.2f} h", flush=True)


if __name__ == "__main__":
    main()
