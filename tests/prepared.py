"""What many tests start from is made once, kept under `.setup` by what it is made from, and shared by all test processes."""

import fcntl
import hashlib
import shutil
from collections.abc import Callable, Iterable
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "evenseam"


def prepared(name: str, made_from: Iterable[Path], make: Callable[[Path], None]) -> Path:
    """A folder that `make` filled, now or before. `made_from`: files and folders of code; when they change it is made anew."""
    place = ROOT / ".setup" / f"{name}-{_digest(made_from)}"
    place.parent.mkdir(exist_ok=True)
    with (place.parent / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if place.is_dir():
            return place
        for old in place.parent.glob(f"{name}-*"):
            shutil.rmtree(old)
        part = place.parent / f"{name}.part"
        shutil.rmtree(part, ignore_errors=True)
        part.mkdir()
        make(part)
        part.rename(place)
    return place


def _digest(made_from: Iterable[Path]) -> str:
    digest = hashlib.sha256()
    for path in made_from:
        files = sorted(f for f in path.rglob("*") if f.suffix in {".py", ".onnx"}) if path.is_dir() else [path]
        for file in files:
            digest.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return digest.hexdigest()[:16]
