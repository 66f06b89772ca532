"""How much memory and time long recordings take: a demo track over and over as MP3, heard and fitted by the command line.

Usage: memory.py [--minutes M ...]
"""

import argparse
import contextlib
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import soundfile as sf

from evenseam.core.audio.decode import decode, open_stream
from evenseam.demo.load import MUSIC
from evenseam.demo.scores import SCORES

BLOCK = 65_536


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, nargs="*", default=[30, 180])
    for minutes in parser.parse_args().minutes:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "long.mp3")
            write_long(path, minutes)
            seconds = sum(block.shape[1] for block in open_stream(path).blocks) / open_stream(path).rate
            for words in (
                ["listen", str(path)],
                ["fit", str(path), "--uncached", "--to", "10:00", "--out", str(Path(folder, "cue.wav"))],
            ):
                spent_s, peak_mb = run(words)
                print(
                    f"{seconds / 60:4.0f} minutes of MP3, {words[0]:6s} {spent_s:6.1f} s "
                    f"({seconds / spent_s:4.0f} x real time), at most {peak_mb:.0f} MB",
                    flush=True,
                )


def write_long(path: Path, minutes: float) -> None:
    """A demo track over and over: frames of MP3 can follow each other as they are."""
    audio = decode(MUSIC / f"{SCORES[0].slug}.ogg")
    with sf.SoundFile(path, "w", audio.rate, audio.samples.shape[0], format="MP3") as file:
        for start in range(0, audio.n_samples, BLOCK):
            file.write(audio.samples[:, start : start + BLOCK].T)
    once = path.read_bytes()
    once = once[once.index(once[:2], 64) :]  # without the first frame, which only says how long the file is
    path.write_bytes(once * round(minutes * 60 * audio.rate / audio.n_samples))


def run(words: list[str]) -> tuple[float, float]:
    """Seconds, and the most memory of the process, without the pages of files that it maps."""
    env = {**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    began = time.perf_counter()
    process = subprocess.Popen([sys.executable, "-m", "evenseam.cli", *words, "--json"], env=env, stdout=subprocess.DEVNULL)
    most_kb = 0
    while process.poll() is None:
        with contextlib.suppress(OSError):
            lines = Path(f"/proc/{process.pid}/status").read_text().splitlines()
            most_kb = max([most_kb, *(int(line.split()[1]) for line in lines if line.startswith("RssAnon"))])
        time.sleep(0.02)
    if process.returncode:
        raise SystemExit(f"it ended with {process.returncode}")
    return time.perf_counter() - began, most_kb / 1024


if __name__ == "__main__":
    main()
