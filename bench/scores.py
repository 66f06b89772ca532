"""More recordings with known beats: free scores that Debian ships, rendered as the practice set is.

Usage: scores.py OUT TOOLS   (TOOLS the folder of the practice tools; needs what they need, and apt)
Packages are fetched by name and unpacked, not installed; nothing of them ships. Two thirds go to OUT/looked, to be looked
at while tuning; the last third, by the digest of its notes, goes to OUT/aside, and only its figures are read.
"""

import argparse
import hashlib
import pathlib
import struct
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor

PACKAGES = (
    "crimson",
    "freedink-data",
    "freedoom",
    "kobodeluxe-data",
    "liquidwar-data",
    "mma",
    "pangzero",
    "pianobooster",
    "planetblupi-music-midi",
    "simutrans-data",
    "songwrite",
)
MOST_OF_ONE = 40  # scores by few hands must not stand for all music


def scores(folder: pathlib.Path) -> Iterator[tuple[str, bytes]]:
    """(name, MIDI bytes) of every score under a folder: files, and the music that archives of games hold."""
    for path in sorted(folder.rglob("*")):
        if path.suffix.lower() in (".mid", ".midi"):
            yield path.stem, path.read_bytes()
        elif path.suffix.lower() == ".wad":
            yield from _lumps(path.read_bytes())


def _lumps(archive: bytes) -> Iterator[tuple[str, bytes]]:
    """The scores in an archive of named lumps."""
    n, at = struct.unpack_from("<ii", archive, 4)
    for k in range(n):
        first, size, name = struct.unpack_from("<ii8s", archive, at + 16 * k)
        if archive[first : first + 4] == b"MThd":
            yield name.rstrip(b"\0").decode("ascii", "replace").lower(), archive[first : first + size]


def _render(job: tuple[str, str, bytes, str]) -> None:
    tools, name, data, out = job
    sys.path.insert(0, tools)
    from midi_truth import build

    build([(name, data)], out)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("tools", type=pathlib.Path)
    args = parser.parse_args()
    jobs, seen = [], set()
    with tempfile.TemporaryDirectory() as unpacked:
        for package in PACKAGES:
            folder = pathlib.Path(unpacked, package)
            folder.mkdir()
            subprocess.run(["apt-get", "download", "-qq", package], cwd=folder, check=True)
            subprocess.run(["dpkg-deb", "-x", next(folder.glob("*.deb")), folder / "x"], check=True)
            found = {hashlib.sha256(data).hexdigest(): (name, data) for name, data in scores(folder / "x")}
            for digest in sorted(set(found) - seen)[:MOST_OF_ONE]:
                name, data = found[digest]
                part = "aside" if int(digest, 16) % 3 == 0 else "looked"
                jobs.append((str(args.tools), f"{package}.{name}".replace(" ", "_"), data, str(args.out / part)))
            seen |= set(found)
        with ProcessPoolExecutor(2) as pool:
            list(pool.map(_render, jobs))


if __name__ == "__main__":
    main()
