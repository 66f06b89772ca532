"""How fast films are taken in: python bench/picture.py [FILM ...]; without any, the demo's films and one of 1080 lines."""

import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from evenseam.core.picture import matched_shots, measure, scan
from evenseam.demo.film.cuts import FILM, FILMS, RECUT
from evenseam.demo.load import FILMS_FOLDER

HIGH, WIDE, N_FRAMES = 1080, 1920, 750


def film_of_1080_lines(path: Path) -> Path:
    """Thirty seconds of H.264 with some movement and grain."""
    rng = np.random.default_rng(1)
    grain = rng.integers(0, 24, (HIGH, WIDE + 200), dtype=np.uint8)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=25, options={"preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        for k in range(N_FRAMES):
            image = np.repeat((grain[:, k % 200 : k % 200 + WIDE] + (k // 75) * 20)[..., None], 3, axis=2)
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(image), format="rgb24")
            frame.pts, frame.time_base = k, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def main() -> None:
    """Print a table."""
    with tempfile.TemporaryDirectory() as folder:
        films = [Path(p) for p in sys.argv[1:]]
        if not films:
            films = [FILMS_FOLDER / f"{f.slug}.mp4" for f in FILMS] + [film_of_1080_lines(Path(folder) / "1080.mp4")]
        print(f"{'film':28} {'frames':>7} {'packets s':>10} {'scan fps':>9} {'with copy':>10} {'cuts':>5}")
        for path in films:
            began = time.perf_counter()
            film = measure(path)
            packets_s = time.perf_counter() - began
            began = time.perf_counter()
            seen = scan(path, film, None, lambda _: None)
            scanned = film.length_frames / (time.perf_counter() - began)
            began = time.perf_counter()
            scan(path, film, Path(folder) / "copy.mp4", lambda _: None)
            copied = film.length_frames / (time.perf_counter() - began)
            print(f"{path.name:28} {film.length_frames:7} {packets_s:10.2f} {scanned:9.0f} {copied:10.0f} {len(seen.cuts):5}")
        if len(sys.argv) == 1:
            old, new = (FILMS_FOLDER / f"{f.slug}.mp4" for f in (FILM, RECUT))
            a, b = (scan(p, measure(p), None, lambda _: None).likeness for p in (old, new))
            began = time.perf_counter()
            matched_shots(FILM.sheet.shots, a, RECUT.sheet.shots, b)
            print(f"shots of the recut known again: {time.perf_counter() - began:.2f} s")


if __name__ == "__main__":
    main()
