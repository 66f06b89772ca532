"""How much memory and time a long recording takes: half an hour of a demo track as MP3, heard by the command line.

Usage: memory.py [--minutes M]
"""

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import soundfile as sf

from evenseam.core.audio import decode
from evenseam.demo.load import MUSIC
from evenseam.demo.scores import SCORES

BLOCK = 65_536


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=30)
    minutes = parser.parse_args().minutes
    audio = decode(MUSIC / f"{SCORES[0].slug}.ogg")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "long.mp3")
        with sf.SoundFile(path, "w", audio.rate, audio.samples.shape[0], format="MP3") as file:
            left = round(minutes * 60 * audio.rate)
            while left > 0:
                for start in range(0, min(left, audio.n_samples), BLOCK):
                    file.write(audio.samples[:, start : start + BLOCK].T)
                left -= audio.n_samples
        seconds = sf.info(path).duration
        env = {**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
        began = time.perf_counter()
        command = [sys.executable, "-m", "evenseam.cli", "listen", str(path), "--json"]
        subprocess.run(command, check=True, env=env, stdout=subprocess.DEVNULL)
        spent = time.perf_counter() - began
    peak_mb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(f"{seconds / 60:.0f} minutes of MP3: {spent:.1f} s ({seconds / spent:.0f} x real time), at most {peak_mb:.0f} MB")


if __name__ == "__main__":
    main()
