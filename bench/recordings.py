"""What is heard in real recordings that Debian ships: tempo or free time, how sure, and which sections come again.

Usage: recordings.py OUT   (packages are fetched by name and unpacked under OUT once, not installed; nothing of them ships)
Nobody wrote down their beats, so this shows what there is to listen to by hand, and how many sections and letters there are.
"""

import pathlib
import subprocess
import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from evenseam.core.audio.decode import decode
from evenseam.core.listen import listen

PACKAGES = ("wesnoth-1.16-music", "unknown-horizons", "supertux-data")
SHORTEST_S, LONG_S = 60.0, 240.0


def unpacked(out: pathlib.Path) -> list[pathlib.Path]:
    """The music in the packages, fetched if it is not there."""
    for package in PACKAGES:
        folder = out / package
        if not folder.exists():
            folder.mkdir(parents=True)
            subprocess.run(["apt-get", "download", "-qq", package], cwd=folder, check=True)
            deb = next(folder.glob("*.deb"))
            subprocess.run(["dpkg-deb", "-x", deb, folder / "x"], check=True)
            deb.unlink()
    return sorted(p for p in out.rglob("*.ogg") if "music" in str(p))


def heard(path: pathlib.Path) -> tuple[str, float, bool, int, int] | None:
    """A line to print; length (s), free time or not, sections and letters. None for what is too short."""
    audio = decode(path)
    length_s = audio.n_samples / audio.rate
    if length_s < SHORTEST_S:
        return None
    chart = listen(audio)
    letters = "".join(s.label for s in chart.sections)
    time = (
        "free time      "
        if chart.free_time
        else f"{chart.tempo_bpm:5.1f} {chart.meter[0]}/{chart.meter[1]}, {chart.confidence.bar:.2f}"
    )
    line = f"{path.stem[:40]:40s} {length_s:5.0f} s  {time}  {letters}"
    return line, length_s, chart.free_time, len(letters), len(set(letters))


def main() -> None:
    with ProcessPoolExecutor(2) as pool:
        rows = [r for r in pool.map(heard, unpacked(pathlib.Path(sys.argv[1]))) if r is not None]
    print(*(r[0] for r in rows), sep="\n")
    for what, some in (("all", rows), (f"of {LONG_S:.0f} s and more", [r for r in rows if r[1] >= LONG_S])):
        free, sections, letters = np.mean([[r[2], r[3], r[4]] for r in some], axis=0)
        again = np.mean([r[3] > r[4] for r in some])
        words = f"free time {free:.2f}, {sections:.1f} sections of {letters:.1f} letters, some letter again in {again:.2f}"
        print(f"{what}: {len(some)} recordings, {words}")


if __name__ == "__main__":
    main()
